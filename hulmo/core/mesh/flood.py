"""Water that rises over a surface from a place on it: what it covers, and where it runs out."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.geodesic import pop, push
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Rows = NDArray[np.int32]
Figures = NDArray[np.float64]

MOST_SPILLS = 256
"""Places over which water runs on that are noted at the most."""

LEAST_FALL, FALL_SHARE = 0.01, 0.05
"""Metres, and share of the depth, by which the ground must fall beyond a place for water to run out over it."""

FAR_BELOW = 0.1
"""Share of the height of a body by which ground must lie lower than a hollow, and by no less than the depth of the water, for
water that comes there to have run away."""

WORTH = 0.2
"""Share of the deepest water that a hollow can hold by which a smaller hollow within it counts as one of its own."""


@dataclass(frozen=True)
class Spill:
    """A place over which water runs out.

    Attributes
    ----------
    height : float
        Metres by the body's own down.
    at : (3,) float64
        Metres about the body's origin.
    depth : float
        How deep the water is by then at its deepest, metres.
    border : bool
        Whether it runs away there: over the border of the body, or far down; otherwise it
        runs into a hollow that joins with this one.
    """

    height: float
    at: NDArray[np.float64]
    depth: float
    border: bool


@dataclass(frozen=True)
class Flood:
    """Water that was poured onto a body.

    Attributes
    ----------
    rows : (K,) int32
        Vertices that it covers, in the order in which it came to them.
    lowest : float
        Height of the deepest of them, metres.
    spills : tuple of Spill
        Where it runs out, ascending; the last one over the border, where there is one.
    """

    rows: Rows
    lowest: float
    spills: tuple[Spill, ...]

    @property
    def holds(self) -> float:
        """The highest level that water can have before it runs over the border; infinite where there is none."""
        return self.spills[-1].height if self.spills and self.spills[-1].border else np.inf

    def usual(self) -> Spill | None:
        """The first place to run out over that is worth the name: water in a dent of a few centimetres runs on."""
        if not self.spills:
            return None
        deepest = self.spills[-1].depth
        return next((spill for spill in self.spills if spill.depth >= WORTH * deepest), self.spills[-1])


def flood(body: Body, seed: int, level: float | None = None) -> Flood:
    """Pour water onto a vertex until it stands at a level, or has run out over the border.

    Parameters
    ----------
    body : Body
    seed : int
        Vertex that is poured onto; the water first runs down from there.
    level : float, optional
        Metres by the body's own down; without it, the water rises until it leaves the body, or all of it is covered.

    Notes
    -----
    Barnes, Lehman and Mulla, "Priority-flood" (Computers & Geosciences 62, 2014), over the edges of a mesh and from within.
    """
    height = np.ascontiguousarray(body.heights(body.vertices["position"]))
    count = body.vertices.count
    order = np.empty(count, np.int32)
    place = np.full(count, -1, np.int32)
    spill_row, spill_figures = np.empty(MOST_SPILLS, np.int32), np.empty((MOST_SPILLS, 3))
    corners = body.corners
    covered, spills = _flood(
        corners.vertex, corners.opposite, corners.first_corner, height, seed, np.inf if level is None else level,
        FAR_BELOW * float(np.ptp(height)), order, place, np.empty(count, np.int32), spill_row, spill_figures,
    )  # fmt: skip
    rows = order[:covered]
    if level is not None:
        rows = rows[height[rows] <= level]
    found = tuple(
        Spill(high, body.vertices["position"][row].astype(np.float64), high - low, border > 0)
        for row, (high, low, border) in zip(spill_row[:spills].tolist(), spill_figures[:spills].tolist(), strict=True)
    )
    return Flood(rows, float(height[order[:covered]].min(initial=np.inf)), found)


@kernel(
    "UniTuple(int64, 2)(int32[::1], int32[::1], int32[::1], float64[::1], int64, float64, float64, int32[::1], "
    "int32[::1], int32[::1], int32[::1], float64[:,::1])"
)
def _flood(
    vertex: Rows, opposite: Rows, first: Rows, height: Figures, seed: int, level: float, away: float, order: Rows,
    place: Rows, heap: Rows, spill_row: Rows, spill_figures: NDArray[np.float64],
) -> tuple[int, int]:  # fmt: skip
    # covered vertices into `order`, spills into the last two: row; height, lowest so far, 1 at a border
    row = seed
    while True:  # down to where it first stands
        lowest = row
        start = first[row]
        corner = start
        backward = False
        while start >= 0:
            for to in (vertex[next_corner(corner)], vertex[previous_corner(corner)]):
                if height[to] < height[lowest]:
                    lowest = to
            beyond = opposite[next_corner(corner)] if not backward else opposite[previous_corner(corner)]
            if beyond >= 0:
                corner = next_corner(beyond) if not backward else previous_corner(beyond)
                if corner == start:
                    break
                continue
            if backward:
                break
            backward = True
            corner = start
        if lowest == row:
            break
        row = lowest
    size = push(heap, place, height, 0, row)
    water = height[row]
    low = water
    top = row
    falling = False
    bottom = -np.inf
    covered = 0
    spills = 0
    while size > 0:
        row, size = pop(heap, place, height, size)
        here = height[row]
        if here > water:
            if here > level:
                break
            water = here
            top = row
            falling = False
        elif not falling and water - here > max(LEAST_FALL, FALL_SHARE * (water - low)) and spills < MOST_SPILLS - 1:
            spill_row[spills] = top
            spill_figures[spills, 0] = water
            spill_figures[spills, 1] = low
            spill_figures[spills, 2] = 0.0
            spills += 1
            falling = True
            bottom = low - max(water - low, away)
        if falling and here < bottom:  # far deeper than it stood: it has run away, and no hollow joins with this one
            spill_figures[spills - 1, 2] = 1.0
            break
        low = min(low, here)
        order[covered] = row
        covered += 1
        start = first[row]
        corner = start
        backward = False
        border = False
        while start >= 0:
            for to in (vertex[next_corner(corner)], vertex[previous_corner(corner)]):
                if place[to] == -1:
                    size = push(heap, place, height, size, to)
            beyond = opposite[next_corner(corner)] if not backward else opposite[previous_corner(corner)]
            if beyond >= 0:
                corner = next_corner(beyond) if not backward else previous_corner(beyond)
                if corner == start:
                    break
                continue
            border = True
            if backward:
                break
            backward = True
            corner = start
        if border:
            spill_row[spills] = row
            spill_figures[spills, 0] = water
            spill_figures[spills, 1] = low
            spill_figures[spills, 2] = 1.0
            spills += 1
            break
    return covered, spills
