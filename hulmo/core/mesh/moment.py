"""Positions at one of two moments, for kernels: as they are now, or as they were when a stroke began."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

Points = NDArray[np.float32]

NOW = np.empty(0, np.bool_)
"""Rows that have moved since, where none have: to be given together with the positions themselves."""


def earlier(position: Points, before: tuple[Points, NDArray[np.bool_]], rows: NDArray[np.int32]) -> Points:
    """(K, 3) positions of some rows as they were."""
    start, moved = before
    if not moved.size:
        return np.take(start, rows, axis=0)
    return np.where(moved[rows][:, None], start[rows], position[rows])


@njit(inline="always")
def at(position, start, moved, row, axis):  # type: ignore[no-untyped-def]
    """One coordinate of a row: from `start` where the row has moved since (everywhere, without `moved`), else as it is."""
    return start[row, axis] if moved.size == 0 or moved[row] else position[row, axis]
