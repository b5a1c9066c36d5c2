"""Loose material sliding to its angle of repose, on triangles that lie any way in space."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import Body

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


@part_of_kernels
def _up_at(up, a, b, c, out):  # type: ignore[no-untyped-def]
    # straight up at a triangle: the same everywhere, or the mean of its corners
    if up.shape[0] == 1:
        for axis in range(3):
            out[axis] = up[0, axis]
        return
    size = 0.0
    for axis in range(3):
        out[axis] = up[a, axis] + up[b, axis] + up[c, axis]
        size += out[axis] * out[axis]
    size = max(np.sqrt(size), 1e-300)
    for axis in range(3):
        out[axis] /= size


@kernel(
    "float64(float64[:,::1], float64[:,::1], float64[::1], int32[:,::1], float64[::1], float64[::1], float64[:,::1], "
    "float64, int64)"
)
def _slide(
    position: Vector,
    way: Vector,
    mobile: Vector,
    triangle: NDArray[np.int32],
    free: Vector,
    area: Vector,
    up: Vector,
    limit: float,
    sweeps: int,
) -> float:
    steepest = 1.0
    u = np.empty(3, np.float64)
    g = np.empty(3, np.float64)
    facing = np.empty(3, np.float64)
    for sweep in range(sweeps):
        steepest = 1.0
        for k in range(triangle.shape[0]):
            t = k if sweep % 2 == 0 else triangle.shape[0] - 1 - k
            a = triangle[t, 0]
            b = triangle[t, 1]
            c = triangle[t, 2]
            stiff = min(free[a], free[b], free[c])
            if stiff <= 0.0:
                continue
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
            _up_at(up, a, b, c, u)
            rise = nx * u[0] + ny * u[1] + nz * u[2]
            if rise >= limit or rise <= OVERHANG:
                continue
            steepest = min(steepest, rise)
            level = np.sqrt(max(1.0 - rise * rise, 1e-12))
            # how much too steep, and how that changes with n . way: by tangent, which upright steps change evenly; on walls
            # by angle, which steps square to them change evenly
            if rise > WALL:
                excess = level / rise - np.sqrt(1.0 - limit * limit) / limit
                rate = 1.0 / (level * rise * rise)
            else:
                excess = np.arccos(rise) - np.arccos(limit)
                rate = 1.0 / level
            # upward part of the gradient of each corner's barycentric weight: n x (opposite edge) / twice the area
            g[1] = (
                (ny * (-vz) - nz * (-vy)) * u[0] + (nz * (-vx) - nx * (-vz)) * u[1] + (nx * (-vy) - ny * (-vx)) * u[2]
            ) / double
            g[2] = ((ny * uz - nz * uy) * u[0] + (nz * ux - nx * uz) * u[1] + (nx * uy - ny * ux) * u[2]) / double
            g[0] = -g[1] - g[2]
            total = 0.0
            for i in range(3):
                row = triangle[t, i]
                facing[i] = way[row, 0] * nx + way[row, 1] * ny + way[row, 2] * nz
                total += mobile[row] * g[i] * g[i] * facing[i]
            # a triangle that is turned against the way its corners go would only fold further
            if total <= 0.0 or min(facing[0], facing[1], facing[2]) < FOLDED:
                continue
            push = excess / (rate * total) * stiff
            longest = 0.0
            for i in range(3):
                longest = max(longest, abs(push * mobile[triangle[t, i]] * g[i]))
            most = LONGEST * np.sqrt(min(area[a], area[b], area[c]))
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


@kernel("void(float64[:,::1], int32[:,::1], float64[::1])")
def _areas(position: Vector, triangle: NDArray[np.int32], area: Vector) -> None:
    for t in range(triangle.shape[0]):
        a, b, c = triangle[t]
        ux = position[b, 0] - position[a, 0]
        uy = position[b, 1] - position[a, 1]
        uz = position[b, 2] - position[a, 2]
        vx = position[c, 0] - position[a, 0]
        vy = position[c, 1] - position[a, 1]
        vz = position[c, 2] - position[a, 2]
        nx = uy * vz - uz * vy
        ny = uz * vx - ux * vz
        nz = ux * vy - uy * vx
        third = np.sqrt(nx * nx + ny * ny + nz * nz) / 6.0
        area[a] += third
        area[b] += third
        area[c] += third


@kernel("float64(float64[:,::1], int32[:,::1])")
def _volume_under(position: Vector, triangle: NDArray[np.int32]) -> float:
    # signed tetrahedra against a point nearby; borders do not move, so differences of it are differences of volume
    total = 0.0
    if triangle.shape[0] == 0:
        return total
    ox = position[0, 0]
    oy = position[0, 1]
    oz = position[0, 2]
    for t in range(triangle.shape[0]):
        a, b, c = triangle[t]
        ax = position[a, 0] - ox
        ay = position[a, 1] - oy
        az = position[a, 2] - oz
        bx = position[b, 0] - ox
        by = position[b, 1] - oy
        bz = position[b, 2] - oz
        cx = position[c, 0] - ox
        cy = position[c, 1] - oy
        cz = position[c, 2] - oz
        total += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
    return total / 6.0


def slide(
    position: Vector,
    normal: NDArray[np.floating],
    triangles: NDArray[np.int32],
    free: NDArray[np.floating],
    angle: float,
    sweeps: int,
    lie: Vector,
    up: Vector,
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
    up : (1, 3) or (K, 3) float64
        Straight up, of length 1: everywhere, or at each vertex.

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
    triangles = np.ascontiguousarray(triangles, np.int32)
    area = np.zeros(out.shape[0])
    _areas(out, triangles, area)
    way, mobile, loose = np.empty_like(out), np.empty_like(area), np.empty_like(area)
    up = np.ascontiguousarray(up, np.float64)
    _ways(
        np.ascontiguousarray(normal, np.float64),
        up,
        lie,
        np.ascontiguousarray(free, np.float64),
        way,
        area,
        mobile,
        loose,
    )
    before = _volume_under(out, triangles)
    _unfold(out, triangles, loose * (lie > HEAP), up)
    steepest = _slide(out, way, mobile, triangles, loose, area, up, math.cos(math.radians(angle)), sweeps)
    _give_back(out, np.ascontiguousarray(position, np.float64), way, area, before - _volume_under(out, triangles))
    return out, math.degrees(math.acos(max(-1.0, min(1.0, steepest))))


@kernel("void(float64[:,::1], int32[:,::1], float64[::1], float64[:,::1])")
def _unfold(position: Vector, triangle: NDArray[np.int32], free: Vector, up: Vector) -> None:
    # straight steps cannot mend a triangle that hangs over; where its corners are loose they are drawn level toward the
    # middle of their neighbours, as crumbling does
    marked = np.zeros(position.shape[0], np.bool_)
    found = 0
    u = np.empty(3, np.float64)
    for t in range(triangle.shape[0]):
        a, b, c = triangle[t]
        ux = position[b, 0] - position[a, 0]
        uy = position[b, 1] - position[a, 1]
        uz = position[b, 2] - position[a, 2]
        vx = position[c, 0] - position[a, 0]
        vy = position[c, 1] - position[a, 1]
        vz = position[c, 2] - position[a, 2]
        _up_at(up, a, b, c, u)
        rise = (uy * vz - uz * vy) * u[0] + (uz * vx - ux * vz) * u[1] + (ux * vy - uy * vx) * u[2]
        if rise <= 0.0 and min(free[a], free[b], free[c]) > 0.0:
            marked[a] = True
            marked[b] = True
            marked[c] = True
            found += 1
    if found == 0:
        return
    mean = np.zeros(position.shape, np.float64)
    count = np.zeros(position.shape[0], np.float64)
    for t in range(triangle.shape[0]):
        for i in range(3):
            row = triangle[t, i]
            if marked[row]:
                for j in range(3):
                    if j != i:
                        for axis in range(3):
                            mean[row, axis] += position[triangle[t, j], axis]
                        count[row] += 1.0
    for row in range(position.shape[0]):
        if marked[row]:
            at = row if up.shape[0] > 1 else 0
            along = 0.0
            for axis in range(3):
                mean[row, axis] = mean[row, axis] / count[row] - position[row, axis]
                along += mean[row, axis] * up[at, axis]
            for axis in range(3):
                position[row, axis] += (mean[row, axis] - along * up[at, axis]) * free[row]


@kernel("void(float64[:,::1], int32[:,::1], float64[:,::1])")
def _mean_around(normal: Vector, triangle: NDArray[np.int32], out: Vector) -> None:
    for t in range(triangle.shape[0]):
        a, b, c = triangle[t]
        for axis in range(3):
            mean = normal[a, axis] + normal[b, axis] + normal[c, axis]
            out[a, axis] += mean
            out[b, axis] += mean
            out[c, axis] += mean
    for row in range(normal.shape[0]):
        length = np.sqrt(out[row, 0] ** 2 + out[row, 1] ** 2 + out[row, 2] ** 2)
        for axis in range(3):
            out[row, axis] = out[row, axis] / length if length > 0.0 else normal[row, axis]


@kernel("int64(int32[::1], int32[::1], int32[::1], int32[::1], int32[:,::1])")
def _local(
    vertex: NDArray[np.int32],
    triangles: NDArray[np.int32],
    rows: NDArray[np.int32],
    place: NDArray[np.int32],
    out: NDArray[np.int32],
) -> int:
    for i in range(rows.size):
        place[rows[i]] = i
    count = 0
    for t in triangles:
        whole = True
        for i in range(3):
            row = vertex[3 * t + i]
            local = place[row]
            # what earlier calls left behind is told by looking back
            if local < 0 or local >= rows.size or rows[local] != row:
                whole = False
                break
            out[count, i] = local
        if whole:
            count += 1
    return count


def whole_triangles(body: Body, triangles: NDArray[np.int32], rows: NDArray[np.int32]) -> NDArray[np.int32]:
    """(T, 3) triangles all of whose corners are among some rows, by place in them, in the order of the table.

    Material slides triangle by triangle, so that with any other order a copy in a mirror would come out differently.

    Parameters
    ----------
    body : Body
    triangles : (S,) int32
        Triangles to look at.
    rows : (K,) int32
        Ascending.
    """
    out = np.empty((triangles.size + 1, 3), np.int32)
    return out[: _local(body.corners.vertex, np.sort(triangles), rows, body.places(), out)]


def lie_of(normal: NDArray[np.floating], triangles: NDArray[np.int32], up: Vector, steps: int = 3) -> Vector:
    """(K,) upward part of the normals around each vertex, averaged over so many rings of triangles; `up` as in `slide`."""
    lie = np.ascontiguousarray(normal, np.float64)
    triangles = np.ascontiguousarray(triangles, np.int32)
    for _ in range(steps):
        mean = np.zeros_like(lie)
        _mean_around(lie, triangles, mean)
        lie = mean
    return np.ascontiguousarray((lie * up).sum(axis=1))


@kernel(
    "void(float64[:,::1], float64[:,::1], float64[::1], float64[::1], float64[:,::1], float64[::1], float64[::1], "
    "float64[::1])"
)
def _ways(
    normal: Vector, up: Vector, lie: Vector, free: Vector, way: Vector, area: Vector, mobile: Vector, loose: Vector
) -> None:
    # which way the material of each vertex goes, upright but for walls; its area as seen along that way; one over it; and
    # how free it is: not at all where it cannot give and take
    for row in range(area.size):
        share = min(max((lie[row] - 0.1) / 0.15, 0.0), 1.0)
        at = row if up.shape[0] > 1 else 0
        x = normal[row, 0] * (1.0 - share) + share * up[at, 0]
        y = normal[row, 1] * (1.0 - share) + share * up[at, 1]
        z = normal[row, 2] * (1.0 - share) + share * up[at, 2]
        rise = normal[row, 0] * up[at, 0] + normal[row, 1] * up[at, 1] + normal[row, 2] * up[at, 2]
        length = max(np.sqrt(x * x + y * y + z * z), 1e-9)
        way[row, 0] = x / length
        way[row, 1] = y / length
        way[row, 2] = z / length
        seen = way[row, 0] * normal[row, 0] + way[row, 1] * normal[row, 1] + way[row, 2] * normal[row, 2]
        area[row] *= max(seen, 0.05)
        mobile[row] = 0.0
        loose[row] = 0.0
        if area[row] > 0.0 and max(rise, lie[row] - 0.1) > OVERHANG:
            mobile[row] = 1.0 / area[row]
            loose[row] = free[row]


@kernel("void(float64[:,::1], float64[:,::1], float64[:,::1], float64[::1], float64)")
def _give_back(out: Vector, before: Vector, way: Vector, area: Vector, missing: float) -> None:
    # steps on walls leave a small error of volume; it is laid where material moved
    total = 0.0
    for row in range(area.size):
        step = 0.0
        for axis in range(3):
            step += (out[row, axis] - before[row, axis]) * way[row, axis]
        total += abs(step) * area[row]
    if total <= 0.0 or abs(missing) >= 0.2 * total:
        return
    for row in range(area.size):
        step = 0.0
        for axis in range(3):
            step += (out[row, axis] - before[row, axis]) * way[row, axis]
        for axis in range(3):
            out[row, axis] += way[row, axis] * abs(step) * missing / total
