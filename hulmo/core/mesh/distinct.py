"""The distinct numbers of a list, ascending."""

import numpy as np
from numpy.typing import NDArray

Rows = NDArray[np.int32]


def distinct(rows: Rows) -> Rows:
    """Sorted, each once.

    By sorting: for lists of some thousand int32 that is several times faster than the hashing of `numpy.unique`.

    Examples
    --------
    >>> distinct(np.array([3, 1, 3], np.int32)).tolist()
    [1, 3]
    """
    if not rows.size:
        return rows.reshape(-1)
    ordered = np.sort(rows, axis=None)
    return ordered[np.concatenate(([True], ordered[1:] != ordered[:-1]))]
