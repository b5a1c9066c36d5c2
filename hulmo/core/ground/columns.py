"""What becomes of weight columns when the palette changes."""

import numpy as np
from numpy.typing import NDArray

Weights = NDArray[np.float32]
Columns = NDArray[np.int64]


def added(weights: Weights, count: int = 1) -> Weights:
    """(N, G + count) weights with empty columns for new last grounds."""
    return np.concatenate((weights, np.zeros((weights.shape[0], count), np.float32)), axis=1)


def removed(weights: Weights, ground: int) -> Weights:
    """(N, G - 1) weights without a ground: its share goes to what else lies there, in proportion; it is lost elsewhere."""
    total = weights.sum(axis=1, dtype=np.float64)
    rest = np.delete(weights, ground, axis=1).astype(np.float64)
    left = rest.sum(axis=1)
    scale = np.where(left > 1e-6, total / np.where(left > 1e-6, left, 1.0), 0.0)
    return np.asarray(rest * scale[:, None], np.float32)


def ordered(weights: Weights, order: Columns) -> Weights:
    """(N, G) weights with the columns in another order: column i is the old column `order[i]`."""
    return np.ascontiguousarray(weights[:, order])


def merged(weights: Weights, ground: int, into: int) -> Weights:
    """(N, G - 1) weights without a ground: all of its share goes to another one."""
    out = weights.copy()
    out[:, into] += out[:, ground]
    return np.ascontiguousarray(np.delete(out, ground, axis=1))
