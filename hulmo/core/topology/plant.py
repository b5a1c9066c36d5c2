"""A new vertex on a face."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.split_edges import split_edges

ON_EDGE = 0.06
"""Share of the corner across under which a place lies on an edge."""


def plant(
    vertices: VertexTable, corners: CornerTable, slot: int, share: NDArray[np.float64], on_edge: float = ON_EDGE
) -> tuple[VertexTable, CornerTable, int]:
    """Put a vertex on a face, or on its edge where it is near one; the shape stays.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    slot : int
    share : (3,) float64
        Shares of its corners, which sum to 1.
    on_edge : float
        Share of a corner under which the place counts as on the edge across from it.

    Returns
    -------
    tuple
        Both tables, and the new row, which is the last.
    """
    across = int(share.argmin())
    if share[across] < on_edge:
        return _on_edge(vertices, corners, slot, across, share)
    table = vertices.copy()
    row = int(table.allocate(1)[0])
    a, b, c = corners.triangles[slot].tolist()
    for name in table.names:
        table[name][row] = sum(np.float32(share[k]) * table[name][r] for k, r in enumerate((a, b, c)))
    parent = np.concatenate((np.arange(corners.count), [slot, slot]))
    whole = np.broadcast_to(np.eye(3), (corners.count, 3, 3)).copy()
    along = np.broadcast_to(np.arange(3), (corners.count, 3)).copy()
    triangles = np.concatenate((corners.triangles, [[b, c, row], [c, a, row]])).astype(np.int32)
    triangles[slot] = (a, b, row)
    one = np.eye(3)
    whole[slot], along[slot] = (one[0], one[1], share), (-1, -1, 2)
    shares = np.concatenate((whole, [(one[1], one[2], share), (one[2], one[0], share)]))
    edges = np.concatenate((along, [(-1, -1, 0), (-1, -1, 1)]))
    return table, CornerTable.from_triangles(triangles, table.count, corners.slots.made(parent, shares, edges)), row


def _on_edge(
    vertices: VertexTable, corners: CornerTable, slot: int, across: int, share: NDArray[np.float64]
) -> tuple[VertexTable, CornerTable, int]:
    at = 3 * slot + across
    other = int(corners.opposite[at])
    edges = np.zeros((corners.count, 3), np.bool_)
    edges.reshape(-1)[[at, *([other] if other >= 0 else [])]] = True
    ahead, behind = (across + 1) % 3, (across + 2) % 3
    a, b = corners.triangles[slot, ahead], corners.triangles[slot, behind]
    part = share[behind] / max(share[ahead] + share[behind], 1e-12)
    where = np.full(edges.shape, part if a < b else 1 - part)
    table, made, _ = split_edges(vertices, corners, edges, where)
    return table, made, table.count - 1
