"""Which edges to turn and which vertices to join so that thin triangles get better and crowded vertices lose edges."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.fan import apart, around_at, faces_alike, facing, fan_at, holds, smallest_angle

Corners = NDArray[np.int32]
Mask = NDArray[np.bool_]
Figures = NDArray[np.float64]
Rows = NDArray[np.int64]

NEEDLE = 0.3
"""Share of the longest side under which the shortest makes a triangle a needle."""

MOST_EDGES = 8
"""Edges at a vertex beyond which none is added."""

FIXED, BORDER, ON, STRAIGHT, BUSY = 1, 2, 4, 8, 16


class Changes(NamedTuple):
    """Changes of a mesh none of which touches a vertex of another.

    Attributes
    ----------
    turns : (K,) int64
        Corners across the edges that are turned.
    joins : (J, 2) int64
        Vertices that go, and those that they are joined with.
    touched : (N,) bool
        Vertices at whatever changes.
    """

    turns: Rows
    joins: Rows
    touched: Mask


def better_changes(
    corners: CornerTable, position: Figures, angle: Figures, marked: Mask, states: NDArray[np.uint8],
    thin: Rows, crowded: Rows, limit: float, joins: bool,
) -> Changes:  # fmt: skip
    """Changes that make triangles and vertices better, found one after the other.

    Parameters
    ----------
    corners : CornerTable
        Without freed slots.
    position : (N, 3) float64
    angle : (M,) float64
        Smallest angle of every triangle, degrees.
    marked : (M, 3) bool
        Edges that stay, by the corner across.
    states : (N,) uint8
        FIXED: stays where it is; BORDER: on a border; ON: on a marked edge; STRAIGHT: those go straight on there.
    thin : (K,) int64
        Triangles, the worst first.
    crowded : (C,) int64
        Vertices with too many edges.
    limit : float
        Degrees that a turn at a crowded vertex must leave.
    joins : bool
        Whether vertices may be joined.
    """
    room = int(np.bincount(corners.vertex, minlength=1).max(initial=1)) + 3
    turns, pairs = np.empty(thin.size + crowded.size, np.int64), np.empty((thin.size + crowded.size, 2), np.int64)
    counts = np.zeros(2, np.int64)
    states = states.copy()
    _pick(
        corners.vertex, corners.opposite, corners.first_corner, position, angle, marked, states,
        thin, crowded, limit, joins, np.empty((5, room), np.int64), turns, pairs, counts,
    )  # fmt: skip
    return Changes(turns[: counts[0]], pairs[: counts[1]], np.asarray(states & BUSY > 0))


@part_of_kernels
def _turn_gain(vertex, opposite, first, position, angle, marked, states, corner, least, room):  # type: ignore[no-untyped-def]
    # degrees that the smallest angle grows by; with `least`, what is left of it where it stays above that
    across = opposite[corner]
    slot = corner // 3
    if across < 0 or marked[slot, corner % 3]:
        return 0.0
    p, a, b = vertex[corner], vertex[next_corner(corner)], vertex[previous_corner(corner)]
    q = vertex[across]
    if (states[p] | states[a] | states[b] | states[q]) & BUSY or p == q:
        return 0.0
    for row in (p, a, b, q):
        if states[row] & FIXED and not states[row] & BORDER:
            return 0.0
    if states[p] & BORDER and states[q] & BORDER:
        return 0.0  # beyond the border of a piece they may be joined already
    count = around_at(vertex, opposite, first, q, room)
    if count - 1 >= MOST_EDGES:
        return 0.0
    count = around_at(vertex, opposite, first, p, room)
    if count - 1 >= MOST_EDGES or holds(room, count, q):
        return 0.0
    smallest = min(smallest_angle(position, p, a, q), smallest_angle(position, p, q, b))
    if least > 0:
        gain = smallest if smallest >= least else 0.0
    else:
        gain = smallest - min(angle[slot], angle[across // 3])
    if not gain > 0:
        return 0.0
    before, beyond = facing(position, p, a, b), facing(position, q, b, a)
    mean = (before[0] + beyond[0], before[1] + beyond[1], before[2] + beyond[2])
    if not (faces_alike(mean, before) and faces_alike(mean, beyond)):
        return 0.0
    if not (faces_alike(mean, facing(position, p, a, q)) and faces_alike(mean, facing(position, p, q, b))):
        return 0.0
    return gain


@part_of_kernels
def _join_gain(  # type: ignore[no-untyped-def]
    vertex, opposite, first, position, angle, states, along, gone, stays, least, room
):
    # the same where one vertex is joined with another; `along`: the edge between them is a marked one
    if states[gone] & FIXED or (states[gone] & ON and not (states[gone] & STRAIGHT and along)):
        return 0.0
    if states[stays] & BUSY:
        return 0.0
    fan, around, other = room[0], room[1], room[2]
    count = around_at(vertex, opposite, first, gone, around)
    others = around_at(vertex, opposite, first, stays, other)
    shared = 0
    beyond = False
    for i in range(count):
        row = around[i]
        if states[row] & BUSY:
            return 0.0
        if holds(other, others, row):
            shared += row != gone and row != stays
        elif states[row] & BORDER:
            beyond = True
    if shared != 2 or count + others - shared - 2 - 4 > MOST_EDGES + 1:
        return 0.0
    if states[stays] & BORDER and beyond:
        return 0.0  # beyond the border of a piece they may be joined already
    corners = fan_at(opposite, first, gone, fan)
    smallest, worst, made = 180.0, 180.0, 0
    bx, by, bz, beside = 0.0, 0.0, 0.0, True
    for i in range(corners):
        corner = fan[i]
        worst = min(worst, angle[corner // 3])
        a, b = vertex[next_corner(corner)], vertex[previous_corner(corner)]
        if a == stays or b == stays:
            continue
        made += 1
        smallest = min(smallest, smallest_angle(position, stays, a, b))
        before = facing(position, gone, a, b)
        beside = beside and faces_alike(before, facing(position, stays, a, b))
        bx, by, bz = bx + before[0], by + before[1], bz + before[2]
    if made == 0:
        return 0.0
    gain = (smallest if smallest >= least else 0.0) if least > 0 else smallest - worst
    if not gain > 0:
        return 0.0
    if made > 2:  # each triangle beside what it was
        return gain if beside else 0.0
    for i in range(corners):  # all beside their mean
        corner = fan[i]
        a, b = vertex[next_corner(corner)], vertex[previous_corner(corner)]
        if a == stays or b == stays:
            continue
        mean = (bx, by, bz)
        if not (faces_alike(mean, facing(position, gone, a, b)) and faces_alike(mean, facing(position, stays, a, b))):
            return 0.0
    return gain


@part_of_kernels
def _take_turn(vertex, opposite, states, corner):  # type: ignore[no-untyped-def]
    for at in (np.int64(corner), np.int64(opposite[corner])):
        for k in range(3):
            states[vertex[at - at % 3 + k]] |= BUSY


@part_of_kernels
def _take_join(vertex, opposite, first, states, gone, room):  # type: ignore[no-untyped-def]
    count = around_at(vertex, opposite, first, gone, room)
    for i in range(count):
        states[room[i]] |= BUSY


@kernel(
    "void(int32[::1], int32[::1], int32[::1], float64[:,::1], float64[::1], boolean[:,::1], uint8[::1], int64[::1], "
    "int64[::1], float64, boolean, int64[:,::1], int64[::1], int64[:,::1], int64[::1])"
)
def _pick(
    vertex: Corners, opposite: Corners, first: Corners, position: Figures, angle: Figures, marked: Mask,
    states: NDArray[np.uint8], thin: Rows, crowded: Rows, limit: float, joins: bool, room: Rows, turns: Rows,
    pairs: Rows, counts: Rows,
) -> None:  # fmt: skip
    side = np.empty(3, np.float64)
    for slot in thin:
        base = 3 * slot
        for k in range(3):
            side[k] = apart(position, vertex[base + (k + 2) % 3], vertex[base + (k + 1) % 3])
        longest, shortest = np.argmax(side), np.argmin(side)
        best, turned, gone, stays = 0.0, -1, -1, -1
        # what is flat loses its longest edge; what is short is joined, or loses one of its two long ones
        for i in range(1 if side[shortest] > NEEDLE * side[longest] else 2):
            corner = base + (longest if i == 0 else 3 - longest - shortest)
            gain = _turn_gain(vertex, opposite, first, position, angle, marked, states, corner, 0.0, room[0])
            if gain > best:
                best, turned = gain, corner
        if joins:
            a, b = vertex[base + (shortest + 1) % 3], vertex[base + (shortest + 2) % 3]
            for i in range(2):
                one, two = (a, b) if i == 0 else (b, a)
                gain = _join_gain(
                    vertex, opposite, first, position, angle, states, marked[slot, shortest], one, two, 0.0, room
                )
                if gain > best:
                    best, turned, gone, stays = gain, -1, one, two
        if turned >= 0:
            turns[counts[0]] = turned
            counts[0] += 1
            _take_turn(vertex, opposite, states, turned)
        elif gone >= 0:
            pairs[counts[1], 0], pairs[counts[1], 1] = gone, stays
            counts[1] += 1
            _take_join(vertex, opposite, first, states, gone, room[0])
    for row in crowded:
        best, turned, gone, stays = 0.0, -1, -1, -1
        corners = fan_at(opposite, first, row, room[3])
        for i in range(corners):
            for step in range(2):
                corner = next_corner(room[3, i]) if step == 0 else previous_corner(room[3, i])
                gain = _turn_gain(vertex, opposite, first, position, angle, marked, states, corner, limit, room[0])
                if gain > best:
                    best, turned = gain, corner
        if turned >= 0:
            turns[counts[0]] = turned
            counts[0] += 1
            _take_turn(vertex, opposite, states, turned)
            continue
        if not joins:
            continue
        # a neighbour joined with one that both have takes an edge away as well
        count = around_at(vertex, opposite, first, row, room[3])
        for i in range(1, count):
            one = room[3, i]
            if states[one] & ON:
                continue
            others = around_at(vertex, opposite, first, one, room[4])
            for j in range(1, others):
                two = room[4, j]
                if two == row or not holds(room[3], count, two):
                    continue
                gain = _join_gain(vertex, opposite, first, position, angle, states, False, one, two, limit, room)
                if gain > best:
                    best, gone, stays = gain, one, two
        if gone >= 0:
            pairs[counts[1], 0], pairs[counts[1], 1] = gone, stays
            counts[1] += 1
            _take_join(vertex, opposite, first, states, gone, room[0])
