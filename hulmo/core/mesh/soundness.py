"""Whether tables are sound: numbers within range, and corners that fit together to a manifold."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Values = NDArray[np.float32]

CROWDED = 2048
"""Neighbours of one vertex up to which they are looked at for doubles."""


@kernel("int64(Array(float32, 1, 'C', readonly=True), float64, float64)")
def _outside(values: Values, low: float, high: float) -> int:
    count = 0
    least = np.float32(low)
    most = np.float32(high)
    for i in range(values.size):
        if not (values[i] >= least and values[i] <= most):
            count += 1  # what is no number is outside as well
    return count


@kernel("int64(Array(float32, 2, 'C', readonly=True), float64, boolean)")
def _off_total(values: Values, slack: float, most: bool) -> int:
    count = 0
    for i in range(values.shape[0]):
        total = np.float32(0.0)
        for k in range(values.shape[1]):
            total += values[i, k]
        if total > 1.0 + slack or (not most and total < 1.0 - slack):
            count += 1
    return count


@njit(inline="always")
def _noted(near, count, row):  # type: ignore[no-untyped-def]
    # one more neighbour; -1 when it is there already
    for k in range(count):
        if near[k] == row:
            return -1
    if count < near.size:
        near[count] = row
        return count + 1
    return count


@kernel("int64(int32[::1], int32[::1], int32[::1])")
def _wrong_corner(vertex: Corners, opposite: Corners, first: Corners) -> int:
    # the first corner at which the tables contradict each other or the surface is no manifold; -1 when there is none
    live = 0
    for corner in range(vertex.size):
        at = vertex[corner]
        across = opposite[corner]
        if at < 0:
            if vertex[next_corner(corner)] >= 0:
                return corner
            continue
        live += 1
        tail = vertex[next_corner(corner)]
        tip = vertex[previous_corner(corner)]
        if at >= first.size or tail < 0 or at == tail or first[at] < 0 or across >= vertex.size:
            return corner
        if across < 0:
            continue
        if opposite[across] != corner or vertex[next_corner(across)] != tip or vertex[previous_corner(across)] != tail:
            return corner
    near = np.empty(CROWDED, np.int32)
    seen = 0
    for at in range(first.size):
        start = first[at]
        if start < 0:
            continue
        if start >= vertex.size or vertex[start] != at:
            return int(max(min(start, vertex.size - 1), 0))
        # round the vertex, or to the border and then back from the start to the other one; no neighbour may come twice
        corner = start
        count = 0
        closed = False
        while not closed:
            seen += 1
            count = _noted(near, count, vertex[next_corner(corner)])
            across = opposite[next_corner(corner)]
            if count < 0 or seen > live:
                return int(corner)
            if across < 0:
                break
            corner = next_corner(across)
            closed = corner == start
        if closed:
            continue
        count = _noted(near, count, vertex[previous_corner(corner)])
        corner = start
        while count >= 0 and opposite[previous_corner(corner)] >= 0:
            corner = previous_corner(opposite[previous_corner(corner)])
            seen += 1
            count = _noted(near, count, vertex[next_corner(corner)])
            if seen > live:
                return int(corner)
        if count < 0:
            return int(corner)
    return -1 if seen == live else 0


def outside(values: Values, low: float, high: float) -> int:
    """How many numbers of an array are not within `low` to `high`; what is not finite never is."""
    return int(_outside(np.ascontiguousarray(values).reshape(-1), low, high))


def off_total(values: Values, slack: float, most: bool = False) -> int:
    """How many rows of an (N, K) array do not sum to 1, or with `most` to more than 1, to within `slack`."""
    return int(_off_total(np.ascontiguousarray(values), slack, most))


def wrong_triangle(corners: CornerTable) -> int:
    """A triangle slot at which a corner table is no manifold of one winding, or contradicts itself; -1 when it is sound."""
    corner = int(_wrong_corner(corners.vertex, corners.opposite, corners.first_corner))
    return corner // 3 if corner >= 0 else -1
