"""Edges to divide so that no thin triangle comes of it (Rivara 1984)."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.vertex_table import VertexTable

Mask = NDArray[np.bool_]

HELD = "held rim"
"""Edge column: 1 where an edge is not to be divided, as at the rim of a piece that was taken out."""


def longest_edges(vertices: VertexTable, corners: CornerTable, faces: Mask) -> Mask:
    """(M, 3) the longest edges of some faces, and of all that would be divided at another edge otherwise.

    Edges with a value in the column `HELD` are left out.
    """
    size = side_lengths(vertices["position"], corners.triangles)  # from the third corner to the first, ...
    length = np.stack((size[:, 2], size[:, 0], size[:, 1]), axis=1)  # by the corner across
    longest = length.argmax(axis=1)
    held = corners.slots.get(HELD)
    if held is not None:
        length = np.where(held[:, :, 0] > 0, -length, length)
        longest = length.argmax(axis=1)
    across = corners.opposite.reshape(-1, 3)
    edges = np.zeros(across.shape, np.bool_)
    able = length.max(axis=1) > 0
    wanted = faces & able
    while wanted.any():
        which = np.flatnonzero(wanted)
        edges[which, longest[which]] = True
        other = across[which, longest[which]]
        other = other[other >= 0]
        edges.reshape(-1)[other] = True
        slot = other // 3
        wanted = np.zeros_like(wanted)
        wanted[slot[~edges[slot, longest[slot]]]] = True
        wanted &= able
    return edges
