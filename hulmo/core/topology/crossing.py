"""Triangles of a mesh that pierce or cover each other.

Möller, "A fast triangle-triangle intersection test" (1997): both planes meet in a line, of which each triangle cuts out a
span.
"""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.workers import side_by_side

Corners = NDArray[np.int32]
Points = NDArray[np.float32]

EDGE = 1e-6
"""Length along which two triangles must run through each other, as a share of the size of the smaller one."""

FLAT = 1e-5
"""Distance from a plane, as a share of the size of its triangle, within which a vertex counts as in it."""

PIECE = 20_000
"""Triangles that one thread looks at at a time."""


@part_of_kernels
def _normal(position, a, b, c):  # type: ignore[no-untyped-def]
    # twice the area, upright on the triangle
    ax = np.float64(position[a, 0])
    ay = np.float64(position[a, 1])
    az = np.float64(position[a, 2])
    ex = position[b, 0] - ax
    ey = position[b, 1] - ay
    ez = position[b, 2] - az
    fx = position[c, 0] - ax
    fy = position[c, 1] - ay
    fz = position[c, 2] - az
    return ey * fz - ez * fy, ez * fx - ex * fz, ex * fy - ey * fx


@part_of_kernels
def _away(position, a, normal, row):  # type: ignore[no-untyped-def]
    # distance of a vertex from the plane of a triangle, in lengths of its normal; what is nearly in it is in it
    area = np.sqrt(normal[0] * normal[0] + normal[1] * normal[1] + normal[2] * normal[2])
    out = 0.0
    for axis in range(3):
        out += (np.float64(position[row, axis]) - position[a, axis]) * normal[axis]
    return 0.0 if abs(out) <= FLAT * area * np.sqrt(area) else out


@part_of_kernels
def _side(x, y, z):  # type: ignore[no-untyped-def]
    # 1 or -1 where all are on that side of a plane; 0 on both, 2 in the plane
    above = x > 0.0 or y > 0.0 or z > 0.0
    below = x < 0.0 or y < 0.0 or z < 0.0
    if above and below:
        return 0
    if above:
        return 1
    return -1 if below else 2


@part_of_kernels
def _span(position, rows, away, start, way):  # type: ignore[no-untyped-def]
    # from where to where a triangle meets the plane of another one, along the line in which both planes meet
    low = np.inf
    high = -np.inf
    for k in range(3):
        i = rows[k]
        j = rows[(k + 1) % 3]
        u = away[k]
        v = away[(k + 1) % 3]
        if u == 0.0:
            share = 0.0
        elif u * v < 0.0:
            share = u / (u - v)
        else:
            continue
        at = 0.0
        for axis in range(3):
            here = np.float64(position[i, axis])
            at += (here + share * (position[j, axis] - here) - position[start, axis]) * way[axis]
        low = min(low, at)
        high = max(high, at)
    return low, high


@part_of_kernels
def _covers(position, a, b, c, p, q, r, m, e, f):  # type: ignore[no-untyped-def]
    # whether the middle of one triangle lies on another one in the same plane; m, e, f are scratch
    for axis in range(3):
        m[axis] = (np.float64(position[p, axis]) + position[q, axis] + position[r, axis]) / 3.0 - position[a, axis]
        e[axis] = np.float64(position[b, axis]) - position[a, axis]
        f[axis] = np.float64(position[c, axis]) - position[a, axis]
    ee = e[0] * e[0] + e[1] * e[1] + e[2] * e[2]
    ff = f[0] * f[0] + f[1] * f[1] + f[2] * f[2]
    ef = e[0] * f[0] + e[1] * f[1] + e[2] * f[2]
    me = m[0] * e[0] + m[1] * e[1] + m[2] * e[2]
    mf = m[0] * f[0] + m[1] * f[1] + m[2] * f[2]
    det = ee * ff - ef * ef
    if not det > 0.0:
        return False
    u = (ff * me - ef * mf) / det
    v = (ee * mf - ef * me) / det
    return u > 1e-6 and v > 1e-6 and u + v < 1.0 - 1e-6


@part_of_kernels
def _meet(position, vertex, t, u, m, e, f):  # type: ignore[no-untyped-def]
    a = vertex[3 * t]
    b = vertex[3 * t + 1]
    c = vertex[3 * t + 2]
    p = vertex[3 * u]
    q = vertex[3 * u + 1]
    r = vertex[3 * u + 2]
    shared = 0
    for row in (a, b, c):
        if row == p or row == q or row == r:  # noqa: SIM109 - kernels want one type in a tuple
            shared += 1
    if shared >= 2:
        return False  # neighbours fold, they do not cross: that is for another check
    one = _normal(position, a, b, c)
    other = _normal(position, p, q, r)
    theirs = (_away(position, a, one, p), _away(position, a, one, q), _away(position, a, one, r))
    side = _side(theirs[0], theirs[1], theirs[2])
    if side == 2:
        return _covers(position, a, b, c, p, q, r, m, e, f) or _covers(position, p, q, r, a, b, c, m, e, f)
    if side != 0:
        return False
    ours = (_away(position, p, other, a), _away(position, p, other, b), _away(position, p, other, c))
    if _side(ours[0], ours[1], ours[2]) != 0:
        return False
    wx = one[1] * other[2] - one[2] * other[1]
    wy = one[2] * other[0] - one[0] * other[2]
    wz = one[0] * other[1] - one[1] * other[0]
    length = np.sqrt(wx * wx + wy * wy + wz * wz)
    if not length > 0.0:
        return False
    way = (wx / length, wy / length, wz / length)
    low, high = _span(position, (a, b, c), ours, a, way)
    from_, to = _span(position, (p, q, r), theirs, a, way)
    size = np.sqrt(min(np.hypot(np.hypot(one[0], one[1]), one[2]), np.hypot(np.hypot(other[0], other[1]), other[2])))
    return min(high, to) - max(low, from_) > EDGE * size


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], int32[::1], boolean[::1])"
)
def _search(
    box: Points, first: Corners, leaf_items: Corners, leaf_count: Corners, vertex: Corners, position: Points,
    triangles: Corners, out: NDArray[np.bool_],
) -> None:  # fmt: skip
    m = np.empty(3, np.float64)
    e = np.empty(3, np.float64)
    f = np.empty(3, np.float64)
    stack = np.empty(128, np.int32)
    low = np.empty(3, np.float32)
    high = np.empty(3, np.float32)
    for i in range(triangles.size):
        t = np.int64(triangles[i])
        for axis in range(3):
            low[axis] = position[vertex[3 * t], axis]
            high[axis] = low[axis]
            for corner in range(3 * t + 1, 3 * t + 3):
                low[axis] = min(low[axis], position[vertex[corner], axis])
                high[axis] = max(high[axis], position[vertex[corner], axis])
        stack[0] = 0
        size = 1
        while size > 0 and not out[i]:
            size -= 1
            node = stack[size]
            apart = False
            for axis in range(3):
                if box[node, axis] > high[axis] or box[node, 3 + axis] < low[axis]:
                    apart = True
            if apart:
                continue
            child = first[node]
            if child >= 0:
                stack[size] = child
                stack[size + 1] = child + 1
                size += 2
                continue
            for slot in range(leaf_count[-1 - child]):
                u = np.int64(leaf_items[-1 - child, slot])
                if u != t and _meet(position, vertex, t, u, m, e, f):
                    out[i] = True
                    break


def crossing(body: Body, progress: Progress, among: NDArray[np.int32] | None = None) -> NDArray[np.int32]:
    """Slots of triangles that pierce another one, or lie on one in the same plane; triangles with a common edge never do.

    Parameters
    ----------
    body : Body
    progress : Progress
    among : (K,) int32, optional
        Slots that are looked at; all when left out.
    """
    slots = np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32) if among is None else among
    out = np.zeros(slots.size, np.bool_)
    tree, vertex, position = body.index.search, body.corners.vertex, body.vertices["position"]
    pieces = [slice(start, start + PIECE) for start in range(0, slots.size, PIECE)]
    side_by_side(
        lambda piece: _search(*tree, vertex, position, slots[piece], out[piece]),
        pieces,
        told=lambda done: progress.step(done / len(pieces), "looking for triangles that cross"),
    )
    return slots[out]
