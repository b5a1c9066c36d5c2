"""One of the symmetric copies of a stroke, and how far it has come."""

from collections.abc import Generator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.region import Region
from hulmo.core.sculpt.grab import Grab
from hulmo.core.sculpt.growth import Held
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import Sampler

Vector = NDArray[np.float64]

Steps = Generator[None, None, list[Touched]]
"""What is done at one sample, step by step, so that strokes on several bodies can go in step."""


@dataclass(eq=False)
class Copy:
    """What belongs to one copy.

    Attributes
    ----------
    turn : (3, 3) float64
        What brings the stroke to it.
    sampler : Sampler or None
        None where no dabs are laid along the way.
    start : (point, normal) or None
        Where it began.
    view : (3,) float64
        Unit way one looked then.
    grab, region, amount, kept, held
        What it took hold of, how much each row takes part, and the values from before.
    last : (place, centre, radius) or None
        Of the last dab, around which the mesh is yet to grow.
    dabs : int
    total : (4,) float64
        Normals under it; see `direction.normal_total`.
    """

    turn: NDArray[np.float64]
    sampler: Sampler | None
    start: tuple[Vector, Vector] | None = None
    view: Vector = field(default_factory=lambda: np.zeros(3))
    grab: Grab | None = None
    region: Region | None = None
    amount: NDArray[np.float32] = field(default_factory=lambda: np.empty(0, np.float32))
    kept: NDArray[np.float32] = field(default_factory=lambda: np.empty((0, 3), np.float32))
    held: Held | None = None
    last: tuple[Vector, Vector, float] | None = None
    dabs: int = 0
    total: Vector = field(default_factory=lambda: np.zeros(4))
