"""Lines of edges that remeshing keeps: where something is known of an edge, or what is known of faces differs across it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable

Mask = NDArray[np.bool_]
Values = NDArray[np.float32]

STRAIGHT = 0.2
"""Radians that a seam may bend where it counts as straight."""


def seams(corners: CornerTable) -> Mask:
    """(M, 3) which edges are seams, by the corner across, the same from both sides."""
    known = np.zeros((corners.count, 3), np.bool_)
    slots = corners.slots
    face, corner, edge = (block[: corners.count] for block in slots.blocks())
    _seams(
        corners.opposite, face, corner, edge, slots.holding("face"), slots.holding("corner"), slots.holding("edge"), known
    )  # fmt: skip
    return known


@kernel("void(int32[::1], float32[:,:,::1], float32[:,:,::1], float32[:,:,::1], int64, int64, int64, boolean[:,::1])")
def _seams(
    opposite: NDArray[np.int32], face: Values, corner: Values, edge: Values, faces: int, corner_values: int, edges: int,
    known: Mask,
) -> None:  # fmt: skip
    for t in range(known.shape[0]):
        for k in range(3):
            found = False
            for w in range(edges):
                found = found or edge[t, k, w] != 0
            across = opposite[3 * t + k]
            if not found and across >= 0:
                other, at = across // 3, across % 3
                for w in range(faces):
                    found = found or face[other, 0, w] != face[t, 0, w]
                for w in range(corner_values):
                    for step in range(1, 3):
                        off = corner[t, (k + step) % 3, w] - corner[other, (at + 3 - step) % 3, w]
                        found = found or abs(off) > 1e-6
            known[t, k] = found


def on_seams(corners: CornerTable, position: NDArray[np.float32], marked: Mask) -> tuple[Mask, Mask]:
    """Vertices on seams, and those through which one goes on straight.

    Parameters
    ----------
    marked : (M, 3) bool
        As of `seams`.

    Returns
    -------
    tuple
        (N,) and (N,) bool.
    """
    count = position.shape[0]
    number, total = np.zeros(count, np.int32), np.zeros((count, 3))
    _ways(corners.vertex, corners.opposite, np.ascontiguousarray(position, np.float64), marked, number, total)
    return number > 0, (number == 2) & (np.linalg.norm(total, axis=1) < STRAIGHT)


@kernel("void(int32[::1], int32[::1], float64[:,::1], boolean[:,::1], int32[::1], float64[:,::1])")
def _ways(
    vertex: NDArray[np.int32], opposite: NDArray[np.int32], position: NDArray[np.float64], marked: Mask,
    number: NDArray[np.int32], total: NDArray[np.float64],
) -> None:  # fmt: skip
    # how many seams come to each vertex, and the sum of the unit ways along them
    way = np.empty(3)
    for t in range(marked.shape[0]):
        for k in range(3):
            at = 3 * t + k
            if not marked[t, k] or opposite[at] > at:
                continue
            a, b = vertex[3 * t + (k + 1) % 3], vertex[3 * t + (k + 2) % 3]
            size = 0.0
            for axis in range(3):
                way[axis] = position[b, axis] - position[a, axis]
                size += way[axis] * way[axis]
            size = max(np.sqrt(size), 1e-30)
            number[a] += 1
            number[b] += 1
            for axis in range(3):
                total[a, axis] += way[axis] / size
                total[b, axis] -= way[axis] / size
