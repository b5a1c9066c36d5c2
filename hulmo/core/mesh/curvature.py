"""Curvature of a surface at its vertices."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Values = NDArray[np.float32]


@kernel(
    "void(float32[:,::1], float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[::1], float32[::1])"
)
def _curvature(
    position: Points,
    normal: Points,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    rows: Corners,
    mean: Values,
    gauss: Values,
) -> None:
    for i in range(rows.size):
        row = rows[i]
        start = first[row]
        mean[i] = 0.0
        gauss[i] = 0.0
        if start < 0:
            continue
        area = 0.0
        angles = 0.0
        kx = 0.0
        ky = 0.0
        kz = 0.0
        corner = start
        closed = False
        while True:
            p = vertex[next_corner(corner)]
            q = vertex[previous_corner(corner)]
            ax = np.float64(position[p, 0]) - position[row, 0]
            ay = np.float64(position[p, 1]) - position[row, 1]
            az = np.float64(position[p, 2]) - position[row, 2]
            bx = np.float64(position[q, 0]) - position[row, 0]
            by = np.float64(position[q, 1]) - position[row, 1]
            bz = np.float64(position[q, 2]) - position[row, 2]
            ex = bx - ax
            ey = by - ay
            ez = bz - az
            aa = ax * ax + ay * ay + az * az
            bb = bx * bx + by * by + bz * bz
            ab = ax * bx + ay * by + az * bz
            ae = -(ax * ex + ay * ey + az * ez)
            be = bx * ex + by * ey + bz * ez
            cx = ay * bz - az * by
            cy = az * bx - ax * bz
            cz = ax * by - ay * bx
            double = np.sqrt(cx * cx + cy * cy + cz * cz)
            if double > 0.0:
                angles += np.arctan2(double, ab)
                cot_p = ae / double
                cot_q = be / double
                # half the cotangent-weighted edges: every spoke is met from both of its triangles
                kx += 0.5 * (cot_q * ax + cot_p * bx)
                ky += 0.5 * (cot_q * ay + cot_p * by)
                kz += 0.5 * (cot_q * az + cot_p * bz)
                if ab < 0.0:
                    area += double / 4.0
                elif ae < 0.0 or be < 0.0:
                    area += double / 8.0
                else:
                    area += (aa * cot_q + bb * cot_p) / 8.0
            across = opposite[next_corner(corner)]
            if across < 0:
                break
            corner = next_corner(across)
            if corner == start:
                closed = True
                break
        if not closed or area <= 0.0:
            continue
        along = -(kx * normal[row, 0] + ky * normal[row, 1] + kz * normal[row, 2])
        mean[i] = along / (2.0 * area)
        gauss[i] = (2.0 * np.pi - angles) / area


def curvature(position: Points, normal: Points, corners: CornerTable, rows: Corners) -> tuple[Values, Values]:
    """Mean and Gaussian curvature at some rows; the cost is that of the rows named.

    Parameters
    ----------
    position, normal : (N, 3) float32
    corners : CornerTable
    rows : (K,) int32

    Returns
    -------
    mean : (K,) float32
        One over metres; positive on ridges and bumps, negative in hollows, 1 / R on a ball of radius R. 0 on borders.
    gauss : (K,) float32
        One over square metres; positive on bumps and in pits, negative on saddles. 0 on borders.

    Notes
    -----
    Mean: the cotangent operator over the mixed area; Gaussian: the angle defect over it. Meyer, Desbrun, Schröder and
    Barr, "Discrete differential-geometry operators for triangulated 2-manifolds" (2003).
    """
    mean, gauss = np.empty(rows.size, np.float32), np.empty(rows.size, np.float32)
    _curvature(position, normal, corners.vertex, corners.opposite, corners.first_corner, rows, mean, gauss)
    return mean, gauss
