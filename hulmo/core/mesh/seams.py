"""Lines of edges that remeshing keeps: where something is known of an edge, or what is known of faces differs across it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.slot_table import LOOSE

Mask = NDArray[np.bool_]

STRAIGHT = 0.2
"""Radians that a seam may bend where it counts as straight."""


def seams(corners: CornerTable) -> Mask:
    """(M, 3) which edges are seams, by the corner across, the same from both sides."""
    known = np.zeros((corners.count, 3), np.bool_)
    for name in corners.slots.names("edge"):
        if not name.startswith(LOOSE):
            known |= (corners.slots[name] != 0).any(axis=2)
    across = corners.opposite.reshape(-1, 3)
    inner, other = across >= 0, np.maximum(across, 0) // 3
    for name in corners.slots.names("face"):
        if not name.startswith(LOOSE):
            value = corners.slots[name][:, 0]
            known |= (value[other] != value[:, None]).any(axis=2) & inner
    for name in corners.slots.names("corner"):
        value = corners.slots[name]
        at = np.maximum(across, 0) % 3
        for mine, theirs in ((1, 2), (2, 1)):
            own = np.stack([value[:, (k + mine) % 3] for k in range(3)], axis=1)
            beyond = value[other, (at + theirs) % 3]
            known |= (np.abs(own - beyond) > 1e-6).any(axis=2) & inner
    return known


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
    slot, corner = np.nonzero(marked)
    a, b = corners.triangles[slot, (corner + 1) % 3], corners.triangles[slot, (corner + 2) % 3]
    low, high = np.minimum(a, b).astype(np.int64), np.maximum(a, b).astype(np.int64)
    key = np.unique(low * count + high)
    low, high = key // count, key % count
    number = np.bincount(np.concatenate((low, high)), minlength=count)
    way = position[high].astype(np.float64) - position[low]
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-30)
    total = np.zeros((count, 3))
    np.add.at(total, low, way)
    np.add.at(total, high, -way)
    return number > 0, (number == 2) & (np.linalg.norm(total, axis=1) < STRAIGHT)
