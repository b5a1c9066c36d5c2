"""Normals that bodies share where their borders are stitched."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.attribute import Attribute
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import on_border
from hulmo.core.mesh.vertex_table import VertexTable

Rows = NDArray[np.int32]
Points = NDArray[np.float32]

STITCHED = "stitched"
"""Vertex column (width 3): the unit normal that a vertex of a border has together with its neighbours' vertices in the same
place; zeros where it is not stitched. What remeshing leaves between counts on the border alone."""

HALF = 0.5
"""Length from which on a blend of shared normals is one."""

ATTRIBUTE = Attribute(STITCHED, 3, -2.0, 2.0)


def stitched_rows(vertices: VertexTable, corners: CornerTable, rows: Rows) -> Rows:
    """Those of some rows that are stitched."""
    shared = vertices.get(STITCHED)
    if shared is None:
        return rows[:0]
    part = np.take(shared, rows, axis=0)
    rows = rows[np.einsum("ki,ki->k", part, part) > HALF * HALF]
    return np.asarray(rows[on_border(corners.opposite, corners.first_corner, rows)]) if rows.size else rows


def take_stitched(vertices: VertexTable, corners: CornerTable, rows: Rows, normal: Points) -> None:
    """Write the shared normals over those of a body by itself.

    Parameters
    ----------
    rows : (K,) int32
        Whose normals were just written.
    normal : (N, 3) float32
    """
    rows = stitched_rows(vertices, corners, rows)
    if rows.size:
        normal[rows] = vertices[STITCHED][rows]
