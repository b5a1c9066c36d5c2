"""Steps of a brush that each start from what the one before them gave."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32]


def repeated(column: Values, rows: NDArray[np.int32], steps: Sequence[Callable[[], Values]], times: int) -> Values:
    """(K, W) values of some rows after all steps, so many times over.

    Parameters
    ----------
    column : (N, W) float32
        What the steps read. It holds the values of the last step while they run, and what it held before in the end: a brush
        only says what the values are to be, the engine writes them.
    rows : (K,) int32
    steps : list of callable() -> (K, W) float32
    times : int
    """
    before = out = np.take(column, rows, axis=0)
    for _ in range(times):
        for step in steps:
            out = step()
            column[rows] = out
    column[rows] = before
    return out
