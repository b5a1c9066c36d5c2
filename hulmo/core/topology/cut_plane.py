"""Edges along a plane through the whole of a mesh."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner
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
    edges, share = np.zeros((corners.count, 3), np.bool_), np.full((corners.count, 3), 0.5)
    _crossed(corners.vertex, height, edges.reshape(-1), share.reshape(-1))
    before = vertices.count
    table, result, _ = split_edges(vertices, corners, edges, share)
    return table, result, table.count - before


@kernel("void(int32[::1], float64[::1], boolean[::1], float64[::1])")
def _crossed(
    vertex: NDArray[np.int32], height: NDArray[np.float64], edges: NDArray[np.bool_], share: NDArray[np.float64]
) -> None:
    # edges whose ends lie on both sides, neither of them very near, and where, from the end of the lower number
    for corner in range(vertex.size):
        tail, tip = vertex[next_corner(corner)], vertex[previous_corner(corner)]
        low, high = height[min(tail, tip)], height[max(tail, tip)]
        if low * high < 0 and not min(abs(low), abs(high)) < CLOSE * abs(low - high):
            edges[corner] = True
            share[corner] = low / (low - high)
