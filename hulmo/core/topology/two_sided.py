"""How far two surfaces lie apart at the most, from both sides."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.furthest import furthest

Places = NDArray[np.float64]

TIGHT = 0.1
"""Share of the distance by which the bound may lie above what was found."""

ROUNDS, MOST = 6, 4_000_000
"""Times that pieces are divided at the most, and pieces looked at at a time."""


def two_sided(one: Body, other: Body) -> float:
    """Metres: no point of either surface lies further from the other surface; their Hausdorff distance, or a little more.

    Both bodies lie about the same origin.

    Notes
    -----
    Branch and bound, as in Tang, Lee and Kim, "Interactive Hausdorff distance computation for general polygonal models"
    (SIGGRAPH 2009): the distance from a surface changes by no more than one moves, so that no point of a triangle is
    further from it than the triangle's middle by more than its radius, nor further than its corners are from any one
    triangle of the other surface. Triangles that might hold the furthest point are divided in four until the bound is tight.
    """
    return max(_one_sided(one, other), _one_sided(other, one))


def _one_sided(mine: Body, other: Body) -> float:
    corner = mine.vertices["position"][mine.corners.live_triangles()].astype(np.float64)
    rows = np.unique(mine.corners.live_triangles())
    found = float(_away(mine.vertices["position"][rows].astype(np.float64), other)[0].max(initial=0.0))
    bound = found
    slack = 1e-6 * float(np.abs(corner).max(initial=0.0))
    for _ in range(ROUNDS):
        middle = corner.mean(axis=1)
        radius = np.linalg.norm(corner - middle[:, None], axis=2).max(axis=1)
        away, nearest = _away(middle, other)
        found = max(found, float(away.max(initial=0.0)))
        upper = away + radius
        enough = found * (1.0 + TIGHT) + slack
        loose = np.flatnonzero(upper > enough)
        upper[loose] = np.minimum(upper[loose], furthest(corner[loose], nearest[loose]))
        loose = loose[upper[loose] > enough]
        bound = max(enough, float(upper[loose].max(initial=0.0)))
        corner = corner[loose]
        if not corner.size or corner.shape[0] * 4 > MOST:
            break
        a, b, c = corner[:, 0], corner[:, 1], corner[:, 2]
        ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
        corner = np.concatenate(
            [np.stack(part, axis=1) for part in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))]
        )
    return bound


def _away(points: Places, other: Body) -> tuple[NDArray[np.float64], Places]:
    # (K,) how far, and (K, 3, 3) the nearest triangles
    position, triangles = other.vertices["position"], other.corners.triangles
    slot, share = other.index.nearest_many(other.corners.vertex, position, points.astype(np.float32))
    corner = position[triangles[slot]].astype(np.float64)
    on = np.einsum("ki,kij->kj", share.astype(np.float64), corner)
    return np.asarray(np.linalg.norm(on - points, axis=1)), corner
