"""An order of points in which neighbours in space are mostly neighbours in the list."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels, written_into_kernels
from hulmo.core.low_high import low_high

Items = NDArray[np.int32]


def morton_order(points: NDArray[np.floating]) -> NDArray[np.int32]:
    """Order along a Morton curve of 1024 cells a side.

    Searching a tree for many points in this order finds most of what it needs in the processor's cache: seven times as fast
    as in random order for 260,000 points on 380,000 triangles.

    Parameters
    ----------
    points : (K, 3) float

    Returns
    -------
    (K,) int

    Notes
    -----
    Morton, "A computer oriented geodetic data base and a new technique in file sequencing" (1966).
    """
    if not points.shape[0]:
        return np.zeros(0, np.int32)
    least, most = low_high(points)
    low = least.astype(np.float64)
    extent = max(float((most - low).max()), 1e-30)
    code = np.empty(points.shape[0], np.uint32)
    _codes(np.ascontiguousarray(points, np.float64), low, 1023.0 / extent, code)
    return in_order(code, np.arange(code.size, dtype=np.int32))


@written_into_kernels
def spread(value):  # type: ignore[no-untyped-def]
    """The ten low bits of a number, each three places from the next. For kernels."""
    value = (value | (value << 16)) & 0x030000FF
    value = (value | (value << 8)) & 0x0300F00F
    value = (value | (value << 4)) & 0x030C30C3
    return (value | (value << 2)) & 0x09249249


@kernel("void(float64[:,::1], float64[::1], float64, uint32[::1])")
def _codes(points: NDArray[np.float64], low: NDArray[np.float64], scale: float, code: NDArray[np.uint32]) -> None:
    for i in range(points.shape[0]):
        total = np.uint32(0)
        for axis in range(3):
            total |= np.uint32(spread(np.uint32((points[i, axis] - low[axis]) * scale))) << np.uint32(axis)
        code[i] = total


def in_order(code: NDArray[np.uint32], item: Items) -> Items:
    """(K,) items by their codes of 30 bits, those of one code in the order they came; both lists are used up."""
    out = np.empty_like(item)
    _radix(code, item, np.empty_like(code), out, np.empty(1025, np.int64))
    return out


@part_of_kernels
def _sort_digit(code, item, out_code, out_item, shift, start):  # type: ignore[no-untyped-def]
    # a stable counting pass by ten bits
    for i in range(1025):
        start[i] = 0
    for i in range(code.size):
        start[((code[i] >> shift) & np.uint32(1023)) + 1] += 1
    for i in range(1024):
        start[i + 1] += start[i]
    for i in range(code.size):
        digit = (code[i] >> shift) & np.uint32(1023)
        to = start[digit]
        start[digit] += 1
        out_code[to] = code[i]
        out_item[to] = item[i]


@kernel("void(uint32[::1], int32[::1], uint32[::1], int32[::1], int64[::1])")
def _radix(
    code: NDArray[np.uint32], item: Items, code2: NDArray[np.uint32], item2: Items, start: NDArray[np.int64]
) -> None:
    # the result ends in the second pair of arrays; `start` is room for counts
    _sort_digit(code, item, code2, item2, np.uint32(0), start)
    _sort_digit(code2, item2, code, item, np.uint32(10), start)
    _sort_digit(code, item, code2, item2, np.uint32(20), start)
