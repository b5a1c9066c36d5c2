"""How a body lies in one set of its texture coordinates."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.uv.charts import charts_of
from hulmo.core.uv.figures import UvFigures, UvMeasures, figures_of, measured


@dataclass(frozen=True)
class Laid:
    """The live triangles of a body in a set.

    Attributes
    ----------
    slots : (K,) int32
    place : (K, 3, 3) float64
        Their corners, metres about the body's origin.
    uv : (K, 3, 2) float64
    opposite : (3 K,) int32
        See `opposite_of`.
    """

    slots: NDArray[np.int32]
    place: NDArray[np.float64]
    uv: NDArray[np.float64]
    opposite: NDArray[np.int32]

    @classmethod
    def of(cls, body: Body, column: str) -> "Laid":
        """That of a corner column which the body has."""
        slots = np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32)
        place = body.vertices["position"][body.corners.triangles[slots]].astype(np.float64)
        uv = body.corners.slots[column][slots].astype(np.float64)
        return cls(slots, place, uv, opposite_of(body, slots))

    @cached_property
    def chart(self) -> NDArray[np.int32]:
        """(K,) chart of each triangle."""
        return charts_of(self.uv, self.opposite)

    @cached_property
    def area(self) -> NDArray[np.float64]:
        """(K,) square metres."""
        return triangle_areas(self.place)

    @cached_property
    def measures(self) -> UvMeasures:
        """What figures and faults follow from."""
        return measured(self.place, self.uv)

    def figures(self) -> UvFigures:
        """How well it lies."""
        return figures_of(self.place, self.uv, self.opposite, self.measures)


def opposite_of(body: Body, slots: NDArray[np.int32]) -> NDArray[np.int32]:
    """(3 K,) opposite corners of some triangles counted among themselves; -1 where the neighbour is none of them."""
    number = np.full(body.corners.count + 1, -1, np.int32)
    number[slots] = np.arange(slots.size, dtype=np.int32)
    across = body.corners.opposite.reshape(-1, 3)[slots].reshape(-1)
    there = np.where(across < 0, -1, number[np.maximum(across, 0) // 3])
    return np.where(there < 0, -1, 3 * there + np.maximum(across, 0) % 3).astype(np.int32)
