"""Costly measures of a surface taken at a sample of its vertices and spread to the rest."""

import itertools
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.workers import WORKERS, side_by_side

Rows = NDArray[np.int32]
Values = NDArray[np.float32]

MANY = 50_000
"""Rows from which threads pay."""

SPREADINGS = {1: 0, 4: 3, 16: 8, 64: 20}
"""Rings over which values are spread, for one sample in so many vertices."""


WIDEST = 14
"""Neighbours of a vertex that are asked at the most."""


def sparseness(wanted: float) -> int:
    """The largest of the known sparsenesses that is no larger than wanted."""
    return max(size for size in SPREADINGS if size <= max(wanted, 1.0))


def is_sample(position: NDArray[np.float32], sparse: int) -> NDArray[np.bool_]:
    """(K,) whether vertices at (K, 3) positions are in the sample: by their place alone, so that one stays in it whatever
    happens elsewhere and however vertices are numbered."""
    bits = np.ascontiguousarray(position).view(np.uint32)
    mixed = bits[:, 0] * np.uint32(2654435761) + bits[:, 1] * np.uint32(2246822519) + bits[:, 2] * np.uint32(3266489917)
    mixed ^= mixed >> np.uint32(15)
    mixed *= np.uint32(2654435761)  # Knuth's multiplicative hash
    return np.asarray((mixed >> np.uint32(20)) & np.uint32(sparse - 1) == 0)


@kernel("void(int32[::1], int32[::1], int32[::1], int32[::1], int32[::1], int32[:,::1], int64, int64)")
def _find_rings(
    vertex: Rows, opposite: Rows, first: Rows, rows: Rows, place: Rows, ring: NDArray[np.int32], begin: int, end: int
) -> None:
    # ring[i, 0] neighbours of row i follow, as places among the rows; -1 for those that are not among them
    for i in range(begin, end):
        count = 0
        start = first[rows[i]]
        corner = start
        while corner >= 0 and count < ring.shape[1] - 2:
            other = vertex[next_corner(corner)]
            at = place[other]
            count += 1
            ring[i, count] = at if 0 <= at < rows.size and rows[at] == other else -1
            across = opposite[next_corner(corner)]
            if across < 0:
                other = vertex[previous_corner(corner)]
                at = place[other]
                count += 1
                ring[i, count] = at if 0 <= at < rows.size and rows[at] == other else -1
                break
            corner = next_corner(across)
            if corner == start:
                break
        ring[i, 0] = count


@kernel("void(int32[:,::1], float32[::1], float32[::1], float32[::1], float32[::1], int64, int64)")
def _spread(
    ring: NDArray[np.int32], num: Values, den: Values, out_num: Values, out_den: Values, begin: int, end: int
) -> None:
    for i in range(begin, end):
        total = num[i]
        there = den[i]
        for k in range(1, ring[i, 0] + 1):
            at = ring[i, k]
            if at >= 0:
                total += num[at]
                there += den[at]
        scale = np.float32(1.0) / np.float32(ring[i, 0] + 1)
        out_num[i] = total * scale
        out_den[i] = there * scale


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
    chosen = is_sample(np.take(body.vertices["position"], rows, axis=0), sparse)
    num, den = np.zeros(rows.size, np.float32), chosen.astype(np.float32)
    num[chosen] = measure(rows[chosen])
    place = body.places()
    place[rows] = np.arange(rows.size, dtype=np.int32)
    corners = body.corners
    other = np.empty_like(num), np.empty_like(den)
    ring = np.empty((rows.size, WIDEST + 2), np.int32)
    tables = corners.vertex, corners.opposite, corners.first_corner, rows, place, ring
    parts = WORKERS if rows.size > MANY else 1
    spans = list(itertools.pairwise(rows.size * i // parts for i in range(parts + 1)))

    def each(work: Callable[..., None], *arrays: Any) -> None:
        side_by_side(lambda span: work(*arrays, *span), spans)

    each(_find_rings, *tables)
    for _ in range(SPREADINGS[sparse]):
        each(_spread, ring, num, den, *other)
        (num, den), other = other, (num, den)
    missed = den <= 0.0
    num /= np.where(missed, np.float32(1.0), den)
    if missed.any():
        num[missed] = measure(rows[missed])
    return num
