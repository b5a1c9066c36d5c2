"""Which triangles have corners among some vertices."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Mask = NDArray[np.bool_]


def any_of(rows: Mask, triangles: NDArray[np.int32]) -> Mask:
    """(M,) triangles with at least one corner among (N,) vertices; a freed slot counts as the last vertex."""
    out = np.empty(triangles.shape[0], np.bool_)
    _any(np.ascontiguousarray(rows, np.bool_), np.ascontiguousarray(triangles, np.int32), out)
    return out


def all_of(rows: Mask, triangles: NDArray[np.int32]) -> Mask:
    """(M,) triangles with all corners among (N,) vertices; a freed slot counts as the last vertex."""
    out = np.empty(triangles.shape[0], np.bool_)
    _all(np.ascontiguousarray(rows, np.bool_), np.ascontiguousarray(triangles, np.int32), out)
    return out


@kernel("void(boolean[::1], int32[:,::1], boolean[::1])")
def _any(rows: Mask, triangles: NDArray[np.int32], out: Mask) -> None:
    for t in range(triangles.shape[0]):
        out[t] = rows[triangles[t, 0]] or rows[triangles[t, 1]] or rows[triangles[t, 2]]


@kernel("void(boolean[::1], int32[:,::1], boolean[::1])")
def _all(rows: Mask, triangles: NDArray[np.int32], out: Mask) -> None:
    for t in range(triangles.shape[0]):
        out[t] = rows[triangles[t, 0]] and rows[triangles[t, 1]] and rows[triangles[t, 2]]
