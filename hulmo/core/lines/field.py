"""How far in from the rim of a line every vertex of a body lies."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.kernel import kernel
from hulmo.core.lines.ground import Ground, Places
from hulmo.core.lines.trace import Trace
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.mesh.sides import edges_at

Figures = NDArray[np.float64]
Flags = NDArray[np.int8]


NO_PAIRS = np.empty((2, 0), np.int32)

MOST_CELLS = 200
"""Cells of the grid along each axis by which rows near a course are found."""

SAMPLE = 200_000
"""Triangles that the sides of an outline are compared by."""


@dataclass(frozen=True)
class Inward:
    """How a body lies to a line.

    Attributes
    ----------
    inward : (N,) float64
        Metres from the rim, above 0 inside, no more than the reach either way.
    arc : (N,) float64
        Metres along the line to the nearest place of it; of vertices out of reach 0.
    near : (N,) bool
        Whether a vertex is within reach.
    """

    inward: Figures
    arc: Figures
    near: NDArray[np.bool_]


def inward_at(course: Trace, points: Places, turned: bool, up: Places | None = None) -> Figures:
    """(K,) metres in from the rim of a course of places next to it; `turned`: its right side is the inside."""
    found = course.near(points, up)
    if not course.closed:
        return course.widths(found.arc) / 2 - found.away
    return np.where(found.left != turned, found.away, -found.away)


def inward_of(
    ground: Ground, course: Trace, reach: float, what: str, up: Places | None = None, turned: bool | None = None
) -> tuple[Inward, bool]:
    """How every vertex lies to a course, and whether its inside is on the right.

    Parameters
    ----------
    reach : float
        Metres from the rim within which it is asked exactly.
    up : (1 or N, 3) float64, optional
        Distances are measured square to these.
    turned : bool, optional
        Whether the inside is on the right, where that is known: otherwise it is the smaller side.

    Raises
    ------
    InvalidInput
        It encloses nothing, or everything.
    """
    position, corners = ground.position, ground.corners
    half = 0.0 if course.closed else float(course.width.max()) / 2
    rows, found = _within(ground, course, reach + half, up)
    out = np.full(position.shape[0], -reach)
    arc, near = np.zeros(position.shape[0]), np.zeros(position.shape[0], np.bool_)
    near[rows] = True
    arc[rows] = found.arc
    if not course.closed:
        out[rows] = np.clip(course.widths(found.arc) / 2 - found.away, -reach, reach)
        if (out[corners.first_corner >= 0] > 0).all():
            raise InvalidInput(f"{what}: it is wider than the land it lies on; make it narrower")
        return Inward(out, arc, near), False
    # sides are certain next to the line, where an edge can cross it; from there they spread
    _, longest = edges_at(position, corners.triangles[_at(rows, corners, position.shape[0])])
    close = found.away <= 1.01 * longest[rows]
    side = np.zeros(position.shape[0], np.int8)
    side[rows[close]] = np.where(found.left[close], 1, -1)
    narrow = side != 0
    seeds = np.flatnonzero(narrow).astype(np.int32)
    if not (side > 0).any() or not (side < 0).any():
        raise InvalidInput(f"{what}: it is smaller than the triangles it lies on; make it larger, or divide them")
    state = _spread(corners.vertex, corners.opposite, corners.first_corner, seeds, narrow, side)
    if state == 2:
        raise InvalidInput(f"{what}: it does not part the surface in two, so nothing lies inside; place it otherwise")
    if state == -1:  # the right side is the one that was walked to its end
        side = np.where(side < 0, -1, 1).astype(np.int8)
    else:
        side = np.where(side > 0, 1, -1).astype(np.int8)
    turned = _more(ground, side) if turned is None else turned
    inside = (side < 0) if turned else (side > 0)
    inside &= corners.first_corner >= 0
    away = np.full(position.shape[0], reach)
    away[rows] = np.minimum(found.away, reach)
    out = np.where(inside, away, -away)
    return Inward(out, arc, near), bool(turned)


def _at(rows: NDArray[np.int32], corners: CornerTable, count: int) -> NDArray[np.intp]:
    # triangles at some rows
    held = np.zeros(count, np.bool_)
    held[rows] = True
    return np.flatnonzero(any_of(held, corners.triangles) & (corners.triangles[:, 0] >= 0))


def _within(ground: Ground, course: Trace, reach: float, up: Places | None):  # type: ignore[no-untyped-def]
    # rows no further from a course than some metres, and hanging together with it over the surface
    position, corners = ground.position, ground.corners
    rows, at = _near_places(position, course, reach)
    used = corners.first_corner[rows] >= 0
    rows, at = rows[used], at[used]
    held = np.zeros(position.shape[0], np.bool_)
    held[rows] = True
    seeds = corners.triangles[course.triangle].reshape(-1)
    extra = seeds[~held[seeds]]
    if extra.size:  # triangles larger than the reach
        held[extra] = True
        rows = np.flatnonzero(held)
        at = course.nearest_place.of(position[rows].astype(np.float64))
    number = np.full(position.shape[0], -1, np.int32)
    number[rows] = np.arange(rows.size, dtype=np.int32)
    pairs = np.empty((2, _joints(corners.vertex, number, NO_PAIRS)), np.int32)
    _joints(corners.vertex, number, pairs)
    _, label = hanging_together(pairs[0], pairs[1], rows.size)
    mine = np.isin(label, np.unique(label[number[seeds]]))
    rows = rows[mine].astype(np.int32)
    points = position[rows].astype(np.float64)
    return rows, course.near(points, up if up is None or up.shape[0] == 1 else up[rows], at[mine])


def rows_near(position: NDArray[np.float32], course: Trace, reach: float) -> NDArray[np.intp]:
    """Rows no further from the places of a course than some metres, ascending."""
    return _near_places(position, course, reach)[0]


def _near_places(
    position: NDArray[np.float32], course: Trace, reach: float
) -> tuple[NDArray[np.intp], NDArray[np.int64]]:
    # and the nearest place of each
    rows = _beside(position, course.places, reach)
    points = position[rows].astype(np.float64)
    at = course.nearest_place.of(points)
    off = points - course.places[at]
    near = np.einsum("ki,ki->k", off, off) < (reach * 1.0001 + 1e-6) ** 2
    return rows[near], at[near]


def _beside(position: NDArray[np.float32], places: Places, reach: float) -> NDArray[np.intp]:
    # rows in the cells of a grid that a course goes through, and in those next to them
    low, high = places.min(axis=0) - reach, places.max(axis=0) + reach
    cell = max(reach, float((high - low).max()) / MOST_CELLS)
    count = np.maximum(np.ceil((high - low) / cell).astype(int), 1) + 2
    held = np.zeros(count, np.bool_)
    at = ((places - low) / cell).astype(int) + 1
    for step in np.ndindex(3, 3, 3):
        x, y, z = (at + np.array(step) - 1).T
        held[x, y, z] = True
    out = np.empty(position.shape[0], np.bool_)
    _inside(position, low, high, cell, held, out)
    return np.flatnonzero(out)


@kernel("void(float32[:,::1], float64[::1], float64[::1], float64, boolean[:,:,::1], boolean[::1])")
def _inside(
    position: NDArray[np.float32], low: Figures, high: Figures, cell: float, held: NDArray[np.bool_],
    out: NDArray[np.bool_],
) -> None:  # fmt: skip
    for i in range(position.shape[0]):
        within = True
        for axis in range(3):
            within = within and low[axis] <= position[i, axis] <= high[axis]
        if within:
            x = min(np.int64((position[i, 0] - low[0]) / cell) + 1, held.shape[0] - 1)
            y = min(np.int64((position[i, 1] - low[1]) / cell) + 1, held.shape[1] - 1)
            z = min(np.int64((position[i, 2] - low[2]) / cell) + 1, held.shape[2] - 1)
            within = held[x, y, z]
        out[i] = within


@kernel("int64(int32[::1], int32[::1], int32[:,::1])")
def _joints(vertex: NDArray[np.int32], number: NDArray[np.int32], pairs: NDArray[np.int32]) -> int:
    # edges between vertices that have a number, from each triangle; how many, and as many of them as there is room for
    count = 0
    for corner in range(vertex.size):
        a, b = vertex[corner], vertex[next_corner(corner)]
        if a < 0 or number[a] < 0 or number[b] < 0:
            continue
        if count < pairs.shape[1]:
            pairs[0, count], pairs[1, count] = number[a], number[b]
        count += 1
    return count


def _more(ground: Ground, side: Flags) -> bool:
    # whether the left side, above 0, is the larger one; of large bodies by an even share of their triangles
    left, right = _sizes(
        ground.corners.vertex, ground.position, side, max(1, ground.corners.count // SAMPLE)
    )  # fmt: skip
    return bool(left > right)


@kernel("UniTuple(float64, 2)(int32[::1], float32[:,::1], int8[::1], int64)")
def _sizes(vertex: NDArray[np.int32], position: NDArray[np.float32], side: Flags, step: int) -> tuple[float, float]:
    left, right = 0.0, 0.0
    way = np.empty((2, 3))
    for t in range(0, vertex.size // 3, step):
        a, b, c = vertex[3 * t], vertex[3 * t + 1], vertex[3 * t + 2]
        if a < 0:
            continue
        for axis in range(3):
            way[0, axis] = np.float64(position[b, axis]) - np.float64(position[a, axis])
            way[1, axis] = np.float64(position[c, axis]) - np.float64(position[a, axis])
        x = way[0, 1] * way[1, 2] - way[0, 2] * way[1, 1]
        y = way[0, 2] * way[1, 0] - way[0, 0] * way[1, 2]
        z = way[0, 0] * way[1, 1] - way[0, 1] * way[1, 0]
        size = np.sqrt(x * x + y * y + z * z)
        if np.int64(side[a]) + side[b] + side[c] > 0:
            left += size
        else:
            right += size
    return left, right


@kernel("int64(int32[::1], int32[::1], int32[::1], int32[::1], boolean[::1], int8[::1])")
def _spread(
    vertex: NDArray[np.int32], opposite: NDArray[np.int32], first: NDArray[np.int32], seeds: NDArray[np.int32],
    narrow: NDArray[np.bool_], side: Flags,
) -> int:  # fmt: skip
    # lets both sides grow step by step until one has nowhere to go: 1 or -1 says which; 2: they meet
    left = np.empty(first.size, np.int32)
    right = np.empty(first.size, np.int32)
    ends = np.zeros(4, np.int64)  # begin and end of each queue
    for i in range(seeds.size):
        if side[seeds[i]] > 0:
            left[ends[1]] = seeds[i]
            ends[1] += 1
        else:
            right[ends[3]] = seeds[i]
            ends[3] += 1
    while True:
        for way in range(2):
            if ends[2 * way] == ends[2 * way + 1]:
                return 1 if way == 0 else -1
            row = left[ends[0]] if way == 0 else right[ends[2]]
            ends[2 * way] += 1
            mine = 1 if way == 0 else -1
            start = np.int64(first[row])
            corner = start
            back = False
            while True:
                for other in (vertex[next_corner(corner)], vertex[previous_corner(corner)]):
                    if side[other] == 0:
                        side[other] = mine
                        if way == 0:
                            left[ends[1]] = other
                            ends[1] += 1
                        else:
                            right[ends[3]] = other
                            ends[3] += 1
                    elif side[other] != mine and not (narrow[row] and narrow[other]):
                        return 2
                across = np.int64(opposite[previous_corner(corner)] if back else opposite[next_corner(corner)])
                if across < 0:
                    if back:
                        break
                    back = True  # from a border the other way round
                    across = np.int64(opposite[previous_corner(start)])
                    if across < 0:
                        break
                    corner = previous_corner(across)
                    continue
                corner = previous_corner(across) if back else next_corner(across)
                if corner == start:
                    break
