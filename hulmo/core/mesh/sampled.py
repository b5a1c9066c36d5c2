"""Costly measures of a surface taken at a sample of its vertices and spread to the rest."""

import itertools
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import MANY, WORKERS, Body
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Rows = NDArray[np.int32]
Values = NDArray[np.float32]

SPREADINGS = {1: 0, 4: 3, 16: 8, 64: 20}
"""Rings over which values are spread, for one sample in so many vertices."""


def sparseness(wanted: float) -> int:
    """The largest of the known sparsenesses that is no larger than wanted."""
    return max(size for size in SPREADINGS if size <= max(wanted, 1.0))


def is_sample(rows: Rows, sparse: int) -> NDArray[np.bool_]:
    """(K,) whether each row is in the sample: by its number alone, so that a sample stays one whatever happens elsewhere."""
    # Knuth's multiplicative hash
    mixed = (rows.astype(np.uint32) * np.uint32(2654435761)) >> np.uint32(20)
    return np.asarray((mixed & np.uint32(sparse - 1)) == 0)


@njit(inline="always")
def _take(rows, place, other, num, den, state):  # type: ignore[no-untyped-def]
    at = place[other]
    if 0 <= at < rows.size and rows[at] == other:
        state[0] += num[at]
        state[1] += den[at]
    state[2] += 1.0


@kernel(
    "void(int32[::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[::1], float32[::1], float32[::1], "
    "float32[::1], int64, int64)"
)
def _spread(
    vertex: Rows,
    opposite: Rows,
    first: Rows,
    rows: Rows,
    place: Rows,
    num: Values,
    den: Values,
    out_num: Values,
    out_den: Values,
    begin: int,
    end: int,
) -> None:
    state = np.empty(3, np.float64)
    for i in range(begin, end):
        state[0] = num[i]
        state[1] = den[i]
        state[2] = 1.0
        start = first[rows[i]]
        corner = start
        while corner >= 0:
            _take(rows, place, vertex[next_corner(corner)], num, den, state)
            across = opposite[next_corner(corner)]
            if across < 0:
                _take(rows, place, vertex[previous_corner(corner)], num, den, state)
                corner = start
                while opposite[previous_corner(corner)] >= 0:
                    corner = previous_corner(opposite[previous_corner(corner)])
                    _take(rows, place, vertex[next_corner(corner)], num, den, state)
                break
            corner = next_corner(across)
            if corner == start:
                break
        out_num[i] = state[0] / state[2]
        out_den[i] = state[1] / state[2]


def sampled(body: Body, rows: Rows, sparse: int, measure: Callable[[Rows], Values]) -> Values:
    """A measure at some rows, taken at one in `sparse` of them and spread from there.

    Parameters
    ----------
    body : Body
    rows : (K,) int32
        Ascending. Rows nearer than the spread to the rim of what is named get what the sample within says.
    sparse : int
        One of `SPREADINGS`; 1 measures every row.
    measure : callable((L,) int32) -> (L,) float32

    Returns
    -------
    (K,) float32
        The mean of the samples around, nearer ones counting more; rows that none reaches are measured themselves.
    """
    if sparse == 1:
        return measure(rows)
    chosen = is_sample(rows, sparse)
    num, den = np.zeros(rows.size, np.float32), chosen.astype(np.float32)
    num[chosen] = measure(rows[chosen])
    place = body.places()
    place[rows] = np.arange(rows.size, dtype=np.int32)
    corners = body.corners
    other = np.empty_like(num), np.empty_like(den)
    ends = np.linspace(0, rows.size, (WORKERS if rows.size > MANY else 1) + 1).astype(int).tolist()
    with ThreadPoolExecutor(len(ends) - 1) as pool:
        for _ in range(SPREADINGS[sparse]):

            def part(span: tuple[int, int], now: tuple[Values, Values] = (num, den), to: Any = other) -> None:
                _spread(corners.vertex, corners.opposite, corners.first_corner, rows, place, *now, *to, *span)

            list(pool.map(part, itertools.pairwise(ends)))
            (num, den), other = other, (num, den)
    missed = den <= 0.0
    num /= np.where(missed, np.float32(1.0), den)
    if missed.any():
        num[missed] = measure(rows[missed])
    return num
