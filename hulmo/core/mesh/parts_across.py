"""Parts of a mesh that one can walk through from triangle to triangle."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Corners = NDArray[np.int32]
Mask = NDArray[np.bool_]


def parts_across(opposite: Corners, live: Mask, closed: Mask | None = None) -> tuple[int, NDArray[np.int32]]:
    """How many parts there are, and (M,) the part of each triangle, in the order they are met; -1 of those that are not live.

    Parameters
    ----------
    opposite : (3 M,) int32
        -1 at borders.
    live : (M,) bool
    closed : (M, 3) bool, optional
        Edges, by the corner across, that are not walked over.

    Examples
    --------
    >>> count, part = parts_across(np.array([5, -1, -1, -1, -1, 0], np.int32), np.ones(2, bool))
    >>> count, part.tolist()
    (1, [0, 0])
    """
    part = np.full(live.size, -1, np.int32)
    shut = np.zeros(opposite.size, np.bool_) if closed is None else np.ascontiguousarray(closed).reshape(-1)
    return _walk(np.ascontiguousarray(opposite), live, shut, np.empty(part.size, np.int32), part), part


@kernel("int64(int32[::1], boolean[::1], boolean[::1], int32[::1], int32[::1])")
def _walk(opposite: Corners, live: Mask, closed: Mask, waiting: Corners, part: NDArray[np.int32]) -> int:
    count = 0
    for seed in range(part.size):
        if part[seed] >= 0 or not live[seed]:
            continue
        part[seed] = count
        waiting[0] = seed
        size = 1
        while size > 0:
            size -= 1
            base = 3 * np.int64(waiting[size])
            for corner in range(base, base + 3):
                other = opposite[corner] // 3  # -1 stays below 0
                if other >= 0 and not closed[corner] and part[other] < 0:
                    part[other] = count
                    waiting[size] = other
                    size += 1
        count += 1
    return count
