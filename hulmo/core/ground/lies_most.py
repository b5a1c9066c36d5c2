"""Which ground lies most on each triangle."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel


def lies_most(weights: NDArray[np.number], triangles: NDArray[np.integer]) -> NDArray[np.int64]:
    """(M,) column of the ground of which the three corners have most together; of several the first.

    Parameters
    ----------
    weights : (N, G) number
    triangles : (M, 3) int
    """
    out = np.zeros(triangles.shape[0], np.int64)
    _lies_most(np.ascontiguousarray(weights, np.float32), np.ascontiguousarray(triangles, np.int32), out)
    return out


@kernel("void(float32[:,::1], int32[:,::1], int64[::1])")
def _lies_most(weights: NDArray[np.float32], triangles: NDArray[np.int32], out: NDArray[np.int64]) -> None:
    for t in range(triangles.shape[0]):
        best = np.float32(-1.0)
        for ground in range(weights.shape[1]):
            share = np.float32(0.0)
            for k in range(3):
                share += weights[triangles[t, k], ground]
            if share > best:
                best = share
                out[t] = ground
