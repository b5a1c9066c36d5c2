"""Colours as whole numbers of 16 bits."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.workers import by_pieces

PIECE = 100_000
"""Vertices that one thread looks at a time."""


@kernel("void(float32[:,::1], uint16[:,::1])")
def _whole(share: NDArray[np.float32], out: NDArray[np.uint16]) -> None:
    for row in range(share.shape[0]):
        for column in range(3):
            value = np.float32(min(max(share[row, column], np.float32(0.0)), np.float32(1.0)))
            out[row, column] = np.uint16(np.rint(value * np.float32(65535.0)))
        out[row, 3] = 65535


def opaque(colour: NDArray[np.float32]) -> NDArray[np.uint16]:
    """(N, 4) whole 65535ths of (N, 3) colours, 0 to 1, and 65535."""
    out = np.empty((colour.shape[0], 4), np.uint16)
    colour = np.ascontiguousarray(colour)
    by_pieces(lambda rows: _whole(colour[rows], out[rows]), colour.shape[0], PIECE)
    return out
