"""Where a line meets a triangle: the inlined heart of every search along a line."""

import numpy as np

from hulmo.core.kernel import written_into_kernels
from hulmo.core.mesh.moment import place_at


@written_into_kernels
def ray_triangle(position, start, slot, p, q, r, ox, oy, oz, dx, dy, dz, slack, flat):  # type: ignore[no-untyped-def]
    """Distance along a line, in lengths of its direction, and the shares of the second and third corner; nan for a miss.

    Positions are those of `moment.place_at`. `slack` is how far beyond its sides a triangle counts, as a share of them;
    `flat` the size of the determinant up to which the line counts as lying in the plane.

    Möller and Trumbore, "Fast, minimum storage ray-triangle intersection" (1997), in double precision.
    """
    x, y, z = place_at(position, start, slot, p)
    px = np.float64(x)
    py = np.float64(y)
    pz = np.float64(z)
    x, y, z = place_at(position, start, slot, q)
    ax = x - px
    ay = y - py
    az = z - pz
    x, y, z = place_at(position, start, slot, r)
    bx = x - px
    by = y - py
    bz = z - pz
    hx = dy * bz - dz * by
    hy = dz * bx - dx * bz
    hz = dx * by - dy * bx
    det = ax * hx + ay * hy + az * hz
    if abs(det) <= flat:
        return np.nan, 0.0, 0.0
    sx = ox - px
    sy = oy - py
    sz = oz - pz
    u = (sx * hx + sy * hy + sz * hz) / det
    if u < -slack or u > 1.0 + slack:
        return np.nan, u, 0.0
    qx = sy * az - sz * ay
    qy = sz * ax - sx * az
    qz = sx * ay - sy * ax
    v = (dx * qx + dy * qy + dz * qz) / det
    if v < -slack or u + v > 1.0 + slack:
        return np.nan, u, v
    return (bx * qx + by * qy + bz * qz) / det, u, v
