"""From pointer samples to dab centres: evenly spaced along the surface."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint

Vector = NDArray[np.float64]

MOST_DABS = 50_000
"""Dabs that one step of the pointer can make."""

Find = Callable[["Sample"], SurfacePoint | None]
"""Where a sample meets the surface that a stroke goes along."""

LIGHTEST = 0.05
"""Share of the radius that no pressure goes below."""


@dataclass(frozen=True)
class Sample:
    """One pointer sample: a ray, or a point on the surface when `direction` is None.

    Attributes
    ----------
    origin : (3,) float64
        Start of the ray, or the point; metres.
    direction : (3,) float64 or None
    pressure : float
        0 to 1.
    lean : float
        Degrees that a pen leans: 0 upright, 90 flat.
    """

    origin: Vector
    direction: Vector | None
    pressure: float
    lean: float = 0.0

    @classmethod
    def from_numbers(cls, numbers: "tuple[float, ...] | list[float]", where: str) -> "Sample":
        """Read 3 numbers (a point) or 6 (a ray), then, where there is a pen, its pressure, then its lean in degrees.

        Raises
        ------
        InvalidInput
            Another count of numbers, a number that is not finite, a pressure outside 0 to 1, or a lean outside 0 to 90.
        """
        values = np.array(numbers, np.float64)
        if values.ndim != 1 or values.size not in (3, 4, 5, 6, 7, 8):
            raise InvalidInput(f"{where}: a sample has 3 to 8 numbers, not {values.size}")
        if not np.all(np.isfinite(values)):
            raise InvalidInput(f"{where}: a sample holds a number that is not finite")
        ray = values.size >= 6
        pen = values[6 if ray else 3 :]
        pressure = float(pen[0]) if pen.size else 1.0
        lean = float(pen[1]) if pen.size > 1 else 0.0
        if not 0.0 <= lean <= 90.0:
            raise InvalidInput(f"{where}: lean is {lean:g}; it must lie between 0 and 90 degrees")
        if not 0.0 <= pressure <= 1.0:
            raise InvalidInput(f"{where}: pressure is {pressure:g}; it must lie between 0 and 1")
        return cls(values[:3], values[3:6] if ray else None, pressure, lean)

    def toward(self, other: "Sample", share: float) -> "Sample":
        """The sample a share of the way to another one of the same kind."""
        direction = None
        if self.direction is not None and other.direction is not None:
            direction = self.direction + (other.direction - self.direction) * share
        return Sample(
            self.origin + (other.origin - self.origin) * share,
            direction,
            self.pressure + (other.pressure - self.pressure) * share,
            self.lean + (other.lean - self.lean) * share,
        )

    def turned(self, turn: NDArray[np.float64]) -> "Sample":
        """The sample seen by a symmetric copy of the stroke; `turn` is its (3, 3) matrix."""
        direction = None if self.direction is None else turn @ self.direction
        return Sample(turn @ self.origin, direction, self.pressure, self.lean)

    def about(self, origin: tuple[float, float, float]) -> "Sample":
        """The sample in coordinates that count from an origin."""
        if not any(origin):
            return self
        return Sample(self.origin - np.array(origin), self.direction, self.pressure, self.lean)

    def moved(self, way: Vector) -> "Sample":
        """The sample with a way added to its place."""
        if not way.any():
            return self
        return Sample(self.origin + way, self.direction, self.pressure, self.lean)

    def on(self, body: Body) -> SurfacePoint | None:
        """Where the sample meets a body, both about its origin."""
        if self.direction is None:
            return body.own_nearest(self.origin)
        return body.own_ray(self.origin, self.direction)


class Sampler:
    """Places dabs along a stroke, one every `spacing` metres of surface.

    A stroke that leaves the body pauses and begins anew where it comes back. With `flow`, a sample that repeats the last
    one lays another dab in the same place.
    """

    def __init__(self, find: Find, spacing: float, flow: bool = False) -> None:
        self._find = find
        self._spacing = spacing
        self._flow = flow
        self._last: tuple[Sample, Vector] | None = None
        self._carry = 0.0

    def advance(self, sample: Sample) -> Iterator[tuple[SurfacePoint, Sample]]:
        """Dab points, and the sample each is of, between the last sample and this one.

        Lazy on purpose: the caller changes the surface between two points, and the next is found on the changed one.
        """
        hit = self._find(sample)
        if hit is None:
            self._last = None
            return
        if self._last is None:
            self._last = (sample, hit.position)
            self._carry = 0.0
            yield hit, sample
            return
        before, at = self._last
        self._last = (sample, hit.position)
        if self._flow and _same(before, sample):
            yield hit, sample
            return
        distance = float(np.linalg.norm(hit.position - at))
        if distance > MOST_DABS * self._spacing:
            raise InvalidInput(
                f"stroke: two samples {distance:g} m apart would take more than {MOST_DABS:,} dabs; choose a larger "
                "radius or spacing"
            )
        gap = self._spacing
        along = gap - self._carry
        while along <= distance:
            between = before.toward(sample, along / distance)
            point = self._find(between)
            if point is not None:
                yield point, between
            along += gap
        self._carry = distance - (along - gap)


def _same(one: Sample, other: Sample) -> bool:
    if one.direction is None or other.direction is None:
        return one.direction is other.direction and np.array_equal(one.origin, other.origin)
    return np.array_equal(one.origin, other.origin) and np.array_equal(one.direction, other.direction)
