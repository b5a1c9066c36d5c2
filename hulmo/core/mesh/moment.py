"""Positions at one of two moments, for kernels: as they are now, or as they were when a stroke began."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import written_into_kernels

Points = NDArray[np.float32]
Slots = NDArray[np.int32]

Earlier = tuple[Points, Slots]
"""Positions as they were, and for every row one more than its place among them, or 0 where it has not moved since. Without
any of these, the positions stand for all rows in order."""

NOW = np.empty(0, np.int32)
"""Together with the positions themselves: as they are."""


def earlier(position: Points, before: Earlier, rows: NDArray[np.int32]) -> Points:
    """(K, 3) positions of some rows as they were."""
    start, slot = before
    if not slot.size:
        return np.take(start, rows, axis=0)
    at = slot[rows]
    out = np.take(position, rows, axis=0)
    out[at > 0] = start[at[at > 0] - 1]
    return out


@written_into_kernels
def place_at(position, start, slot, row, then=True):  # type: ignore[no-untyped-def]
    """Coordinates of a row as it was, see `Earlier`; as it is, without `then`: a constant, so that it costs nothing.

    Where only the present is asked for, start and slot may be None: kernels made for that have no branch here.
    """
    if slot is None:
        return position[row, 0], position[row, 1], position[row, 2]
    if not then:
        return position[row, 0], position[row, 1], position[row, 2]
    kept = slot[row] if slot.size else row + 1
    if kept > 0:
        return start[kept - 1, 0], start[kept - 1, 1], start[kept - 1, 2]
    return position[row, 0], position[row, 1], position[row, 2]
