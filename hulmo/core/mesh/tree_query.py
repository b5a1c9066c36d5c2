"""Asking the box tree: where a ray meets the surface, which surface point is nearest."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Vector = NDArray[np.float64]


@njit(inline="always")
def _enter(box, node, ox, oy, oz, ix, iy, iz, far):  # type: ignore[no-untyped-def]
    # distance at which the ray enters a box, or -1; 0 when it starts inside
    ax = (box[node, 0] - ox) * ix
    bx = (box[node, 3] - ox) * ix
    ay = (box[node, 1] - oy) * iy
    by = (box[node, 4] - oy) * iy
    az = (box[node, 2] - oz) * iz
    bz = (box[node, 5] - oz) * iz
    near = max(max(min(ax, bx), min(ay, by)), max(min(az, bz), 0.0))
    out = min(min(max(ax, bx), max(ay, by)), min(max(az, bz), far))
    # the factor covers rounding in the slab test (Ize, "Robust BVH ray traversal", 2013)
    return near if near <= out * 1.0000004 else -1.0


@kernel(
    "int64(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[::1], "
    "float64[::1], float64, float64[::1])"
)
def ray_hit(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    origin: Vector,
    direction: Vector,
    reach: float,
    out: Vector,
) -> int:
    """Nearest triangle on a ray, both sides counting; -1 without one. `out` gets distance, u, v (in lengths of direction).

    Möller and Trumbore, "Fast, minimum storage ray-triangle intersection" (1997), in double precision.
    """
    ox = origin[0]
    oy = origin[1]
    oz = origin[2]
    dx = direction[0]
    dy = direction[1]
    dz = direction[2]
    tiny = 1e-300
    ix = 1.0 / (dx if abs(dx) > tiny else tiny)
    iy = 1.0 / (dy if abs(dy) > tiny else tiny)
    iz = 1.0 / (dz if abs(dz) > tiny else tiny)
    best = reach
    found = -1
    stack = np.empty(96, np.int32)
    enter = np.empty(96, np.float64)
    stack[0] = 0
    enter[0] = _enter(box, 0, ox, oy, oz, ix, iy, iz, best)
    size = 1 if enter[0] >= 0.0 else 0
    while size > 0:
        size -= 1
        if enter[size] > best:
            continue
        node = stack[size]
        child = first[node]
        if child >= 0:
            a = _enter(box, child, ox, oy, oz, ix, iy, iz, best)
            b = _enter(box, child + 1, ox, oy, oz, ix, iy, iz, best)
            left_first = a <= b
            for turn in range(2):
                # the farther child goes on the stack first
                left = (turn == 1) == left_first
                near = a if left else b
                if near >= 0.0:
                    stack[size] = child if left else child + 1
                    enter[size] = near
                    size += 1
            continue
        leaf = -1 - child
        for i in range(leaf_count[leaf]):
            triangle = leaf_items[leaf, i]
            p = vertex[3 * triangle]
            q = vertex[3 * triangle + 1]
            r = vertex[3 * triangle + 2]
            px = np.float64(position[p, 0])
            py = np.float64(position[p, 1])
            pz = np.float64(position[p, 2])
            ax = position[q, 0] - px
            ay = position[q, 1] - py
            az = position[q, 2] - pz
            bx = position[r, 0] - px
            by = position[r, 1] - py
            bz = position[r, 2] - pz
            hx = dy * bz - dz * by
            hy = dz * bx - dx * bz
            hz = dx * by - dy * bx
            det = ax * hx + ay * hy + az * hz
            if det == 0.0:
                continue
            sx = ox - px
            sy = oy - py
            sz = oz - pz
            u = (sx * hx + sy * hy + sz * hz) / det
            if u < -1e-9 or u > 1.0 + 1e-9:
                continue
            qx = sy * az - sz * ay
            qy = sz * ax - sx * az
            qz = sx * ay - sy * ax
            v = (dx * qx + dy * qy + dz * qz) / det
            if v < -1e-9 or u + v > 1.0 + 1e-9:
                continue
            t = (bx * qx + by * qy + bz * qz) / det
            if 0.0 <= t < best:
                best = t
                found = triangle
                out[0] = t
                out[1] = u
                out[2] = v
    return found


@njit(inline="always")
def _box_distance(box, node, x, y, z):  # type: ignore[no-untyped-def]
    dx = max(max(box[node, 0] - x, x - box[node, 3]), 0.0)
    dy = max(max(box[node, 1] - y, y - box[node, 4]), 0.0)
    dz = max(max(box[node, 2] - z, z - box[node, 5]), 0.0)
    return dx * dx + dy * dy + dz * dz


@njit
def _closest(ax, ay, az, bx, by, bz, cx, cy, cz):  # type: ignore[no-untyped-def]
    # closest point to the origin on a triangle given relative to the query: weights of b and c
    abx = bx - ax
    aby = by - ay
    abz = bz - az
    acx = cx - ax
    acy = cy - ay
    acz = cz - az
    d1 = -(abx * ax + aby * ay + abz * az)
    d2 = -(acx * ax + acy * ay + acz * az)
    if d1 <= 0.0 and d2 <= 0.0:
        return 0.0, 0.0
    d3 = -(abx * bx + aby * by + abz * bz)
    d4 = -(acx * bx + acy * by + acz * bz)
    if d3 >= 0.0 and d4 <= d3:
        return 1.0, 0.0
    vc = d1 * d4 - d3 * d2
    if vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        return d1 / (d1 - d3), 0.0
    d5 = -(abx * cx + aby * cy + abz * cz)
    d6 = -(acx * cx + acy * cy + acz * cz)
    if d6 >= 0.0 and d5 <= d6:
        return 0.0, 1.0
    vb = d5 * d2 - d1 * d6
    if vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        return 0.0, d2 / (d2 - d6)
    va = d3 * d6 - d5 * d4
    if va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        w = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        return 1.0 - w, w
    total = va + vb + vc
    if total == 0.0:
        return 0.0, 0.0
    return vb / total, vc / total


@kernel(
    "int64(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[::1], float64, "
    "float64[::1])"
)
def nearest(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    point: Vector,
    reach: float,
    out: Vector,
) -> int:
    """Nearest triangle within `reach` of a point; -1 without one. `out` gets squared distance and weights of corners 1, 2.

    Closest point on a triangle after Ericson, "Real-time collision detection" (2005), section 5.1.5.
    """
    x = point[0]
    y = point[1]
    z = point[2]
    best = reach * reach
    found = -1
    stack = np.empty(96, np.int32)
    apart = np.empty(96, np.float64)
    stack[0] = 0
    apart[0] = _box_distance(box, 0, x, y, z)
    size = 1
    while size > 0:
        size -= 1
        if apart[size] > best:
            continue
        node = stack[size]
        child = first[node]
        if child >= 0:
            a = _box_distance(box, child, x, y, z)
            b = _box_distance(box, child + 1, x, y, z)
            left_first = a <= b
            for turn in range(2):
                left = (turn == 1) == left_first
                far = a if left else b
                if far <= best:
                    stack[size] = child if left else child + 1
                    apart[size] = far
                    size += 1
            continue
        leaf = -1 - child
        for i in range(leaf_count[leaf]):
            triangle = leaf_items[leaf, i]
            p = vertex[3 * triangle]
            q = vertex[3 * triangle + 1]
            r = vertex[3 * triangle + 2]
            ax = position[p, 0] - x
            ay = position[p, 1] - y
            az = position[p, 2] - z
            bx = position[q, 0] - x
            by = position[q, 1] - y
            bz = position[q, 2] - z
            cx = position[r, 0] - x
            cy = position[r, 1] - y
            cz = position[r, 2] - z
            v, w = _closest(ax, ay, az, bx, by, bz, cx, cy, cz)
            u = 1.0 - v - w
            dx = u * ax + v * bx + w * cx
            dy = u * ay + v * by + w * cy
            dz = u * az + v * bz + w * cz
            distance = dx * dx + dy * dy + dz * dz
            if distance < best or (found < 0 and distance <= best):
                best = distance
                found = triangle
                out[0] = distance
                out[1] = v
                out[2] = w
    return found
