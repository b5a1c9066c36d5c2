"""Corners of triangles where they are."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body


def placed_corners(body: Body, slots: NDArray[np.integer]) -> NDArray[np.float64]:
    """(K, 3, 3) corners of some live triangles of a body, metres."""
    return np.asarray(body.placed(body.vertices["position"][body.corners.triangles[slots]]))
