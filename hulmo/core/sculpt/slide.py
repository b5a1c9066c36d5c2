"""Loose material sliding to its angle of repose, on triangles that lie any way in space."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Vector = NDArray[np.float64]

CEILING = -0.7
"""Triangles whose normal points down further than this carry nothing that could slide."""

LONGEST = 0.2
"""Share of a triangle's size that one step may move a vertex."""


@kernel("float64(float64[:,::1], float64[:,::1], float64[::1], int32[:,::1], float64[::1], float64, int64)")
def _slide(
    position: Vector,
    normal: Vector,
    mobile: Vector,
    triangle: NDArray[np.int32],
    stiff: Vector,
    limit: float,
    sweeps: int,
) -> float:
    steepest = 1.0
    g = np.empty(3, np.float64)
    facing = np.empty(3, np.float64)
    for sweep in range(sweeps):
        steepest = 1.0
        for k in range(triangle.shape[0]):
            t = k if sweep % 2 == 0 else triangle.shape[0] - 1 - k
            if stiff[t] <= 0.0:
                continue
            a = triangle[t, 0]
            b = triangle[t, 1]
            c = triangle[t, 2]
            ux = position[b, 0] - position[a, 0]
            uy = position[b, 1] - position[a, 1]
            uz = position[b, 2] - position[a, 2]
            vx = position[c, 0] - position[a, 0]
            vy = position[c, 1] - position[a, 1]
            vz = position[c, 2] - position[a, 2]
            nx = uy * vz - uz * vy
            ny = uz * vx - ux * vz
            nz = ux * vy - uy * vx
            double = np.sqrt(nx * nx + ny * ny + nz * nz)
            if double < 1e-18:
                continue
            nx /= double
            ny /= double
            nz /= double
            if ny >= limit or ny < CEILING:
                continue
            steepest = min(steepest, ny)
            # upward part of the gradient of each corner's barycentric weight: n x (opposite edge) / twice the area
            g[1] = (nz * (-vx) - nx * (-vz)) / double
            g[2] = (nz * ux - nx * uz) / double
            g[0] = -g[1] - g[2]
            total = 0.0
            for i in range(3):
                row = triangle[t, i]
                facing[i] = max(normal[row, 0] * nx + normal[row, 1] * ny + normal[row, 2] * nz, 0.2)
                total += mobile[row] * g[i] * g[i] * facing[i]
            if total <= 0.0:
                continue
            push = (limit - ny) / total * stiff[t]
            longest = 0.0
            for i in range(3):
                longest = max(longest, abs(push * mobile[triangle[t, i]] * g[i]))
            most = LONGEST * np.sqrt(double)
            if longest > most:
                push *= most / longest
            for i in range(3):
                row = triangle[t, i]
                step = -push * mobile[row] * g[i]
                position[row, 0] += step * normal[row, 0]
                position[row, 1] += step * normal[row, 1]
                position[row, 2] += step * normal[row, 2]
        if steepest == 1.0:
            break
    return steepest


def vertex_areas(position: Vector, triangles: NDArray[np.int32], count: int) -> Vector:
    """(count,) a third of the area of the triangles at each vertex, square metres."""
    a, b, c = (position[triangles[:, i]] for i in range(3))
    third = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 6.0
    area = np.zeros(count)
    for i in range(3):
        area += np.bincount(triangles[:, i], third, count)
    return area


def slide(
    position: Vector,
    normal: Vector,
    triangles: NDArray[np.int32],
    free: NDArray[np.floating],
    angle: float,
    sweeps: int,
) -> tuple[Vector, float]:
    """Positions after material steeper than its angle of repose slid downhill.

    Parameters
    ----------
    position, normal : (K, 3) float64
        Metres; unit vertex normals, along which material is taken off and heaped up.
    triangles : (T, 3) int32
    free : (K,) float
        0 keeps a vertex where it is, 1 lets it go all the way.
    angle : float
        Angle of repose, degrees above level.
    sweeps : int
        Passes over all triangles at the most; fewer when nothing is too steep any more.

    Returns
    -------
    tuple
        (K, 3) float64 positions, and the steepest slope met in the last pass, degrees (0 when none was too steep).

    Notes
    -----
    Each triangle is a constraint n . up >= cos(angle), projected as in position based dynamics (Müller et al. 2007) with
    inverse vertex areas for inverse masses: what one corner loses, area times height, the others gain.
    """
    out = np.array(position, np.float64, order="C")
    area = vertex_areas(out, triangles, out.shape[0])
    mobile = np.zeros(out.shape[0])
    np.divide(1.0, area, out=mobile, where=area > 0)
    free = np.asarray(free, np.float64)
    stiff = np.min(free[triangles], axis=1) if triangles.size else np.zeros(0)
    normal = np.ascontiguousarray(normal, np.float64)
    triangles = np.ascontiguousarray(triangles, np.int32)
    before = _volume_under(out, triangles)
    steepest = _slide(out, normal, mobile, triangles, stiff, math.cos(math.radians(angle)), sweeps)
    _give_back(out, position, normal, area, before - _volume_under(out, triangles))
    return out, math.degrees(math.acos(max(-1.0, min(1.0, steepest))))


def _volume_under(position: Vector, triangles: NDArray[np.int32]) -> float:
    # signed tetrahedra against a point nearby; borders do not move, so differences of it are differences of volume
    if not triangles.size:
        return 0.0
    a, b, c = (position[triangles[:, i]] - position[0] for i in range(3))
    return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)


def _give_back(out: Vector, before: Vector, normal: Vector, area: Vector, missing: float) -> None:
    # steps along turning normals leave a small error of volume; it is laid where material moved
    moved = np.abs(np.einsum("ij,ij->i", out - before, normal))
    total = float((moved * area).sum())
    if total > 0:
        out += normal * (moved * (missing / total))[:, None]
