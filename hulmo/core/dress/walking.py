"""Walking over bodies as a person does: at eye height, not through walls, up steps and slopes that can be climbed."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]

Hit = tuple[float, Vector]
"""Metres to a surface, and its normal there."""

Ray = Callable[[Vector, Vector, float], Hit | None]
"""What a ray from a place along a unit vector meets first within some metres."""

UP = np.array([0.0, 1.0, 0.0])

EYES = 1.65
"""Metres from the ground to the eyes."""

STEP = 0.45
"""Metres of a step that can be climbed at once, and that can be gone down."""

STEEPEST = 48.0
"""Degrees of a slope that can be climbed."""

WIDE = 0.3
"""Metres that a person keeps from a wall."""

DEEPEST = 2.5
"""Metres of a drop that one lets oneself down."""

HEIGHTS = (0.35, 0.7)
"""Shares of the height of the eyes at which walls are felt."""

PACE = 0.15
"""Metres of one step of the reckoning."""


@dataclass(frozen=True)
class Walker:
    """Where somebody stands.

    Attributes
    ----------
    feet : (3,) float64
        Metres.
    eyes : float
        Metres from the feet to the eyes.
    """

    feet: Vector
    eyes: float = EYES

    @property
    def eye(self) -> Vector:
        """(3,) where the eyes are."""
        return self.feet + UP * self.eyes


def stand(rays: Sequence[Ray], place: Vector, eyes: float = EYES) -> Walker | None:
    """Somebody who stands at a place of the surface; None where there is no room for the head."""
    feet = np.array(place, np.float64)
    for ray in rays:
        if ray(feet + 0.1 * UP, UP, eyes) is not None:
            return None
    return Walker(feet, eyes)


def walked(rays: Sequence[Ray], walker: Walker, way: Vector, length: float) -> Walker:
    """Somebody after some metres in a level direction; they stop before walls, cliffs and slopes that are too steep.

    Parameters
    ----------
    rays : sequence of Ray
        One for each body that is shown.
    way : (3,) float64
        Of any length; only its level part counts.
    length : float
        Metres along the ground.
    """
    level = np.array([way[0], 0.0, way[2]])
    size = float(np.linalg.norm(level))
    if not size > 0 or not length > 0:
        return walker
    level /= size
    while length > 1e-9:
        step = min(length, PACE)
        after = _paced(rays, walker, level, step)
        if after is None:
            after = _along_wall(rays, walker, level, step)
        if after is None:
            return walker
        gone = float(np.linalg.norm(after.feet - walker.feet))
        walker = after
        length -= max(step, gone)
    return walker


def _paced(rays: Sequence[Ray], walker: Walker, level: Vector, step: float) -> Walker | None:
    # one short step; None where something is in the way
    for share in HEIGHTS:
        start = walker.feet + UP * (share * walker.eyes)
        if any(ray(start, level, step + WIDE) is not None for ray in rays):
            return None
    above = walker.feet + level * step + UP * walker.eyes
    found = [hit for ray in rays for hit in (ray(above, -UP, walker.eyes + DEEPEST),) if hit]
    if not found:
        return None  # nothing to stand on
    away, normal = min(found, key=lambda hit: hit[0])
    rise = walker.eyes - away
    if rise > STEP or _slope(normal) > STEEPEST < math.degrees(math.atan2(rise, step)):
        return None
    feet = walker.feet + level * step
    feet[1] += rise
    head = stand(rays, feet, walker.eyes)
    if head is None:
        return None
    # a level way of `step` is longer on a slope: what was gone counts along the ground
    share = step / max(math.hypot(step, rise), 1e-9) if abs(rise) < STEP else 1.0
    if share > 0.999:
        return replace(walker, feet=feet)
    feet = walker.feet + level * (step * share)
    feet[1] = walker.feet[1] + rise * share
    return replace(walker, feet=feet)


def _along_wall(rays: Sequence[Ray], walker: Walker, level: Vector, step: float) -> Walker | None:
    # what is left of the way beside a wall
    start = walker.feet + UP * (HEIGHTS[1] * walker.eyes)
    found = [hit for ray in rays for hit in (ray(start, level, step + WIDE),) if hit]
    if not found:
        return None
    _, normal = min(found, key=lambda hit: hit[0])
    out = np.array([normal[0], 0.0, normal[2]])
    size = float(np.linalg.norm(out))
    if size < 1e-6:
        return None
    out /= size
    beside = level - out * min(float(level @ out), 0.0)
    size = float(np.linalg.norm(beside))
    return _paced(rays, walker, beside / size, step * size) if size > 0.2 else None


def _slope(normal: Vector) -> float:
    return math.degrees(math.acos(max(-1.0, min(1.0, abs(float(normal[1]))))))
