"""Kernels that split, collapse, flip and ease within a piece of surface, and log what became of which row.

Work happens on whole arrays with room behind their used part. `work` lists the triangles of the piece, new ones behind them;
`mark` is 1 for those. Only edges with both triangles in the piece are touched, so nothing outside changes but who lies
across the rim. Every change of a vertex is logged as a blend: row = sum of share x old rows. Position follows at once; the
caller replays the log on all other columns.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import (
    MOST_RING,
    can_collapse,
    collapse_edge,
    facing,
    flip_edge,
    ring_of,
    split_border,
    split_edge,
    squared,
)

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Flags = NDArray[np.uint8]

ROWS, FREE_ROWS, FACES, FREE_FACES, WORK, LOG = range(6)
"""Entries of `state`: rows and triangle slots in use, free ones of each, triangles in the piece, entries of the log."""

BORDER, SEAM, GUARDED, TOUCHED, DONE = 1, 2, 4, 8, 16
"""Bits of `hold`: on a border, on a seam of regions or UV, guarded, next to something that changed, already eased."""

KEPT = BORDER | SEAM | GUARDED

FAIR = 0.35
"""Shape (1 equilateral, 0 degenerate) under which no collapse may bring a triangle."""

_ARRAYS = (
    "float32[:,::1], int32[::1], int32[::1], int32[::1], uint16[::1], float32[:,:,::1], uint8[::1], uint8[::1], "
    "int32[::1], int32[::1], int32[::1], int64[::1], int32[:,::1], float32[:,::1], "
)


@njit
def _seam(c, opposite, region, uv):  # type: ignore[no-untyped-def]
    # whether regions or texture coordinates differ across an inner edge
    o = opposite[c]
    t = c // 3
    u = o // 3
    if region[t] != region[u]:
        return True
    if uv.shape[0] == 0:
        return False
    n = next_corner(c) - 3 * t
    r = previous_corner(c) - 3 * t
    on = next_corner(o) - 3 * u
    back = previous_corner(o) - 3 * u
    for i in range(2):  # noqa: SIM110 - kernels have no generators
        if abs(uv[t, n, i] - uv[u, back, i]) > 1e-6 or abs(uv[t, r, i] - uv[u, on, i]) > 1e-6:
            return True
    return False


@njit
def _blend(column, row, i, j, k, a, b, c):  # type: ignore[no-untyped-def]
    for axis in range(column.shape[1]):
        column[row, axis] = a * column[i, axis] + b * column[j, axis] + c * column[k, axis]


@njit
def _note(state, log, share, row, i, j, k, a, b, c):  # type: ignore[no-untyped-def]
    at = state[LOG]
    log[at, 0] = row
    log[at, 1] = i
    log[at, 2] = j
    log[at, 3] = k
    share[at, 0] = a
    share[at, 1] = b
    share[at, 2] = c
    state[LOG] = at + 1


@njit
def _take(free, state, which_free, which_used):  # type: ignore[no-untyped-def]
    if state[which_free] > 0:
        state[which_free] -= 1
        return np.int64(free[state[which_free]])
    slot = state[which_used]
    state[which_used] = slot + 1
    return slot


@njit
def _fan(start, opposite):  # type: ignore[no-untyped-def]
    # triangles at a vertex, and whether a border runs through it
    count = 0
    corner = start
    while True:
        count += 1
        across = opposite[next_corner(corner)]
        if across < 0:
            break
        corner = next_corner(across)
        if corner == start or count > MOST_RING:
            return count, False
    corner = start
    while count <= MOST_RING:
        across = opposite[previous_corner(corner)]
        if across < 0:
            break
        corner = previous_corner(across)
        count += 1
    return count, True


@njit
def _joined(u, v, vertex, opposite, first):  # type: ignore[no-untyped-def]
    # whether an edge joins two vertices, borders included
    start = first[u]
    corner = start
    count = 0
    while count <= MOST_RING:
        if vertex[next_corner(corner)] == v or vertex[previous_corner(corner)] == v:
            return True
        across = opposite[next_corner(corner)]
        if across < 0:
            break
        corner = next_corner(across)
        count += 1
        if corner == start:
            return False
    corner = start
    while count <= MOST_RING:
        across = opposite[previous_corner(corner)]
        if across < 0:
            return False
        corner = previous_corner(across)
        count += 1
        if vertex[next_corner(corner)] == v or vertex[previous_corner(corner)] == v:
            return True
    return True  # too many to tell


@njit
def _near(position, a, b, centre, reach):  # type: ignore[no-untyped-def]
    # whether the middle of an edge lies within the square of a radius
    total = 0.0
    for axis in range(3):
        away = 0.5 * (np.float64(position[a, axis]) + position[b, axis]) - centre[axis]
        total += away * away
    return total < reach


@njit
def _touches(position, a, b, centre, reach):  # type: ignore[no-untyped-def]
    # whether any point of an edge does
    along = 0.0
    size = 0.0
    for axis in range(3):
        step = np.float64(position[b, axis]) - position[a, axis]
        along += step * (centre[axis] - position[a, axis])
        size += step * step
    share = min(max(along / size, 0.0), 1.0) if size > 0.0 else 0.0
    total = 0.0
    for axis in range(3):
        away = position[a, axis] + share * (np.float64(position[b, axis]) - position[a, axis]) - centre[axis]
        total += away * away
    return total < reach


@njit
def _longest(position, vertex, t):  # type: ignore[no-untyped-def]
    # square of the longest side of a triangle
    a = vertex[3 * t]
    b = vertex[3 * t + 1]
    c = vertex[3 * t + 2]
    return max(squared(position, a, b), squared(position, b, c), squared(position, c, a))


@kernel(
    "void(int32[::1], int32[::1], uint16[::1], float32[:,:,::1], float32[:,::1], uint8[::1], uint8[::1], int32[::1], int64)"
)
def set_up(
    vertex: Corners, opposite: Corners, region: NDArray[np.uint16], uv: Points, guard: Points, hold: Flags, mark: Flags,
    work: Corners, count: int,
) -> None:  # fmt: skip
    """Mark the piece, and find what is to be kept in it. `guard` has no rows where nothing is guarded."""
    for i in range(count):
        mark[work[i]] = 1
        for corner in range(3 * work[i], 3 * work[i] + 3):
            hold[vertex[corner]] = 0
    for i in range(count):
        for corner in range(3 * work[i], 3 * work[i] + 3):
            row = vertex[corner]
            if guard.shape[0] > 0 and guard[row, 0] > 0.0:
                hold[row] |= GUARDED
            bit = 0
            if opposite[corner] < 0:
                bit = BORDER
            elif _seam(corner, opposite, region, uv):
                bit = SEAM
            if bit:
                hold[vertex[next_corner(corner)]] |= bit
                hold[vertex[previous_corner(corner)]] |= bit


@kernel("int64(float32[:,::1], int32[::1], int32[::1], int32[::1], int64, float64, float64, float64[::1], float64)")
def count_off(
    position: Points, vertex: Corners, opposite: Corners, work: Corners, count: int, long: float, short: float,
    centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """How many edges near a place are longer or shorter than wanted; `reach` is the square of the radius."""
    found = 0
    for i in range(count):
        for corner in range(3 * work[i], 3 * work[i] + 3):
            a = vertex[next_corner(corner)]
            b = vertex[previous_corner(corner)]
            size = squared(position, a, b)
            if size > long * long:
                found += _touches(position, a, b, centre, reach)
            elif size < short * short:
                found += _near(position, a, b, centre, reach)
    return found


@kernel("int64(" + _ARRAYS + "float64, float64[::1], float64, boolean)")
def split_long(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, region: NDArray[np.uint16], uv: Points,
    hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
    log: Corners, share: Points, limit: float, centre: NDArray[np.float64], reach: float, locked: bool,
) -> int:  # fmt: skip
    """Split edges longer than `limit`, metres, at their middle, where neither triangle has a side that is much longer yet;
    new triangles are looked at too. -1: no more room."""
    half = np.float32(0.5)
    none = np.float32(0.0)
    done = 0
    i = 0
    while i < state[WORK]:
        t = np.int64(work[i])
        k = 0
        while k < 3 and vertex[3 * t] >= 0:
            c = 3 * t + k
            k += 1
            a = vertex[next_corner(c)]
            b = vertex[previous_corner(c)]
            o = opposite[c]
            if squared(position, a, b) <= limit * limit or (hold[a] & GUARDED and hold[b] & GUARDED):
                continue
            size = squared(position, a, b)
            if 2.0 * size < _longest(position, vertex, t) or (
                o >= 0 and 2.0 * size < _longest(position, vertex, o // 3)
            ):
                continue  # halving the shorter sides beside one that may not be split would never end
            if (o < 0 and locked) or (o >= 0 and mark[o // 3] == 0) or not _touches(position, a, b, centre, reach):
                continue
            if (
                state[FREE_ROWS] + position.shape[0] - state[ROWS] < 1
                or state[FREE_FACES] + region.shape[0] - state[FACES] < 2
                or state[WORK] + 2 > work.size
                or state[LOG] + 1 > log.shape[0]
            ):
                return -1
            u = o // 3
            seam = o >= 0 and _seam(c, opposite, region, uv)
            m = _take(free_rows, state, FREE_ROWS, ROWS)
            t3 = _take(free_faces, state, FREE_FACES, FACES)
            t4 = t3
            if o >= 0:
                t4 = _take(free_faces, state, FREE_FACES, FACES)
            if uv.shape[0] > 0:
                n = next_corner(c) - 3 * t
                r = previous_corner(c) - 3 * t
                for axis in range(2):
                    uv[t3, 0, axis] = uv[t, k - 1, axis]
                    uv[t3, 1, axis] = half * (uv[t, n, axis] + uv[t, r, axis])
                    uv[t3, 2, axis] = uv[t, r, axis]
                    uv[t, r, axis] = uv[t3, 1, axis]
                if o >= 0:
                    on = next_corner(o) - 3 * u
                    back = previous_corner(o) - 3 * u
                    for axis in range(2):
                        uv[t4, 0, axis] = uv[u, o - 3 * u, axis]
                        uv[t4, 1, axis] = half * (uv[u, on, axis] + uv[u, back, axis])
                        uv[t4, 2, axis] = uv[u, back, axis]
                        uv[u, back, axis] = uv[t4, 1, axis]
            region[t3] = region[t]
            mark[t3] = 1
            work[state[WORK]] = t3
            state[WORK] += 1
            if o >= 0:
                region[t4] = region[u]
                mark[t4] = 1
                work[state[WORK]] = t4
                state[WORK] += 1
                split_edge(c, vertex, opposite, first, m, t3, t4)
                hold[vertex[o]] |= TOUCHED
            else:
                split_border(c, vertex, opposite, first, m, t3)
            _blend(position, m, a, b, b, half, half, none)
            _note(state, log, share, m, a, b, b, half, half, none)
            hold[m] = TOUCHED
            if o < 0:
                hold[m] |= BORDER
            if seam:
                hold[m] |= SEAM
            if (hold[a] | hold[b]) & GUARDED:
                hold[m] |= GUARDED
            hold[a] |= TOUCHED
            hold[b] |= TOUCHED
            hold[vertex[c]] |= TOUCHED
            done += 1
            k = 0  # what is left of the triangle is looked at again
        i += 1
    return done


@njit
def _whole_ring(start, opposite, mark, out):  # type: ignore[no-untyped-def]
    # corners around an inner vertex whose triangles all belong to the piece; -1 otherwise
    count = ring_of(start, opposite, out)
    for i in range(count):
        if mark[out[i] // 3] == 0:
            return -1
    return count


@kernel("int64(" + _ARRAYS + "float64, float64, float64[::1], float64)")
def collapse_short(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, region: NDArray[np.uint16], uv: Points,
    hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
    log: Corners, share: Points, short: float, limit: float, centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """Make edges shorter than `short`, metres, one vertex at their middle, where none gets longer than `limit` by it, no
    triangle turns by more than 60 degrees, and none gets thin. -1: no more room."""
    half = np.float32(0.5)
    none = np.float32(0.0)
    ring = np.empty(MOST_RING, np.int64)
    other = np.empty(MOST_RING, np.int64)
    before = np.empty(3, np.float64)
    after = np.empty(3, np.float64)
    middle = np.empty((1, 3), np.float64)
    old = np.empty((3, 3), np.float64)
    done = 0
    for i in range(state[WORK]):
        t = np.int64(work[i])
        for k in range(3):
            c = 3 * t + k
            if vertex[c] < 0:
                break
            o = opposite[c]
            a = vertex[next_corner(c)]
            b = vertex[previous_corner(c)]
            if o < 0 or mark[o // 3] == 0 or hold[a] & KEPT or hold[b] & KEPT:
                continue
            if squared(position, a, b) >= short * short or not _near(position, a, b, centre, reach):
                continue
            count_b = _whole_ring(previous_corner(c), opposite, mark, other)
            count_a = _whole_ring(next_corner(c), opposite, mark, ring)
            if count_a < 0 or count_b < 0 or can_collapse(c, vertex, opposite, first, ring, other) == 0:
                continue
            if state[LOG] + 1 > log.shape[0]:
                return -1
            for axis in range(3):
                middle[0, axis] = half * position[a, axis] + half * position[b, axis]
            good = True
            for side in range(2):
                count = ring_of(next_corner(c) if side == 0 else previous_corner(c), opposite, ring)
                for at in range(count):
                    j = vertex[next_corner(ring[at])]
                    e = vertex[previous_corner(ring[at])]
                    size = 0.0
                    for axis in range(3):
                        old[0, axis] = middle[0, axis]
                        old[1, axis] = position[j, axis]
                        old[2, axis] = position[e, axis]
                        size += (old[1, axis] - old[0, axis]) ** 2
                    if size > limit * limit:
                        good = False
                        break
                    if j == a or j == b or e == a or e == b:  # noqa: SIM109 - kernels want one type in a tuple
                        continue  # one of the two that go
                    facing(position, vertex[ring[at]], j, e, before)
                    facing(old, 0, 1, 2, after)
                    along = before[0] * after[0] + before[1] * after[1] + before[2] * after[2]
                    if along <= 0.5 * _length(before) * _length(after):
                        good = False
                        break
                    fair = _shape(old, 0, 1, 2, after)
                    if fair < FAIR and fair < _shape(position, vertex[ring[at]], j, e, before):
                        good = False
                        break
                if not good:
                    break
            if not good:
                continue
            hold[vertex[c]] |= TOUCHED
            hold[vertex[o]] |= TOUCHED
            hold[a] |= TOUCHED
            nu = np.float32(0.0)
            nv = np.float32(0.0)
            if uv.shape[0] > 0:
                n = next_corner(c) - 3 * t
                r = previous_corner(c) - 3 * t
                nu = half * (uv[t, n, 0] + uv[t, r, 0])
                nv = half * (uv[t, n, 1] + uv[t, r, 1])
            collapse_edge(c, vertex, opposite, first, other)
            _blend(position, a, a, b, b, half, half, none)
            _note(state, log, share, a, a, b, b, half, half, none)
            if uv.shape[0] > 0:
                count = ring_of(first[a], opposite, ring)
                for at in range(count):
                    uv[ring[at] // 3, ring[at] % 3, 0] = nu
                    uv[ring[at] // 3, ring[at] % 3, 1] = nv
            free_rows[state[FREE_ROWS]] = b
            free_faces[state[FREE_FACES]] = t
            free_faces[state[FREE_FACES] + 1] = o // 3
            mark[t] = 0
            mark[o // 3] = 0
            state[FREE_ROWS] += 1
            state[FREE_FACES] += 2
            done += 1
            break
    return done


@njit
def _length(v):  # type: ignore[no-untyped-def]
    return np.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])


@njit
def _shape(position, i, j, k, area):  # type: ignore[no-untyped-def]
    # 1 for an equilateral triangle, 0 for a degenerate one: area over the sum of the squares of the sides
    sides = squared(position, i, j) + squared(position, j, k) + squared(position, k, i)
    return 2.0 * np.sqrt(3.0) * _length(area) / max(sides, 1e-300)


@njit
def _off(degree, change):  # type: ignore[no-untyped-def]
    # how far a vertex would be from its best number of triangles if it had `change` more; negative: on a border
    return abs(degree + change - 6) if degree > 0 else abs(change - degree - 3)


@njit
def _count_degrees(vertex, opposite, work, count, degree):  # type: ignore[no-untyped-def]
    # triangles at each vertex of the piece, negative on a border
    for i in range(count):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0:
                degree[vertex[corner]] = 0
    for i in range(count):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0 and degree[vertex[corner]] == 0:
                around, border = _fan(corner, opposite)
                degree[vertex[corner]] = -around if border else around


@njit
def _cosine(position, at, i, j):  # type: ignore[no-untyped-def]
    along = 0.0
    for axis in range(3):
        along += (np.float64(position[i, axis]) - position[at, axis]) * (
            np.float64(position[j, axis]) - position[at, axis]
        )
    return along / np.sqrt(max(squared(position, at, i) * squared(position, at, j), 1e-300))


@kernel("int64(" + _ARRAYS + "int16[::1], float64, float64[::1], float64)")
def flip_edges(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, region: NDArray[np.uint16], uv: Points,
    hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
    log: Corners, share: Points, degree: NDArray[np.int16], limit: float, centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """Flip inner edges toward good valence, and where that stays the same toward Delaunay. Flat enough places only."""
    one = np.empty(3, np.float64)
    two = np.empty(3, np.float64)
    old = np.empty(3, np.float64)
    done = 0
    _count_degrees(vertex, opposite, work, state[WORK], degree)
    for i in range(state[WORK]):
        t = np.int64(work[i])
        for k in range(3):
            c = 3 * t + k
            if vertex[c] < 0:
                break
            o = opposite[c]
            if o < c or mark[o // 3] == 0:
                continue
            p = vertex[c]
            a = vertex[next_corner(c)]
            b = vertex[previous_corner(c)]
            q = vertex[o]
            if hold[a] & GUARDED and hold[b] & GUARDED:
                continue
            if not (hold[a] | hold[b] | hold[p] | hold[q]) & TOUCHED or not _near(position, a, b, centre, reach):
                continue
            if abs(degree[a]) <= 3 or abs(degree[b]) <= 3:
                continue
            now = _off(degree[a], 0) + _off(degree[b], 0) + _off(degree[p], 0) + _off(degree[q], 0)
            then = _off(degree[a], -1) + _off(degree[b], -1) + _off(degree[p], 1) + _off(degree[q], 1)
            if then > now:
                continue
            apart = squared(position, p, q)
            if then == now and _cosine(position, p, a, b) + _cosine(position, q, a, b) > -1e-3:
                continue  # both angles together are under 180 degrees: already Delaunay
            if apart > max(limit * limit, squared(position, a, b)) or _joined(p, q, vertex, opposite, first):
                continue
            if _seam(c, opposite, region, uv):
                continue
            facing(position, p, a, q, one)
            facing(position, q, b, p, two)
            facing(position, p, a, b, old)
            across = one[0] * two[0] + one[1] * two[1] + one[2] * two[2]
            kept = old[0] * one[0] + old[1] * one[1] + old[2] * one[2]
            if across < 0.7 * _length(one) * _length(two) or kept <= 0.0:
                continue
            # no triangle may become much thinner than the thinner of the two was
            area = min(_length(one), _length(two)) / apart
            facing(position, q, b, a, two)
            if area < 0.5 * min(_length(old), _length(two)) / squared(position, a, b):
                continue
            if uv.shape[0] > 0:
                u = o // 3
                r = previous_corner(c) - 3 * t
                back = previous_corner(o) - 3 * u
                for axis in range(2):
                    uv[t, r, axis] = uv[u, o - 3 * u, axis]
                    uv[u, back, axis] = uv[t, k, axis]
            flip_edge(c, vertex, opposite, first)
            degree[a] -= 1 if degree[a] > 0 else -1
            degree[b] -= 1 if degree[b] > 0 else -1
            degree[p] += 1 if degree[p] > 0 else -1
            degree[q] += 1 if degree[q] > 0 else -1
            for row in (p, a, b, q):
                hold[row] |= TOUCHED
            done += 1
    return done


@kernel("int64(" + _ARRAYS + "float64, float64[::1], float64)")
def ease(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, region: NDArray[np.uint16], uv: Points,
    hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
    log: Corners, share: Points, amount: float, centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """Slide vertices next to a change toward the middle of their neighbours, within the triangles around them.

    The new place is a blend of the three corners of the triangle it lies in, so form, layers and grounds slide with it.
    Vertices at creases (a triangle more than 45 degrees off) stay. -1: no more room.
    """
    ring = np.empty(MOST_RING, np.int64)
    face = np.empty(3, np.float64)
    normal = np.empty(3, np.float64)
    way = np.empty(3, np.float64)
    ej = np.empty(3, np.float64)
    ek = np.empty(3, np.float64)
    corner_at = np.empty((3, 3), np.float64)
    done = 0
    for i in range(state[WORK]):
        base = 3 * np.int64(work[i])
        if vertex[base] < 0:
            continue
        for start in range(base, base + 3):
            v = vertex[start]
            if not hold[v] & TOUCHED or hold[v] & (KEPT | DONE):
                continue
            hold[v] |= DONE
            count = _whole_ring(start, opposite, mark, ring)
            if count < 3 or not _near(position, v, v, centre, reach):
                continue
            if state[LOG] + 1 > log.shape[0]:
                return -1
            normal[:] = 0.0
            way[:] = 0.0
            for at in range(count):
                facing(position, v, vertex[next_corner(ring[at])], vertex[previous_corner(ring[at])], face)
                for axis in range(3):
                    normal[axis] += face[axis]
                    way[axis] += np.float64(position[vertex[next_corner(ring[at])], axis]) - position[v, axis]
            size = _length(normal)
            if not size > 0.0:
                continue
            normal /= size
            way *= amount / count
            off = way[0] * normal[0] + way[1] * normal[1] + way[2] * normal[2]
            way -= off * normal
            smooth = True
            found = -1
            s = 0.0
            u = 0.0
            for at in range(count):
                j = vertex[next_corner(ring[at])]
                e = vertex[previous_corner(ring[at])]
                facing(position, v, j, e, face)
                along = face[0] * normal[0] + face[1] * normal[1] + face[2] * normal[2]
                if along < 0.7 * _length(face):
                    smooth = False
                    break
                # shares of the two spokes, in the plane of the normal
                for axis in range(3):
                    ej[axis] = np.float64(position[j, axis]) - position[v, axis]
                    ek[axis] = np.float64(position[e, axis]) - position[v, axis]
                wide = _triple(ej, ek, normal)
                if found >= 0 or not wide > 0.0:
                    continue
                s = _triple(way, ek, normal) / wide
                u = _triple(ej, way, normal) / wide
                if s >= 0.0 and u >= 0.0:
                    found = at
            if not smooth or found < 0:
                continue
            j = vertex[next_corner(ring[found])]
            e = vertex[previous_corner(ring[found])]
            s = max(_triple(way, _edge(position, v, e, ek), normal), 0.0)
            u = max(_triple(_edge(position, v, j, ej), way, normal), 0.0)
            wide = _triple(ej, ek, normal)
            s /= wide
            u /= wide
            if s + u > 0.9:
                s, u = 0.9 * s / (s + u), 0.9 * u / (s + u)
            wj = np.float32(s)
            we = np.float32(u)
            wv = np.float32(1.0) - wj - we
            for axis in range(3):
                corner_at[0, axis] = wv * position[v, axis] + wj * position[j, axis] + we * position[e, axis]
            good = True
            for at in range(count):
                for axis in range(3):
                    corner_at[1, axis] = position[vertex[next_corner(ring[at])], axis]
                    corner_at[2, axis] = position[vertex[previous_corner(ring[at])], axis]
                facing(corner_at, 0, 1, 2, face)
                if face[0] * normal[0] + face[1] * normal[1] + face[2] * normal[2] <= 0.5 * _length(face):
                    good = False
                    break
            if not good:
                continue
            if uv.shape[0] > 0:
                t = ring[found] // 3
                n = next_corner(ring[found]) - 3 * t
                r = previous_corner(ring[found]) - 3 * t
                k = ring[found] - 3 * t
                nu = wv * uv[t, k, 0] + wj * uv[t, n, 0] + we * uv[t, r, 0]
                nv = wv * uv[t, k, 1] + wj * uv[t, n, 1] + we * uv[t, r, 1]
                for at in range(count):
                    uv[ring[at] // 3, ring[at] % 3, 0] = nu
                    uv[ring[at] // 3, ring[at] % 3, 1] = nv
            _blend(position, v, v, j, e, wv, wj, we)
            _note(state, log, share, v, v, j, e, wv, wj, we)
            done += 1
    for i in range(state[WORK]):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0:
                hold[vertex[corner]] &= ~np.uint8(DONE)
    return done


@njit
def _edge(position, i, j, out):  # type: ignore[no-untyped-def]
    for axis in range(3):
        out[axis] = np.float64(position[j, axis]) - position[i, axis]
    return out


@njit
def _triple(u, v, w):  # type: ignore[no-untyped-def]
    return (u[1] * v[2] - u[2] * v[1]) * w[0] + (u[2] * v[0] - u[0] * v[2]) * w[1] + (u[0] * v[1] - u[1] * v[0]) * w[2]


@kernel("void(float32[:,::1], int32[:,::1], float32[:,::1], int64)")
def replay(column: Points, log: Corners, share: Points, count: int) -> None:
    """Do to a column what the log says was done to positions."""
    for i in range(count):
        _blend(column, log[i, 0], log[i, 1], log[i, 2], log[i, 3], share[i, 0], share[i, 1], share[i, 2])


@kernel("void(int32[::1], uint8[::1], int32[::1], int64)")
def touch(vertex: Corners, hold: Flags, work: Corners, count: int) -> None:
    """Have all vertices of the piece count as next to a change."""
    for i in range(count):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0:
                hold[vertex[corner]] |= TOUCHED


@kernel("void(uint8[::1], int32[::1], int64)")
def clear(mark: Flags, work: Corners, count: int) -> None:
    """Take the marks away again."""
    for i in range(count):
        mark[work[i]] = 0
