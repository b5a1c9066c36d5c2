"""Loose material sliding to its angle of repose, on triangles that lie any way in space."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Vector = NDArray[np.float64]

WALL = 0.2
"""Normals that point up less than this belong to walls."""

OVERHANG = 0.0
"""Triangles whose normal points up no more than this carry nothing loose, and keep what slides down to them out."""

HEAP = 0.25
"""Upward part of its surroundings from which a triangle that hangs over counts as a crumb, not as a wall."""

FOLDED = 0.05
"""Least cosine between a triangle's normal and the way of its corners at which it takes part."""

LONGEST = 0.5
"""Share of a triangle's size that one step may move a vertex."""


@kernel(
    "float64(float64[:,::1], float64[:,::1], float64[::1], int32[:,::1], float64[::1], float64[::1], float64, "
    "int64)"
)
def _slide(
    position: Vector,
    way: Vector,
    mobile: Vector,
    triangle: NDArray[np.int32],
    stiff: Vector,
    size: Vector,
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
            if ny >= limit or ny <= OVERHANG:
                continue
            steepest = min(steepest, ny)
            level = np.sqrt(max(1.0 - ny * ny, 1e-12))
            # how much too steep, and how that changes with n . way: by tangent, which upright steps change evenly; on walls
            # by angle, which steps square to them change evenly
            if ny > WALL:
                excess = level / ny - np.sqrt(1.0 - limit * limit) / limit
                rate = 1.0 / (level * ny * ny)
            else:
                excess = np.arccos(ny) - np.arccos(limit)
                rate = 1.0 / level
            # upward part of the gradient of each corner's barycentric weight: n x (opposite edge) / twice the area
            g[1] = (nz * (-vx) - nx * (-vz)) / double
            g[2] = (nz * ux - nx * uz) / double
            g[0] = -g[1] - g[2]
            total = 0.0
            for i in range(3):
                row = triangle[t, i]
                facing[i] = way[row, 0] * nx + way[row, 1] * ny + way[row, 2] * nz
                total += mobile[row] * g[i] * g[i] * facing[i]
            # a triangle that is turned against the way its corners go would only fold further
            if total <= 0.0 or min(facing[0], facing[1], facing[2]) < FOLDED:
                continue
            push = excess / (rate * total) * stiff[t]
            longest = 0.0
            for i in range(3):
                longest = max(longest, abs(push * mobile[triangle[t, i]] * g[i]))
            most = LONGEST * size[t]
            if longest > most:
                push *= most / longest
            for i in range(3):
                row = triangle[t, i]
                step = -push * mobile[row] * g[i]
                position[row, 0] += step * way[row, 0]
                position[row, 1] += step * way[row, 1]
                position[row, 2] += step * way[row, 2]
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
    lie: Vector,
) -> tuple[Vector, float]:
    """Positions after material steeper than its angle of repose slid downhill.

    Parameters
    ----------
    position, normal : (K, 3) float64
        Metres; unit vertex normals. Material is taken off and heaped up straight down and up, on walls along the normal.
    triangles : (T, 3) int32
    free : (K,) float
        0 keeps a vertex where it is, 1 lets it go all the way.
    angle : float
        Angle of repose, degrees above level.
    sweeps : int
        Passes over all triangles at the most; fewer when nothing is too steep any more.
    lie : (K,) float64
        Upward part of the surroundings of each vertex, as `lie_of` gives it: tells loose heaps from walls.

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
    way, seen = _ways(np.asarray(normal, np.float64), lie)
    area = vertex_areas(out, triangles, out.shape[0]) * seen
    mobile = np.zeros(out.shape[0])
    np.divide(1.0, area, out=mobile, where=(area > 0) & (np.maximum(np.asarray(normal)[:, 1], lie - 0.1) > OVERHANG))
    free = np.where(mobile > 0, np.asarray(free, np.float64), 0.0)  # a triangle takes part only with corners that all can give and take
    stiff = np.min(free[triangles], axis=1) if triangles.size else np.zeros(0)
    triangles = np.ascontiguousarray(triangles, np.int32)
    size = np.sqrt(np.min(area[triangles], axis=1)) if triangles.size else np.zeros(0)
    before = _volume_under(out, triangles)
    _unfold(out, triangles, free * (lie > HEAP))
    steepest = _slide(out, way, mobile, triangles, stiff, size, math.cos(math.radians(angle)), sweeps)
    _give_back(out, position, way, area, before - _volume_under(out, triangles))
    return out, math.degrees(math.acos(max(-1.0, min(1.0, steepest))))


def _volume_under(position: Vector, triangles: NDArray[np.int32]) -> float:
    # signed tetrahedra against a point nearby; borders do not move, so differences of it are differences of volume
    if not triangles.size:
        return 0.0
    a, b, c = (position[triangles[:, i]] - position[0] for i in range(3))
    return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)


def _unfold(out: Vector, triangles: NDArray[np.int32], free: Vector) -> None:
    # straight steps cannot mend a triangle that hangs over; where its corners are loose they are drawn level toward the
    # middle of their neighbours, as crumbling does
    if not triangles.size:
        return
    a, b, c = (out[triangles[:, i]] for i in range(3))
    up = (b[:, 2] - a[:, 2]) * (c[:, 0] - a[:, 0]) - (b[:, 0] - a[:, 0]) * (c[:, 2] - a[:, 2])
    rows = np.unique(triangles[(up <= 0) & (np.min(free[triangles], axis=1) > 0)])
    if not rows.size:
        return
    marked = np.zeros(out.shape[0], np.bool_)
    marked[rows] = True
    near = triangles[marked[triangles].any(axis=1)]
    count = np.zeros(out.shape[0])
    total = np.zeros((out.shape[0], 2))
    for i, j in ((0, 1), (1, 2), (2, 0), (1, 0), (2, 1), (0, 2)):
        count += np.bincount(near[:, i], minlength=count.size)
        for axis in range(2):
            total[:, axis] += np.bincount(near[:, i], out[near[:, j], 2 * axis], count.size)
    middle = total[rows] / count[rows][:, None]
    out[rows, 0] += (middle[:, 0] - out[rows, 0]) * free[rows]
    out[rows, 2] += (middle[:, 1] - out[rows, 2]) * free[rows]


def lie_of(normal: Vector, triangles: NDArray[np.int32], steps: int = 3) -> Vector:
    """(K,) upward part of the normals around each vertex, averaged over so many rings of triangles."""
    lie = np.asarray(normal, np.float64)
    flat = triangles.reshape(-1)
    for _ in range(steps if triangles.size else 0):
        mean = lie[triangles].sum(axis=1)
        total = np.stack([np.bincount(flat, np.repeat(mean[:, axis], 3), lie.shape[0]) for axis in range(3)], axis=1)
        length = np.linalg.norm(total, axis=1)
        used = length > 0
        lie = lie.copy()
        lie[used] = total[used] / length[used][:, None]
    return np.ascontiguousarray(lie[:, 1])


def _ways(normal: Vector, lie: Vector) -> tuple[Vector, Vector]:
    # (K, 3) unit ways that material goes, upright but for walls, and (K,) the share of an area that is seen along them
    share = np.clip((lie - 0.1) / 0.15, 0.0, 1.0)
    way = normal * (1.0 - share)[:, None]
    way[:, 1] += share
    way /= np.maximum(np.linalg.norm(way, axis=1), 1e-9)[:, None]
    return np.ascontiguousarray(way), np.maximum(np.einsum("ij,ij->i", way, normal), 0.05)


def _give_back(out: Vector, before: Vector, way: Vector, area: Vector, missing: float) -> None:
    # steps on walls leave a small error of volume; it is laid where material moved
    moved = np.abs(np.einsum("ij,ij->i", out - before, way))
    total = float((moved * area).sum())
    if abs(missing) < 0.2 * total:
        out += way * (moved * (missing / total))[:, None]
