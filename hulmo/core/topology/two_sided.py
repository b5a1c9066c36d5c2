"""How far two surfaces lie apart at the most, from both sides."""

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.furthest import furthest

TIGHT = 0.1
"""Share of the distance by which the bound may lie above what was found."""


def two_sided(one: Body, other: Body) -> float:
    """Metres: no point of either surface lies further from the other surface; their Hausdorff distance, or a little more.

    Both bodies lie about the same origin. For the method see `furthest`.
    """
    found, bound = _one_sided(one, other, 0.0)
    return max(bound, _one_sided(other, one, found)[1])


def _one_sided(mine: Body, other: Body, known: float) -> tuple[float, float]:
    position, triangles = mine.vertices["position"], mine.corners.live_triangles()
    corners, there = other.corners, other.vertices["position"]
    return furthest(position, triangles, other.index, corners.vertex, corners.opposite, there, TIGHT, known)
