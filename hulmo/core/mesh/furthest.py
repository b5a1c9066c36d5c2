"""How far a surface reaches away from another one."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.morton import morton_order
from hulmo.core.mesh.spatial_index import SpatialIndex
from hulmo.core.mesh.tree_query import apart_from, nearest_to
from hulmo.core.mesh.used_rows import used_rows
from hulmo.core.workers import side_by_side

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Triangles = NDArray[np.int32]
Figures = NDArray[np.float64]

PIECE = 20_000
"""Vertices or triangles that one thread looks at a time."""

MOST_OPEN = 4096
"""Triangles of the other surface over one triangle that may wait to be looked at."""

STEPS = 12
"""Steps from neighbour to neighbour that are gone at the most."""

SAMPLED = 100
"""One vertex in so many is looked at before all others."""

DEEPEST = 7
"""Times that a triangle is divided in four at the most."""


def furthest(
    position: Points, triangles: Triangles, other: SpatialIndex, vertex: Corners, opposite: Corners, there: Points,
    tight: float, known: float = 0.0,
) -> tuple[float, float]:  # fmt: skip
    """Distance of the furthest point of a surface from another surface, from below and from above, metres.

    Parameters
    ----------
    position, triangles : (N, 3) float32, (M, 3) int32
        The one that is walked over.
    other : SpatialIndex
    vertex, opposite, there : (3 T,) int32, (3 T,) int32, (P, 3) float32
        The other one.
    tight : float
        Share of the distance by which the upper bound may lie above what was found.
    known : float
        A distance that only larger ones are of interest beside: both bounds count from it.

    Notes
    -----
    Branch and bound, as in Tang, Lee and Kim, "Interactive Hausdorff distance computation for general polygonal models"
    (SIGGRAPH 2009). The distance to a triangle, which is convex, is a convex function, so that over a triangle it is largest
    at a corner: any triangle of the other surface bounds it, most often one that a corner lies near. A corner that is no
    further from a triangle than what was found already is not looked for (early break: Taha and Hanbury 2015); such a one is
    sought from the triangle of the corner before it, from neighbour to neighbour.
    A triangle that a piece of the other surface lies over, once and facing the same way, is no further from it than that
    rises or falls over it: its clipped parts have to add up to the area, which takes it that a fold does not make up just
    for a hole. What is left is asked for at its middle, from neighbour to neighbour unless it may be the furthest, and
    divided in four until the bound is tight.
    """
    rows = used_rows(triangles, position.shape[0])
    if not rows.size:
        return known, known
    search = other.search
    rows = rows[morton_order(position[rows])]
    near = np.full(position.shape[0], -1, np.int32)
    pieces = [slice(begin, begin + PIECE) for begin in range(0, rows.size, PIECE)]
    few = rows[::SAMPLED].copy()  # what they find spares most of the others a search
    known = max(known, _vertices(*search, vertex, opposite, there, position, few, near, known))
    found = max(
        side_by_side(
            lambda part: _vertices(*search, vertex, opposite, there, position, rows[part], near, known), pieces
        )
    )
    slack = 1e-6 * float(np.abs(position[rows]).max(initial=0.0))
    order = morton_order(position[triangles[:, 0]])
    pieces = [slice(begin, begin + PIECE) for begin in range(0, order.size, PIECE)]
    bounds = side_by_side(
        lambda part: _triangles(
            *search, vertex, opposite, there, position, triangles[order[part]], near, found, tight, slack
        ),
        pieces,
    )
    least = max(low for low, _ in bounds)
    return least, max(least, max(high for _, high in bounds))


@part_of_kernels
def _reaches(corner, position, vertex, slot):  # type: ignore[no-untyped-def]
    # squared distance of the furthest corner of a triangle from another one
    worst = 0.0
    for k in range(3):
        worst = max(worst, apart_from(corner[k, 0], corner[k, 1], corner[k, 2], position, vertex, slot))
    return worst


@part_of_kernels
def _cut_off(many, count, ax, ay, bx, by, out):  # type: ignore[no-untyped-def]
    # what of a polygon lies left of a line, with its heights; how many corners (Sutherland and Hodgman 1974)
    left = 0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        here = (bx - ax) * (many[i, 1] - ay) - (by - ay) * (many[i, 0] - ax)
        there = (bx - ax) * (many[j, 1] - ay) - (by - ay) * (many[j, 0] - ax)
        if here >= 0.0:
            for axis in range(3):
                out[left, axis] = many[i, axis]
            left += 1
        if (here > 0.0 and there < 0.0) or (here < 0.0 and there > 0.0):
            share = here / (here - there)
            for axis in range(3):
                out[left, axis] = many[i, axis] + share * (many[j, axis] - many[i, axis])
            left += 1
    return left


@part_of_kernels
def _over(corner, enough, vertex, opposite, there, near, seen, stamp, stack, frame, one, two):  # type: ignore[no-untyped-def]
    # metres that the other surface rises or falls over a triangle at the most, where a piece of it that hangs together with
    # some triangles, and faces the same way, lies over all of it, once; or -1
    for axis in range(3):
        one[1, axis], one[2, axis] = corner[1, axis] - corner[0, axis], corner[2, axis] - corner[0, axis]
    wide = np.sqrt(one[1, 0] ** 2 + one[1, 1] ** 2 + one[1, 2] ** 2)
    nx = one[1, 1] * one[2, 2] - one[1, 2] * one[2, 1]
    ny = one[1, 2] * one[2, 0] - one[1, 0] * one[2, 2]
    nz = one[1, 0] * one[2, 1] - one[1, 1] * one[2, 0]
    size = np.sqrt(nx * nx + ny * ny + nz * nz)  # twice the area
    if not size > 1e-12 * wide * wide or not wide > 0.0:
        return -1.0
    for axis in range(3):
        frame[0, axis] = one[1, axis] / wide
    frame[2, 0], frame[2, 1], frame[2, 2] = nx / size, ny / size, nz / size
    frame[1, 0] = frame[2, 1] * frame[0, 2] - frame[2, 2] * frame[0, 1]
    frame[1, 1] = frame[2, 2] * frame[0, 0] - frame[2, 0] * frame[0, 2]
    frame[1, 2] = frame[2, 0] * frame[0, 1] - frame[2, 1] * frame[0, 0]
    cx = one[2, 0] * frame[0, 0] + one[2, 1] * frame[0, 1] + one[2, 2] * frame[0, 2]
    cy = one[2, 0] * frame[1, 0] + one[2, 1] * frame[1, 1] + one[2, 2] * frame[1, 2]
    left, right = min(0.0, cx), max(wide, cx)
    covered, most = 0.0, 0.0
    depth = 0
    for k in range(3):
        if seen[near[k]] != stamp:
            seen[near[k]] = stamp
            stack[depth] = near[k]
            depth += 1
    while depth > 0:
        depth -= 1
        slot = stack[depth]
        for k in range(3):
            row = vertex[3 * slot + k]
            x, y, z = there[row, 0] - corner[0, 0], there[row, 1] - corner[0, 1], there[row, 2] - corner[0, 2]
            for axis in range(3):
                one[k, axis] = x * frame[axis, 0] + y * frame[axis, 1] + z * frame[axis, 2]
        turn = (one[1, 0] - one[0, 0]) * (one[2, 1] - one[0, 1]) - (one[1, 1] - one[0, 1]) * (one[2, 0] - one[0, 0])
        if turn <= 0.0:
            continue  # its other side
        if (
            max(one[0, 0], one[1, 0], one[2, 0]) <= left
            or min(one[0, 0], one[1, 0], one[2, 0]) >= right
            or max(one[0, 1], one[1, 1], one[2, 1]) <= 0.0
            or min(one[0, 1], one[1, 1], one[2, 1]) >= cy
        ):
            continue
        count = _cut_off(one, 3, 0.0, 0.0, wide, 0.0, two)
        if count > 2:
            count = _cut_off(two, count, wide, 0.0, cx, cy, one)
        if count > 2:
            count = _cut_off(one, count, cx, cy, 0.0, 0.0, two)
        if count < 3:
            continue
        for k in range(count):
            most = max(most, abs(two[k, 2]))
            j = k + 1 if k + 1 < count else 0
            covered += two[k, 0] * two[j, 1] - two[j, 0] * two[k, 1]
        if most > enough or depth + 3 > stack.size:
            return -1.0
        for k in range(3):
            across = opposite[3 * slot + k] // 3
            if across >= 0 and seen[across] != stamp:
                seen[across] = stamp
                stack[depth] = across
                depth += 1
    return most if abs(covered - size) <= 1e-6 * size else -1.0


@part_of_kernels
def _walked(x, y, z, position, vertex, opposite, slot, away, enough):  # type: ignore[no-untyped-def]
    # a triangle nearer to a point, by neighbours, and its squared distance; no nearer than is enough
    for _ in range(STEPS):
        if away <= enough:
            break
        best = slot
        for k in range(3):
            across = opposite[3 * slot + k]
            if across >= 0:
                far = apart_from(x, y, z, position, vertex, np.int64(across // 3))
                if far < away:
                    best, away = np.int64(across // 3), far
        if best == slot:
            break
        slot = best
    return slot, away


@kernel(
    "float64(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], int32[::1], float32[:,::1], "
    "float32[:,::1], int32[::1], int32[::1], float64)"
)
def _vertices(
    box: Points, first: Corners, leaf_items: NDArray[np.int32], leaf_count: Corners, vertex: Corners, opposite: Corners,
    there: Points, position: Points, rows: Corners, near: Corners, known: float,
) -> float:  # fmt: skip
    # a triangle that each vertex lies near, and metres that the furthest of them is away
    out = np.empty(3)
    found = known * known
    last = np.int64(-1)
    for i in range(rows.size):
        row = rows[i]
        x, y, z = np.float64(position[row, 0]), np.float64(position[row, 1]), np.float64(position[row, 2])
        reach = np.inf
        if last >= 0:
            last, away = _walked(
                x, y, z, there, vertex, opposite, last, apart_from(x, y, z, there, vertex, last), found
            )
            if away <= found:
                near[row] = last
                continue
            reach = np.sqrt(away) * 1.0001 + 1e-9
        slot = nearest_to(box, first, leaf_items, leaf_count, vertex, there, None, None, x, y, z, reach, out)
        if slot < 0:  # cannot be but for rounding
            slot = nearest_to(box, first, leaf_items, leaf_count, vertex, there, None, None, x, y, z, np.inf, out)
        last = slot
        near[row] = slot
        found = max(found, out[0])
    return float(np.sqrt(found))


@kernel(
    "UniTuple(float64, 2)(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], int32[::1], float32[:,::1], "
    "float32[:,::1], int32[:,::1], int32[::1], float64, float64, float64)"
)
def _triangles(
    box: Points, first: Corners, leaf_items: NDArray[np.int32], leaf_count: Corners, vertex: Corners, opposite: Corners,
    there: Points, position: Points, triangles: Triangles, near: Corners, found: float, tight: float, slack: float,
) -> tuple[float, float]:  # fmt: skip
    out = np.empty(3)
    stack, depth = np.empty((3 * DEEPEST + 4, 3, 3)), np.empty(3 * DEEPEST + 4, np.int64)
    middle, half = np.empty(3), np.empty((3, 3))
    frame, one, two = np.empty((3, 3)), np.empty((12, 3)), np.empty((12, 3))
    begin, open_, seen = np.empty(3, np.int64), np.empty(MOST_OPEN, np.int64), np.zeros(vertex.size // 3, np.int32)
    top = 0.0
    last = np.int64(-1)
    enough = found * (1.0 + tight) + slack
    for t in range(triangles.shape[0]):
        for k in range(3):
            for axis in range(3):
                stack[0, k, axis] = position[triangles[t, k], axis]
        bound = np.inf
        for k in range(3):
            if bound > enough * enough:
                bound = min(bound, _reaches(stack[0], there, vertex, np.int64(near[triangles[t, k]])))
        if bound <= enough * enough:
            top = max(top, np.sqrt(bound))
            continue
        for axis in range(3):
            middle[axis] = (stack[0, 0, axis] + stack[0, 1, axis] + stack[0, 2, axis]) / 3.0
        slot = np.int64(near[triangles[t, 0]])
        slot, close = _walked(
            middle[0], middle[1], middle[2], there, vertex, opposite, slot,
            apart_from(middle[0], middle[1], middle[2], there, vertex, slot), 0.0,
        )  # fmt: skip
        bound = _reaches(stack[0], there, vertex, slot)
        if bound <= enough * enough:
            top = max(top, np.sqrt(bound))
            continue
        for k in range(3):
            begin[k] = near[triangles[t, k]]
        bound = _over(stack[0], enough, vertex, opposite, there, begin, seen, t + 1, open_, frame, one, two)
        if bound >= 0.0:
            top = max(top, bound)
            continue
        size = 1
        depth[0] = 0
        while size > 0:
            size -= 1
            corner, level = stack[size].copy(), depth[size]
            if last >= 0:
                bound = _reaches(corner, there, vertex, last)
                if bound <= enough * enough:
                    top = max(top, np.sqrt(bound))
                    continue
            radius = 0.0
            for axis in range(3):
                middle[axis] = (corner[0, axis] + corner[1, axis] + corner[2, axis]) / 3.0
            for k in range(3):
                away = 0.0
                for axis in range(3):
                    away += (corner[k, axis] - middle[axis]) ** 2
                radius = max(radius, np.sqrt(away))
            slot = np.int64(near[triangles[t, 0]])
            close = apart_from(middle[0], middle[1], middle[2], there, vertex, slot)
            if last >= 0:
                beside = apart_from(middle[0], middle[1], middle[2], there, vertex, last)
                if beside < close:
                    slot, close = last, beside
            slot, close = _walked(
                middle[0], middle[1], middle[2], there, vertex, opposite, slot, close, max(enough - radius, 0.0) ** 2
            )  # fmt: skip
            last = slot
            if np.sqrt(close) + radius <= enough:  # no nearer one need be found
                top = max(top, np.sqrt(close) + radius)
                continue
            if close > found * found or level == DEEPEST:  # otherwise it is no news how near the nearest one lies
                slot = nearest_to(
                    box, first, leaf_items, leaf_count, vertex, there, None, None, middle[0], middle[1], middle[2],
                    np.sqrt(close) * 1.0001 + 1e-9, out,
                )  # fmt: skip
                if slot >= 0:
                    last, close = slot, out[0]
                found = max(found, np.sqrt(close))
                enough = found * (1.0 + tight) + slack
            least = min(np.sqrt(close) + radius, np.sqrt(_reaches(corner, there, vertex, last)))
            if least <= enough or level == DEEPEST:
                top = max(top, least)
                continue
            for k in range(3):
                for axis in range(3):
                    half[k, axis] = (corner[(k + 1) % 3, axis] + corner[(k + 2) % 3, axis]) / 2.0
            for part in range(4):
                for k in range(3):
                    for axis in range(3):
                        whole = part < 3 and k == part
                        other = half[3 - part - k, axis] if part < 3 and not whole else half[k, axis]
                        stack[size, k, axis] = corner[k, axis] if whole else other
                depth[size] = level + 1
                size += 1
    return found, top
