"""Zeros of which few are ever touched."""

import mmap
from typing import Any

import numpy as np
from numpy.typing import NDArray

LARGE = 1 << 22
"""Bytes from which on it matters."""


def sparse_zeros(count: int, dtype: type[np.generic]) -> NDArray[Any]:
    """Zeros that the system makes small page by small page, where they are touched.

    NumPy asks for pages of two megabytes, each of which has to be cleared when its first number is touched: for a dab on a
    body of 50 million triangles that took more time than all else.

    Parameters
    ----------
    count : int
    dtype : type

    Returns
    -------
    (count,)

    Examples
    --------
    >>> sparse_zeros(3, np.int32).tolist()
    [0, 0, 0]
    """
    size = count * np.dtype(dtype).itemsize
    if size < LARGE:
        return np.zeros(count, dtype)
    pages = mmap.mmap(-1, size, flags=mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS)
    if hasattr(mmap, "MADV_NOHUGEPAGE"):
        pages.madvise(mmap.MADV_NOHUGEPAGE)
    return np.frombuffer(pages, dtype, count)
