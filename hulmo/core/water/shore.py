"""Where a water ends, and how far that is."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable

Places = NDArray[np.float64]

NEAREST = 6
"""Pieces of shore, nearest by their middles, among which the nearest one is looked for."""


def shore_edges(corners: CornerTable, water: NDArray[np.bool_]) -> NDArray[np.int32]:
    """(K, 2) ends of the edges between triangles that are water and such that are not."""
    across = corners.opposite.reshape(-1, 3)
    slot, corner = np.nonzero(water[:, None] & (across >= 0))
    land = ~water[across[slot, corner] // 3]
    slot, corner = slot[land], corner[land]
    triangles = corners.triangles
    return np.stack((triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]), axis=1)


def shore_distance(places: Places, shore: Places, none: float) -> Places:
    """Metres from places to the nearest piece of shore.

    Parameters
    ----------
    places : (N, 3) float64
    shore : (K, 2, 3) float64
        Ends of its pieces.
    none : float
        What is said where there is no shore.
    """
    from scipy.spatial import cKDTree

    if not shore.shape[0]:
        return np.full(places.shape[0], none)
    tree = cKDTree(shore.mean(axis=1))
    _, near = tree.query(places, k=min(NEAREST, shore.shape[0]))
    near = near.reshape(places.shape[0], -1)
    out = np.full(places.shape[0], np.inf)
    for which in near.T:
        a, along = shore[which, 0], shore[which, 1] - shore[which, 0]
        length = np.maximum((along * along).sum(axis=1), 1e-300)
        share = np.clip(((places - a) * along).sum(axis=1) / length, 0.0, 1.0)
        out = np.minimum(out, np.linalg.norm(a + share[:, None] * along - places, axis=1))
    return out
