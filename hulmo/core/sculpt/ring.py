"""The brush ring: how far a brush reaches over the surface."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body

Vector = NDArray[np.float64]

CALM = 6
"""Times that the ring is drawn toward the mean of its neighbours."""

DRAWN = 2
"""How often a rim over several bodies is drawn to their surfaces, each time at its radius again."""

STEPS = 6
"""Steps of a walk from the middle of a brush to its rim, on level ground."""


def draped_ring(
    body: Body, centre: Vector, normal: Vector, radius: float, count: int = 56, steps: int = STEPS
) -> NDArray[np.float64]:
    """Rim of a brush on the surface: a circle that follows the ground.

    Parameters
    ----------
    body : Body
    centre, normal : (3,) float64
        Surface point in metres and its unit normal.
    radius : float
        Metres.
    count : int
    steps : int
        Steps of each walk from the middle to the rim, on level ground.

    Returns
    -------
    (count, 3) float64
        Metres; `radius` away from the centre, or where the surface ends.
    """
    across, along = _square_to(normal)
    centre = body.own(centre)
    corners = body.corners
    rim = body.index.ring(corners.vertex, body.vertices["position"], centre, across, along, radius, count, steps)
    _calm(rim, centre, CALM)
    return np.asarray(body.placed(rim))


@kernel("void(float64[:,::1], float64[::1], int64)")
def _calm(rim: NDArray[np.float64], centre: Vector, times: int) -> None:
    # on rugged ground neighbouring walks end apart; means with both neighbours keep the ring readable
    count = rim.shape[0]
    now, then = np.empty((count, 4)), np.empty((count, 4))
    for i in range(count):
        for axis in range(3):
            now[i, axis] = rim[i, axis] - centre[axis]
        now[i, 3] = np.sqrt(now[i, 0] ** 2 + now[i, 1] ** 2 + now[i, 2] ** 2)
    for _ in range(times):
        for i in range(count):
            before, after = (i - 1) % count, (i + 1) % count
            for k in range(4):
                then[i, k] = (now[before, k] + 2.0 * now[i, k] + now[after, k]) / 4.0
        now, then = then, now
    for i in range(count):
        length = max(np.sqrt(now[i, 0] ** 2 + now[i, 1] ** 2 + now[i, 2] ** 2), 1e-12)
        for axis in range(3):
            rim[i, axis] = centre[axis] + now[i, axis] * (now[i, 3] / length)


def draped_over(bodies: Sequence[Body], centre: Vector, normal: Vector, radius: float, count: int) -> Vector:
    """Rim of a brush over several bodies: a circle about a normal, drawn to whichever of their surfaces is nearest.

    Returns
    -------
    (count, 3) float64
        Metres; `radius` away from the centre.
    """
    across, along = _square_to(normal)
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)[:, None]
    rim = centre + radius * (np.cos(turn) * across + np.sin(turn) * along)
    for _ in range(DRAWN):
        nearest, best = rim.copy(), np.full(count, np.inf)
        for body in bodies:
            corners, position = body.corners, body.vertices["position"]
            own = np.ascontiguousarray(body.own(rim), np.float32)
            triangle, weight = body.index.nearest_many(corners.vertex, position, own)
            there = body.placed(
                np.einsum("ki,kij->kj", weight, position[corners.triangles[triangle]].astype(np.float64))
            )
            away = np.linalg.norm(there - rim, axis=1)
            nearest[away < best], best = there[away < best], np.minimum(best, away)
        way = nearest - centre
        rim = centre + way * (radius / np.maximum(np.linalg.norm(way, axis=1), 1e-12))[:, None]
    return np.asarray(rim)


def _square_to(normal: Vector) -> tuple[Vector, Vector]:
    aside = np.array([1.0, 0.0, 0.0]) if abs(normal[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    across = np.cross(normal, aside)
    across /= np.linalg.norm(across)
    return across, np.cross(normal, across)


def lie_around(body: Body, triangle: int, centre: Vector, normal: Vector, radius: float) -> Vector:
    """(3,) unit normal of the surface within half a radius as a whole, which small relief does not sway."""
    region = body.grow_region(triangle, body.own(centre), 0.5 * radius)
    mean = np.take(body.vertices["normal"], region.inside, axis=0).sum(axis=0, dtype=np.float64)
    length = float(np.linalg.norm(mean))
    return mean / length if length > 0.3 * max(1, region.inside.size) else normal
