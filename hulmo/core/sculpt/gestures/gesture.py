"""What every gesture answers."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from hulmo.core.mesh.spatial_index import Vector
from hulmo.core.sculpt.copy_of import Copy, Steps
from hulmo.core.sculpt.recorder import Touched
from hulmo.core.sculpt.sampler import Sample

if TYPE_CHECKING:
    from hulmo.core.sculpt.stroke import Stroke


class Gesture:
    """One way to use a brush; it works on what its stroke holds, and through it.

    Parameters
    ----------
    stroke : Stroke
    """

    still = False
    """Whether the pointer's way is no way of dabs."""

    def __init__(self, stroke: Stroke) -> None:
        self.stroke = stroke

    def add(self, sample: Sample, between: Callable[[], None] | None) -> list[Touched]:
        """See `Stroke.add`."""
        raise NotImplementedError

    def settle(self) -> list[Touched]:
        """See `Stroke.settle`."""
        return []

    def dab(self, copy: Copy, triangle: int, place: Vector, centre: Vector, sample: Sample) -> Steps:
        """See `Stroke.dab`; of a gesture that lays dabs."""
        raise NotImplementedError

    def drag(self, sample: Sample) -> Steps:
        """See `Stroke.drag`; of a gesture that drags."""
        raise NotImplementedError
