"""How deep vertices of a body lie under the waters that stand on it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.flood import flood

Figures = NDArray[np.float64]

DRY = -1e6
"""Metres that stand for no water at all."""


def depth_under(body: Body, water: int) -> Figures:
    """(N,) metres below the water of a body, or of the deepest where several stand there; below 0 above it.

    Parameters
    ----------
    water : int
        Its number; 0: any.

    Notes
    -----
    What lies lower than a pond, but in another hollow, is dry.
    """
    height = body.heights(body.vertices["position"])
    out = np.full(height.size, DRY)
    for level in body.waters:
        if water and level.ident != water:
            continue
        below = level.level - height
        if level.seed is not None:
            near = body.nearest(np.array(level.seed))
            if near is None:
                continue
            seed = int(body.corners.triangles[near.triangle][int(np.argmax(near.weights))])
            covered = np.zeros(height.size, np.bool_)
            covered[flood(body, seed, level.level).rows] = True
            below = np.where(covered | (below < 0), below, DRY)
        out = np.maximum(out, below)
    return out
