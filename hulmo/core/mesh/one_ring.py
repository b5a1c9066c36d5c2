"""Walking the corners around one vertex: the inlined heart of every connectivity kernel.

Corner table after Rossignac, Safonova and Szymczak, "3D compression made simple: Edgebreaker on a corner-table"
(SMI 2001): corner c belongs to triangle c // 3 and stands at vertex[c]; opposite[c] is the corner that faces c across the
edge (next(c), previous(c)), or -1 where that edge is a border.
"""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels

Corners = NDArray[np.int32]


@written_into_kernels
def next_corner(corner):  # type: ignore[no-untyped-def]
    """The following corner of the same triangle."""
    # unsigned remainders need no case for numbers below 0
    return corner - 2 if np.uint32(corner) % np.uint32(3) == 2 else corner + 1


@written_into_kernels
def previous_corner(corner):  # type: ignore[no-untyped-def]
    """The preceding corner of the same triangle."""
    return corner + 2 if np.uint32(corner) % np.uint32(3) == 0 else corner - 1


@written_into_kernels
def triangle_of(corner):  # type: ignore[no-untyped-def]
    """The triangle of a corner."""
    return np.int64(np.uint32(corner) // np.uint32(3))


@kernel("int64(int32[::1], int64, int32[::1])")
def _ring(opposite: Corners, start: int, out: Corners) -> int:
    count = 0
    corner = start
    while True:
        if count >= out.size:
            return -1
        out[count] = corner
        count += 1
        across = opposite[next_corner(corner)]
        if across < 0:
            break
        corner = next_corner(across)
        if corner == start:
            return count
    forward = count
    corner = start
    while True:
        across = opposite[previous_corner(corner)]
        if across < 0:
            break
        corner = previous_corner(across)
        if count >= out.size:
            return -1
        out[count] = corner
        count += 1
    # backward part was found nearest first; order the whole fan counter-clockwise
    fan = out[:count].copy()
    backward = count - forward
    for i in range(backward):
        out[i] = fan[count - 1 - i]
    for i in range(forward):
        out[backward + i] = fan[i]
    return count


def one_ring_corners(opposite: Corners, start: int) -> Corners:
    """Corners at one vertex, counter-clockwise seen from outside; a border fan runs from border to border.

    Parameters
    ----------
    opposite : (3 M,) int32
        Opposite corner of every corner, -1 at a border.
    start : int
        Any corner at the vertex.

    Returns
    -------
    (K,) int32
        One corner for each triangle at the vertex.
    """
    size = 16
    while True:
        out = np.empty(size, np.int32)
        count = _ring(opposite, start, out)
        if count >= 0:
            return out[:count]
        size *= 4


@kernel("void(int32[::1], int32[::1], int32[::1], boolean[::1])")
def _on_border(opposite: Corners, first: Corners, rows: Corners, out: NDArray[np.bool_]) -> None:
    for i in range(rows.size):
        start = first[rows[i]]
        out[i] = start < 0
        corner = start
        while start >= 0:
            across = opposite[next_corner(corner)]
            if across < 0:
                out[i] = True
                break
            corner = next_corner(across)
            if corner == start:
                break


def on_border(opposite: Corners, first_corner: Corners, rows: Corners) -> NDArray[np.bool_]:
    """Which rows lie on a border of the mesh (or on no triangle at all); the cost is that of the rows named.

    Parameters
    ----------
    opposite : (3 M,) int32
    first_corner : (N,) int32
    rows : (K,) int32

    Returns
    -------
    (K,) bool
    """
    out = np.empty(rows.size, np.bool_)
    _on_border(opposite, first_corner, rows, out)
    return out
