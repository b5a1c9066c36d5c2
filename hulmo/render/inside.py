"""How to see inside bodies."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Inside:
    """How to see inside bodies.

    Attributes
    ----------
    section : (4,) tuple or None
        Unit normal of a plane and its distance from the origin along it, metres: what lies beyond is left out.
    lamp : float
        Strength of a lamp at the eye; 0 for none.
    """

    section: tuple[float, float, float, float] | None = None
    lamp: float = 0.0

    def shows(self, point: np.ndarray) -> bool:
        """Whether a point is on the side of the section that is seen."""
        return self.section is None or float(np.dot(self.section[:3], point)) <= self.section[3]
