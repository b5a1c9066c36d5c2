"""How far triangles reach away from other triangles."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.tree_query import closest_on_triangle

Corners = NDArray[np.float64]


def furthest(corner: Corners, other: Corners) -> NDArray[np.float64]:
    """(K,) metres that no point of a triangle lies further from another one.

    The distance to a triangle, which is convex, is a convex function, so that over a triangle it is largest at a corner.

    Parameters
    ----------
    corner, other : (K, 3, 3) float64
        Metres.
    """
    out = np.empty(corner.shape[0])
    _furthest(np.ascontiguousarray(corner, np.float64), np.ascontiguousarray(other, np.float64), out)
    return out


@kernel("void(float64[:,:,::1], float64[:,:,::1], float64[::1])")
def _furthest(corner: Corners, other: Corners, out: NDArray[np.float64]) -> None:
    for i in range(corner.shape[0]):
        worst = 0.0
        for k in range(3):
            ax = other[i, 0, 0] - corner[i, k, 0]
            ay = other[i, 0, 1] - corner[i, k, 1]
            az = other[i, 0, 2] - corner[i, k, 2]
            bx = other[i, 1, 0] - corner[i, k, 0]
            by = other[i, 1, 1] - corner[i, k, 1]
            bz = other[i, 1, 2] - corner[i, k, 2]
            cx = other[i, 2, 0] - corner[i, k, 0]
            cy = other[i, 2, 1] - corner[i, k, 1]
            cz = other[i, 2, 2] - corner[i, k, 2]
            v, w = closest_on_triangle(ax, ay, az, bx, by, bz, cx, cy, cz)
            u = 1.0 - v - w
            dx = u * ax + v * bx + w * cx
            dy = u * ay + v * by + w * cy
            dz = u * az + v * bz + w * cz
            worst = max(worst, dx * dx + dy * dy + dz * dz)
        out[i] = np.sqrt(worst)
