"""What a change is seen in."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.render.part import Part


@dataclass(frozen=True, eq=False)
class Touched:
    """A part of a picture, and the box in space that what has changed lies in.

    Attributes
    ----------
    part : Part
    low, high : (3,) float64
        Metres about the anchor of the view; low above high where nothing has changed.
    """

    part: Part = field(default_factory=lambda: Part(0, 0, 0, 0))
    low: NDArray[np.float64] = field(default_factory=lambda: np.full(3, np.inf))
    high: NDArray[np.float64] = field(default_factory=lambda: np.full(3, -np.inf))

    def joined(self, other: "Touched") -> "Touched":
        """Both."""
        return Touched(self.part.joined(other.part), np.minimum(self.low, other.low), np.maximum(self.high, other.high))

    @property
    def ball(self) -> tuple[float, float, float, float]:
        """Middle and radius of a ball that holds what a round brush has changed: the box but for its corners."""
        if not (self.low <= self.high).all():
            return 0.0, 0.0, 0.0, 0.0
        x, y, z = ((self.low + self.high) / 2).tolist()
        return x, y, z, 1.15 * float((self.high - self.low).max()) / 2
