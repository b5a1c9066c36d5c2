"""Which rows of two arrays are not the same to the bit."""

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]


def rows_differ(one: Values, other: Values) -> NDArray[np.bool_]:
    """(K,) whether rows of two (K, W) arrays differ in any bit: 0 and -0 do, and a number that is none equals itself."""
    a, b = np.ascontiguousarray(one, np.float32), np.ascontiguousarray(other, np.float32)
    unlike = a.view(np.uint32) != b.view(np.uint32)
    return np.asarray(unlike.any(axis=tuple(range(1, unlike.ndim))))
