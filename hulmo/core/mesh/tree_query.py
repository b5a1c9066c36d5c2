"""Asking the box tree: where a ray meets the surface, which surface point is nearest."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels, written_into_kernels
from hulmo.core.mesh.moment import Slots, place_at
from hulmo.core.mesh.ray_triangle import ray_triangle

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Vector = NDArray[np.float64]

SLACK = 1.0 + 1e-12
"""Boxes are looked into a little beyond the best distance, so that of equally near triangles the lowest is found whatever
the tree looks like: a stroke that is done again meets the same triangles."""


@written_into_kernels
def box_entry(box, node, ox, oy, oz, ix, iy, iz, far):  # type: ignore[no-untyped-def]
    """Distance at which a ray enters a box, or -1; 0 when it starts inside. For kernels."""
    if box[node, 0] > box[node, 3]:
        return -1.0  # an empty one
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


@part_of_kernels
def first_hit(box, first, leaf_items, leaf_count, vertex, position, start, slot, origin, direction, reach, out):  # type: ignore[no-untyped-def]
    """See `ray_hit`; for kernels."""
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
    enter[0] = box_entry(box, 0, ox, oy, oz, ix, iy, iz, best)
    size = 1 if enter[0] >= 0.0 else 0
    while size > 0:
        size -= 1
        if enter[size] > best * SLACK:
            continue
        node = stack[size]
        child = first[node]
        if child >= 0:
            a = box_entry(box, child, ox, oy, oz, ix, iy, iz, best)
            b = box_entry(box, child + 1, ox, oy, oz, ix, iy, iz, best)
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
            t, u, v = ray_triangle(position, start, slot, p, q, r, ox, oy, oz, dx, dy, dz, 1e-9, 0.0)
            if 0.0 <= t < best or (t == best and triangle < found):
                best = t
                found = triangle
                out[0] = t
                out[1] = u
                out[2] = v
    return found


@kernel(
    "int64(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float32[:,::1], int32[::1], "
    "float64[::1], float64[::1], float64, float64[::1])"
)
def ray_hit(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    start: Points,
    slot: Slots,
    origin: Vector,
    direction: Vector,
    reach: float,
    out: Vector,
) -> int:
    """Nearest triangle on a ray, both sides counting; -1 without one. `out` gets distance, u, v (in lengths of direction).

    See `ray_triangle` for the method.
    """
    return int(
        first_hit(box, first, leaf_items, leaf_count, vertex, position, start, slot, origin, direction, reach, out)
    )


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[:,::1], float64[:,::1], "
    "float64[::1], int32[::1], float64[:,::1])"
)
def ray_hits(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    origin: NDArray[np.float64],
    direction: NDArray[np.float64],
    reach: Vector,
    triangle: Corners,
    out: NDArray[np.float64],
) -> None:
    """The same for many rays of unit length; `out` gets distance, u, v of each."""
    for i in range(origin.shape[0]):
        triangle[i] = first_hit(
            box,
            first,
            leaf_items,
            leaf_count,
            vertex,
            position,
            None,
            None,
            origin[i],
            direction[i],
            reach[i],
            out[i],
        )


@written_into_kernels
def _box_distance(box, node, x, y, z):  # type: ignore[no-untyped-def]
    dx = max(max(box[node, 0] - x, x - box[node, 3]), 0.0)
    dy = max(max(box[node, 1] - y, y - box[node, 4]), 0.0)
    dz = max(max(box[node, 2] - z, z - box[node, 5]), 0.0)
    return dx * dx + dy * dy + dz * dz


@part_of_kernels
def closest_on_triangle(ax, ay, az, bx, by, bz, cx, cy, cz):  # type: ignore[no-untyped-def]
    """Weights of b and c at the point of a triangle that is closest to the origin."""
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


@part_of_kernels
def apart_from(x, y, z, position, vertex, slot):  # type: ignore[no-untyped-def]
    """Squared distance of a point from a triangle. For kernels."""
    p, q, r = vertex[3 * slot], vertex[3 * slot + 1], vertex[3 * slot + 2]
    ax, ay, az = position[p, 0] - x, position[p, 1] - y, position[p, 2] - z
    bx, by, bz = position[q, 0] - x, position[q, 1] - y, position[q, 2] - z
    cx, cy, cz = position[r, 0] - x, position[r, 1] - y, position[r, 2] - z
    v, w = closest_on_triangle(ax, ay, az, bx, by, bz, cx, cy, cz)
    u = 1.0 - v - w
    dx, dy, dz = u * ax + v * bx + w * cx, u * ay + v * by + w * cy, u * az + v * bz + w * cz
    return dx * dx + dy * dy + dz * dz


@part_of_kernels
def nearest_to(box, first, leaf_items, leaf_count, vertex, position, start, slot, x, y, z, reach, out):  # type: ignore[no-untyped-def]
    """See `nearest`; for kernels."""
    best = reach * reach
    found = -1
    stack = np.empty(96, np.int32)
    apart = np.empty(96, np.float64)
    stack[0] = 0
    apart[0] = _box_distance(box, 0, x, y, z)
    size = 1
    while size > 0:
        size -= 1
        if apart[size] > best * SLACK:
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
                if far <= best * SLACK:
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
            ux, uy, uz = place_at(position, start, slot, p)
            ax = ux - x
            ay = uy - y
            az = uz - z
            ux, uy, uz = place_at(position, start, slot, q)
            bx = ux - x
            by = uy - y
            bz = uz - z
            ux, uy, uz = place_at(position, start, slot, r)
            cx = ux - x
            cy = uy - y
            cz = uz - z
            v, w = closest_on_triangle(ax, ay, az, bx, by, bz, cx, cy, cz)
            u = 1.0 - v - w
            dx = u * ax + v * bx + w * cx
            dy = u * ay + v * by + w * cy
            dz = u * az + v * bz + w * cz
            distance = dx * dx + dy * dy + dz * dz
            if distance < best or (distance == best and (found < 0 or triangle < found)):
                best = distance
                found = triangle
                out[0] = distance
                out[1] = v
                out[2] = w
    return found


@kernel(
    "int64(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float32[:,::1], int32[::1], "
    "float64[::1], float64, float64[::1])"
)
def nearest(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    start: Points,
    slot: Slots,
    point: Vector,
    reach: float,
    out: Vector,
) -> int:
    """Nearest triangle within `reach` of a point; -1 without one. `out` gets squared distance and weights of corners 1, 2.

    Closest point on a triangle after Ericson, "Real-time collision detection" (2005), section 5.1.5.
    """
    return int(
        nearest_to(
            box, first, leaf_items, leaf_count, vertex, position, start, slot, point[0], point[1], point[2], reach, out
        )
    )  # fmt: skip


@kernel("int64(float32[:,::1], int32[::1], int32[:,::1], int32[::1], float64[::1], float64, int32[::1])")
def within(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    centre: Vector,
    radius: float,
    out: Corners,
) -> int:
    """Triangles of all leaves whose box comes within `radius` of a point; -1 when `out` is too small."""
    stack = np.empty(128, np.int64)
    stack[0] = 0
    depth = 1
    found = 0
    while depth > 0:
        depth -= 1
        node = stack[depth]
        distance = 0.0
        for axis in range(3):
            short = max(box[node, axis] - centre[axis], centre[axis] - box[node, axis + 3], 0.0)
            distance += short * short
        if distance > radius * radius:
            continue
        child = first[node]
        if child >= 0:
            stack[depth] = child
            stack[depth + 1] = child + 1
            depth += 2
            continue
        leaf = -1 - child
        if found + leaf_count[leaf] > out.size:
            return -1
        for i in range(leaf_count[leaf]):
            out[found] = leaf_items[leaf, i]
            found += 1
    return found


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float32[:,::1], int32[::1], "
    "float32[:,::1])"
)
def nearest_many(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    points: Points,
    triangle: Corners,
    weight: Points,
) -> None:
    """Nearest triangle of every point, and the weights of its corners.

    The triangle found for one point bounds the search for the next, so points that follow each other closely are cheap.
    """
    out = np.empty(3, np.float64)
    last = np.int64(-1)
    for i in range(points.shape[0]):
        x = np.float64(points[i, 0])
        y = np.float64(points[i, 1])
        z = np.float64(points[i, 2])
        reach = np.inf
        if last >= 0:
            reach = np.sqrt(apart_from(x, y, z, position, vertex, last)) * 1.0001 + 1e-9
        found = nearest_to(box, first, leaf_items, leaf_count, vertex, position, None, None, x, y, z, reach, out)
        if found < 0:  # cannot be but for rounding
            found = nearest_to(box, first, leaf_items, leaf_count, vertex, position, None, None, x, y, z, np.inf, out)
        last = np.int64(found)
        triangle[i] = found
        weight[i, 0] = 1.0 - out[1] - out[2]
        weight[i, 1] = out[1]
        weight[i, 2] = out[2]
