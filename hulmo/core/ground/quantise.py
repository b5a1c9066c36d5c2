"""Weights as whole numbers whose sum is exact."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.workers import by_pieces

Weights = NDArray[np.float32]

PIECE = 100_000
"""Vertices that one thread looks at a time."""


@kernel("void(float32[:,::1], int64, uint16[:,::1], float64[::1])")
def _quantise(weight: Weights, full: int, out: NDArray[np.uint16], rest: NDArray[np.float64]) -> None:
    # `rest` has room for a number a ground
    grounds = weight.shape[1]
    for row in range(weight.shape[0]):
        total = 0.0
        for ground in range(grounds):
            total += max(np.float64(weight[row, ground]), 0.0)
        left = full
        for ground in range(grounds):
            if not weight[row, ground] > 0.0:  # most grounds lie at few vertices
                out[row, ground], rest[ground] = 0, 0.0
                continue
            exact = np.float64(weight[row, ground]) * full / total
            whole = int(exact)
            out[row, ground] = whole
            rest[ground] = exact - whole
            left -= whole
        while left > 0:
            best = 0
            for ground in range(1, grounds):
                if rest[ground] > rest[best]:
                    best = ground
            # without any weight everything goes to the first ground
            step = left if total <= 0.0 else 1
            out[row, best] += step
            rest[best] = -1.0
            left -= step


def quantise(weight: Weights, full: int = 65535) -> NDArray[np.uint16]:
    """Whole weights that sum to exactly `full` at every vertex.

    Parameters
    ----------
    weight : (N, G) float32
    full : int
        65535 for 16 bits, 255 for 8 bits.

    Returns
    -------
    (N, 4 ceil(G / 4)) uint16
        Padded with zeros to groups of four.

    Notes
    -----
    The largest-remainder (Hamilton) method: round down, then hand what is missing to the largest fractions.
    """
    grounds = weight.shape[1]
    groups = -(-grounds // 4)
    whole = np.empty(weight.shape, np.uint16)
    weight = np.ascontiguousarray(weight)
    by_pieces(lambda rows: _quantise(weight[rows], full, whole[rows], np.empty(grounds)), weight.shape[0], PIECE)
    if grounds == 4 * groups:
        return whole
    out = np.zeros((weight.shape[0], 4 * groups), np.uint16)
    out[:, :grounds] = whole
    return out
