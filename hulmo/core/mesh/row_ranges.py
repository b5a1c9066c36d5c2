"""Joining touched rows into a few ranges, for uploads that move blocks rather than single rows."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Rows = NDArray[np.int32]


@kernel("int64(int32[::1], int64, int32[:,::1])")
def _join(rows: Rows, gap: int, out: NDArray[np.int32]) -> int:
    count = 0
    begin = rows[0]
    last = rows[0]
    for i in range(1, rows.size):
        if rows[i] - last > gap:
            out[count, 0] = begin
            out[count, 1] = last + 1
            count += 1
            begin = rows[i]
        last = rows[i]
    out[count, 0] = begin
    out[count, 1] = last + 1
    return count + 1


def row_ranges(rows: Rows, gap: int = 64) -> NDArray[np.int32]:
    """Half-open ranges that cover some rows.

    Parameters
    ----------
    rows : (K,) int32
        Ascending.
    gap : int
        Ranges closer than this are joined: moving a few rows too many costs less than one more call.

    Returns
    -------
    (R, 2) int32
        First row, and one past the last.
    """
    if rows.size == 0:
        return np.empty((0, 2), np.int32)
    out = np.empty((rows.size, 2), np.int32)
    return out[: _join(rows, gap, out)]
