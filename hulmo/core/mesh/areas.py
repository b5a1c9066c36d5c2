"""Areas of triangles."""

import numpy as np
from numpy.typing import NDArray


def triangle_areas(corner: NDArray[np.floating]) -> NDArray[np.float64]:
    """(K,) areas of (K, 3, 3) triangles, square metres for corners in metres."""
    at = corner.astype(np.float64)
    return np.asarray(np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1) / 2)
