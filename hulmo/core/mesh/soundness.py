"""Whether tables are sound: numbers within range, and corners that fit together to a manifold."""

import itertools
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.workers import WORKERS, side_by_side

Corners = NDArray[np.int32]
Values = NDArray[np.float32]
Counts = NDArray[np.int64]

CROWDED = 2048
"""Neighbours of one vertex up to which they are looked at for doubles."""

PIECE = 50_000
"""Rows below which looking through them side by side is not worth it."""


@written_into_kernels
def _twice(near, count):  # type: ignore[no-untyped-def]
    for i in range(count):
        for k in range(i):
            if near[i] == near[k]:
                return True
    return False


@kernel("void(int32[::1], int32[::1], int32[::1], int64, int64, int64[::1])")
def _wrong_sides(vertex: Corners, opposite: Corners, first: Corners, start: int, stop: int, out: Counts) -> None:
    # of some triangles: a corner at which the tables contradict each other, or -1; and how many corners are in use
    out[0] = -1
    live = 0
    for triangle in range(start, stop):
        base = 3 * triangle
        if vertex[base] < 0:
            if vertex[base + 1] >= 0 or vertex[base + 2] >= 0:
                out[0] = base
                return
            continue
        live += 3
        for k in range(3):
            corner = base + k
            at = vertex[corner]
            across = opposite[corner]
            tail = vertex[base + (k + 1) % 3]
            tip = vertex[base + (k + 2) % 3]
            if at < 0 or at >= first.size or at == tail or first[at] < 0 or across >= vertex.size:
                out[0] = corner
                return
            if across < 0:
                continue
            # what holds from the later corner's side holds from the earlier one's
            if opposite[across] != corner or (
                across < corner and (vertex[next_corner(across)] != tip or vertex[previous_corner(across)] != tail)
            ):
                out[0] = corner
                return
    out[1] = live


@kernel("void(int32[::1], int32[::1], int32[::1], int64, int64, int64[::1], int32[::1])")
def _wrong_fans(
    vertex: Corners, opposite: Corners, first: Corners, begin: int, stop: int, out: Counts, near: Corners
) -> None:
    # of some vertices, once all sides are right: a corner at which the surface is no manifold, or -1; and how many corners
    # their fans have together; `near` has room for `CROWDED`
    seen = 0
    out[0] = -1
    for at in range(begin, stop):
        start = first[at]
        if start < 0:
            continue
        if start >= vertex.size or vertex[start] != at:
            out[0] = max(min(start, vertex.size - 1), 0)
            return
        # round the vertex, or to the border and then back from the start to the other one; no neighbour may come twice, and
        # only where two share a mark it is worth looking
        corner = start
        count = 0
        marks = np.uint64(0)
        again = np.uint64(0)
        closed = False
        while True:
            seen += 1
            after = next_corner(corner)
            row = vertex[after]
            near[min(count, CROWDED - 1)] = row
            count += 1
            again |= marks >> np.uint64(row & 63)
            marks |= np.uint64(1) << np.uint64(row & 63)
            across = opposite[after]
            if across < 0:
                break
            corner = next_corner(across)
            if corner == start:
                closed = True
                break
        if not closed:
            row = vertex[previous_corner(corner)]
            corner = start
            while True:
                near[min(count, CROWDED - 1)] = row
                count += 1
                again |= marks >> np.uint64(row & 63)
                marks |= np.uint64(1) << np.uint64(row & 63)
                if opposite[previous_corner(corner)] < 0:
                    break
                corner = previous_corner(opposite[previous_corner(corner)])
                seen += 1
                row = vertex[next_corner(corner)]
        if again & np.uint64(1) and _twice(near, min(count, CROWDED - 1)):
            out[0] = corner
            return
    out[1] = seen


def outside(values: Values, low: float, high: float) -> int:
    """How many numbers of an array are not within `low` to `high`; what is not finite never is."""
    with np.errstate(invalid="ignore"):
        if not values.size or (low <= values.min() and values.max() <= high):  # false where one of the two is no number
            return 0
        return int(np.count_nonzero(~((values >= low) & (values <= high))))


def off_total(values: Values, slack: float, most: bool = False) -> int:
    """How many rows of an (N, K) array do not sum to 1, or with `most` to more than 1, to within `slack`."""
    total = values @ np.ones(values.shape[1], np.float32)
    return int(np.count_nonzero(total > 1.0 + slack)) + (0 if most else int(np.count_nonzero(total < 1.0 - slack)))


def wrong_triangle(corners: CornerTable, threads: int = WORKERS) -> int:
    """A triangle slot at which a corner table is no manifold of one winding, or contradicts itself; -1 when it is sound.

    Large tables are looked through in pieces, `threads` of them side by side.
    """
    tables = corners.vertex, corners.opposite, corners.first_corner
    found, live = _in_pieces(threads, _wrong_sides, tables, corners.vertex.size // 3)
    if found < 0:  # only then do fans end
        found, seen = _in_pieces(threads, _fans, tables, corners.first_corner.size)
        if found < 0 and seen != live:
            found = 0
    return found // 3 if found >= 0 else -1


def _fans(vertex: Corners, opposite: Corners, first: Corners, begin: int, stop: int, out: Counts) -> None:
    _wrong_fans(vertex, opposite, first, begin, stop, out, np.empty(CROWDED, np.int32))


def _in_pieces(
    threads: int, work: Callable[..., None], tables: tuple[Corners, Corners, Corners], total: int
) -> tuple[int, int]:
    # the first corner that is wrong or -1, and the sum of what was counted
    bounds = np.linspace(0, total, max(1, min(4 * WORKERS, total // PIECE)) + 1).astype(int).tolist()
    outs = [np.zeros(2, np.int64) for _ in bounds[1:]]
    spans = list(itertools.pairwise(bounds))
    side_by_side(lambda piece: work(*tables, *spans[piece], outs[piece]), range(len(outs)), threads)
    wrong = [int(out[0]) for out in outs if out[0] >= 0]
    return min(wrong, default=-1), sum(int(out[1]) for out in outs)
