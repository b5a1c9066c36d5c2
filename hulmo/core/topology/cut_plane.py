"""Edges along a plane through the whole of a mesh."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.split_edges import split_edges

CLOSE = 1e-3
"""Share of an edge within which a vertex counts as on the plane."""


def cut_plane(
    vertices: VertexTable, corners: CornerTable, normal: NDArray[np.float64], away: float
) -> tuple[VertexTable, CornerTable, int]:
    """Put edges where a plane meets the mesh; the shape stays as it is.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    normal : (3,) float64
        Of length 1.
    away : float
        Metres of the plane from the origin of the body, along the normal.

    Returns
    -------
    tuple
        Both tables, and how many vertices are new. Vertices very near the plane are not split beside; they stay where they
        are, and the cut runs through them.
    """
    height = vertices["position"].astype(np.float64) @ normal - away
    triangles = corners.triangles
    tail, tip = triangles[:, (1, 2, 0)], triangles[:, (2, 0, 1)]
    step = np.abs(height[tail] - height[tip])
    near = np.minimum(np.abs(height[tail]), np.abs(height[tip])) < CLOSE * step
    edges = (height[tail] * height[tip] < 0) & ~near
    low, high = np.minimum(tail, tip), np.maximum(tail, tip)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = height[low] / (height[low] - height[high])
    before = vertices.count
    table, result, _ = split_edges(vertices, corners, edges, np.where(edges, share, 0.5))
    return table, result, table.count - before
