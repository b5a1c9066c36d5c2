"""What the kernels of local remeshing share.

Work happens on whole arrays with room behind their used part. `work` lists the triangles of the piece, new ones behind them;
`mark` is 1 for those. Only edges with both triangles in the piece are touched, so nothing outside changes but who lies
across the rim. The caller sees to it that there is room for as many vertices and triangles as `work` can take, and for a log
of all of them. Every change of a vertex is logged as a blend: row = sum of share x old rows. Position follows at once; the
caller replays the log on all other columns.
"""

import numpy as np

from hulmo.core.kernel import part_of_kernels
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import MOST_RING, ring_of, squared

ROWS, FREE_ROWS, FACES, FREE_FACES, WORK, LOG, OF_FACE, OF_EDGE = range(8)
"""Entries of `state`: rows and triangle slots in use, free ones of each, triangles in the piece, entries of the log, and how
many numbers of a face and of an edge make seams."""

BORDER, SEAM, GUARDED, TOUCHED, DONE = 1, 2, 4, 8, 16
"""Bits of `hold`: on a border, on a seam (see `seam`), guarded, next to something that changed, already eased."""

KEPT = BORDER | SEAM | GUARDED

FAIR = 0.35
"""Shape (1 equilateral, 0 degenerate) under which no collapse may bring a triangle."""

ARRAYS = (
    "float32[:,::1], int32[::1], int32[::1], int32[::1], float32[:,:,::1], float32[:,:,::1], float32[:,:,::1], uint8[::1], "
    "uint8[::1], "
    "int32[::1], int32[::1], int32[::1], int64[::1], int32[:,::1], float32[:,::1], "
)
"""Signature of the arrays that all kernels take first."""


@part_of_kernels
def seam(c, opposite, face, corner, edge, of_face, of_edge):  # type: ignore[no-untyped-def]
    """Whether something is known of an inner edge, or what is known of faces or corners differs across it."""
    o = opposite[c]
    t = c // 3
    u = o // 3
    for i in range(of_edge):
        if edge[t, c - 3 * t, i] != 0.0:
            return True
    for i in range(of_face):
        if face[t, 0, i] != face[u, 0, i]:
            return True
    n = next_corner(c) - 3 * t
    r = previous_corner(c) - 3 * t
    on = next_corner(o) - 3 * u
    back = previous_corner(o) - 3 * u
    for i in range(corner.shape[2]):
        if abs(corner[t, n, i] - corner[u, back, i]) > 1e-6 or abs(corner[t, r, i] - corner[u, on, i]) > 1e-6:
            return True
    return False


@part_of_kernels
def blend_row(column, row, i, j, k, a, b, c):  # type: ignore[no-untyped-def]
    """Write a row as a blend of three others."""
    for axis in range(column.shape[1]):
        column[row, axis] = a * column[i, axis] + b * column[j, axis] + c * column[k, axis]


@part_of_kernels
def note(state, log, share, row, i, j, k, a, b, c):  # type: ignore[no-untyped-def]
    """Log a blend."""
    at = state[LOG]
    log[at, 0] = row
    log[at, 1] = i
    log[at, 2] = j
    log[at, 3] = k
    share[at, 0] = a
    share[at, 1] = b
    share[at, 2] = c
    state[LOG] = at + 1


@part_of_kernels
def take(free, state, which_free, which_used):  # type: ignore[no-untyped-def]
    """A slot for something new: the last one freed, or a fresh one."""
    if state[which_free] > 0:
        state[which_free] -= 1
        return np.int64(free[state[which_free]])
    slot = state[which_used]
    state[which_used] = slot + 1
    return slot


@part_of_kernels
def fan(start, opposite):  # type: ignore[no-untyped-def]
    """Triangles at a vertex, and whether a border runs through it."""
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


@part_of_kernels
def joined_any(u, v, vertex, opposite, first):  # type: ignore[no-untyped-def]
    """Whether an edge joins two vertices, borders included."""
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


@part_of_kernels
def near(position, a, b, centre, reach):  # type: ignore[no-untyped-def]
    """Whether the middle of an edge lies within the square of a radius."""
    total = 0.0
    for axis in range(3):
        away = 0.5 * (np.float64(position[a, axis]) + position[b, axis]) - centre[axis]
        total += away * away
    return total < reach


@part_of_kernels
def touches(position, a, b, centre, reach):  # type: ignore[no-untyped-def]
    """Whether any point of an edge does."""
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


@part_of_kernels
def longest_side(position, vertex, t):  # type: ignore[no-untyped-def]
    """Square of the longest side of a triangle."""
    a = vertex[3 * t]
    b = vertex[3 * t + 1]
    c = vertex[3 * t + 2]
    return max(squared(position, a, b), squared(position, b, c), squared(position, c, a))


@part_of_kernels
def whole_ring(start, opposite, mark, out):  # type: ignore[no-untyped-def]
    """Corners around an inner vertex whose triangles all belong to the piece; -1 otherwise."""
    count = ring_of(start, opposite, out)
    for i in range(count):
        if mark[out[i] // 3] == 0:
            return -1
    return count


@part_of_kernels
def length(v):  # type: ignore[no-untyped-def]
    """Length of a vector."""
    return np.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])


@part_of_kernels
def shape(position, i, j, k, area):  # type: ignore[no-untyped-def]
    """1 for an equilateral triangle, 0 for a degenerate one: area over the sum of the squares of the sides."""
    sides = squared(position, i, j) + squared(position, j, k) + squared(position, k, i)
    return 2.0 * np.sqrt(3.0) * length(area) / max(sides, 1e-300)


@part_of_kernels
def cosine(position, at, i, j):  # type: ignore[no-untyped-def]
    """Cosine of the angle at a row between two others."""
    along = 0.0
    for axis in range(3):
        along += (np.float64(position[i, axis]) - position[at, axis]) * (
            np.float64(position[j, axis]) - position[at, axis]
        )
    return along / np.sqrt(max(squared(position, at, i) * squared(position, at, j), 1e-300))


@part_of_kernels
def edge(position, i, j, out):  # type: ignore[no-untyped-def]
    """The way from one row to another, in `out`."""
    for axis in range(3):
        out[axis] = np.float64(position[j, axis]) - position[i, axis]
    return out


@part_of_kernels
def triple(u, v, w):  # type: ignore[no-untyped-def]
    """Dot product of a cross product with a third vector."""
    return (u[1] * v[2] - u[2] * v[1]) * w[0] + (u[2] * v[0] - u[0] * v[2]) * w[1] + (u[0] * v[1] - u[1] * v[0]) * w[2]
