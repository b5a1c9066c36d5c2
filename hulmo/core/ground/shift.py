"""Moving weight to or from one ground while the sum stays 1."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Rows = NDArray[np.int32]
Weights = NDArray[np.float32]


@kernel("void(float32[:,::1], int32[::1], float32[::1], int64, float64, float32[:,::1])")
def _shift(weight: Weights, rows: Rows, amount: NDArray[np.float32], ground: int, sign: float, out: Weights) -> None:
    grounds = weight.shape[1]
    for i in range(rows.size):
        row = rows[i]
        had = np.float64(weight[row, ground])
        wanted = min(max(had + sign * amount[i], 0.0), 1.0)
        rest = 0.0
        for other in range(grounds):
            if other != ground:
                rest += weight[row, other]
        if wanted == had or grounds == 1:
            for other in range(grounds):
                out[i, other] = weight[row, other]
            continue
        if rest > 1e-6:
            scale = (1.0 - wanted) / rest
            for other in range(grounds):
                out[i, other] = weight[row, other] * scale
        else:
            for other in range(grounds):
                out[i, other] = 0.0
            out[i, 1 if ground == 0 else 0] = 1.0 - wanted
        out[i, ground] = wanted


def shift(weight: Weights, rows: Rows, amount: NDArray[np.float32], ground: int, sign: float) -> Weights:
    """New weights after adding to, or taking from, one ground.

    Parameters
    ----------
    weight : (N, G) float32
        Rows sum to 1.
    rows : (K,) int32
    amount : (K,) float32
        Share to add (0 to 1); two times 0.1 give 0.2.
    ground : int
        Column.
    sign : float
        1 adds, -1 takes away.

    Returns
    -------
    (K, G) float32
        The other grounds keep their proportions. What is taken where nothing else lies goes to the first ground (to the
        second when it is the first that is taken). A palette of one ground stays as it is.
    """
    out = np.empty((rows.size, weight.shape[1]), np.float32)
    _shift(weight, rows, amount, ground, sign, out)
    return out
