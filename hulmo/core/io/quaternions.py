"""Rotations as scene files have them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.dress.viewpoint import view_axes


def unit(ways: NDArray[np.float32]) -> NDArray[np.float32]:
    """Vectors of length 1, in single precision; the first axis where there is none."""
    length = np.linalg.norm(ways.astype(np.float64), axis=1, keepdims=True)
    first = np.zeros_like(ways)
    first[:, 0] = 1.0
    return np.where(length > 1e-12, ways / np.maximum(length, 1e-30), first).astype(np.float32)


def looking(way: NDArray[np.float64]) -> list[float]:
    """Quaternion (x, y, z, w) that turns -Z to a (3,) vector, with +Y as far up as can be."""
    found: list[float] = quaternions(view_axes(way)[None])[0].tolist()
    return found


def quaternions(matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    """(K, 4) unit quaternions (x, y, z, w) of (K, 3, 3) rotations."""
    from scipy.spatial.transform import Rotation

    return np.asarray(Rotation.from_matrix(matrix).as_quat())
