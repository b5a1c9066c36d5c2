"""Both triangles at an edge made to say the same of it, and whether they do."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel


@kernel("void(int32[::1], float32[:,:,:], int64, int64)")
def make_agreed(opposite: NDArray[np.int32], values: NDArray[np.float32], start: int, stop: int) -> None:
    """Have both corners across an edge say the same: of what they say, what is farther from zero.

    Parameters
    ----------
    opposite : (3 M,) int32
    values : (M, 3, width) float32
        Changed in place.
    start, stop : int
        Numbers of each entry that are looked at, from the first to before the last.
    """
    for here in range(opposite.size):
        across = np.int64(opposite[here])
        if across <= here:
            continue
        a, b = here // 3, across // 3
        i, j = here - 3 * a, across - 3 * b
        for k in range(start, stop):
            one, other = values[a, i, k], values[b, j, k]
            if one == other:
                continue
            if abs(one) >= abs(other):
                values[b, j, k] = one
            else:
                values[a, i, k] = other


@kernel("boolean(int32[::1], float32[:,:,:], int32[::1])")
def edges_differ(opposite: NDArray[np.int32], values: NDArray[np.float32], slots: NDArray[np.int32]) -> bool:
    """Whether at an edge of some slots its two triangles do not say the same; see `make_agreed`."""
    for at in range(slots.size):
        t = slots[at]
        for i in range(3):
            across = np.int64(opposite[3 * t + i])
            if across < 0:
                continue
            for w in range(values.shape[2]):
                if values[t, i, w] != values[across // 3, across % 3, w]:
                    return True
    return False
