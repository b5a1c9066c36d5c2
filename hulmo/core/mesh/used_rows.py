"""Which vertices triangles use, and the triangles over those alone."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Rows = NDArray[np.int32]


def used_rows(triangles: NDArray[np.integer], count: int) -> Rows:
    """(K,) rows of a table of `count` vertices that (M, 3) triangles use, ascending.

    Examples
    --------
    >>> used_rows(np.array([[4, 1, 2]], np.int32), 6).tolist()
    [1, 2, 4]
    """
    used = np.zeros(count, np.bool_)
    _mark(np.ascontiguousarray(triangles, np.int32).reshape(-1), used)
    return np.flatnonzero(used).astype(np.int32)


def over_used_rows(triangles: NDArray[np.integer], count: int) -> tuple[Rows, Rows]:
    """The rows that triangles use, and (M, 3) the triangles over these rows alone.

    Examples
    --------
    >>> over_used_rows(np.array([[4, 1, 2]], np.int32), 6)[1].tolist()
    [[2, 0, 1]]
    """
    rows = used_rows(triangles, count)
    number = np.empty(count, np.int32)
    number[rows] = np.arange(rows.size, dtype=np.int32)
    return rows, number.take(triangles)


@kernel("void(int32[::1], boolean[::1])")
def _mark(vertex: Rows, used: NDArray[np.bool_]) -> None:
    for i in range(vertex.size):
        used[vertex[i]] = True
