"""Flipping edges toward good valence and Delaunay."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import facing, flip_edge, squared
from hulmo.core.topology.local.common import (
    ARRAYS,
    GUARDED,
    OF_EDGE,
    OF_FACE,
    TOUCHED,
    WORK,
    cosine,
    fan,
    joined_any,
    length,
    near,
    seam,
)

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Flags = NDArray[np.uint8]


@part_of_kernels
def _off(degree, change):  # type: ignore[no-untyped-def]
    # how far a vertex would be from its best number of triangles if it had `change` more; negative: on a border
    return abs(degree + change - 6) if degree > 0 else abs(change - degree - 3)


@part_of_kernels
def _count_degrees(vertex, opposite, work, count, degree):  # type: ignore[no-untyped-def]
    # triangles at each vertex of the piece, negative on a border
    for i in range(count):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0:
                degree[vertex[corner]] = 0
    for i in range(count):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0 and degree[vertex[corner]] == 0:
                around, border = fan(corner, opposite)
                degree[vertex[corner]] = -around if border else around


@kernel("int64(" + ARRAYS + "int16[::1], float64, float64[::1], float64)")
def flip_edges(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, face: Points, corner: Points,
    edge: Points, hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
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
            if not (hold[a] | hold[b] | hold[p] | hold[q]) & TOUCHED or not near(position, a, b, centre, reach):
                continue
            if abs(degree[a]) <= 3 or abs(degree[b]) <= 3:
                continue
            now = _off(degree[a], 0) + _off(degree[b], 0) + _off(degree[p], 0) + _off(degree[q], 0)
            then = _off(degree[a], -1) + _off(degree[b], -1) + _off(degree[p], 1) + _off(degree[q], 1)
            if then > now:
                continue
            apart = squared(position, p, q)
            if then == now and cosine(position, p, a, b) + cosine(position, q, a, b) > -1e-3:
                continue  # both angles together are under 180 degrees: already Delaunay
            if apart > max(limit * limit, squared(position, a, b)) or joined_any(p, q, vertex, opposite, first):
                continue
            if seam(c, opposite, face, corner, edge, state[OF_FACE], state[OF_EDGE]):
                continue
            facing(position, p, a, q, one)
            facing(position, q, b, p, two)
            facing(position, p, a, b, old)
            across = one[0] * two[0] + one[1] * two[1] + one[2] * two[2]
            kept = old[0] * one[0] + old[1] * one[1] + old[2] * one[2]
            if across < 0.7 * length(one) * length(two) or kept <= 0.0:
                continue
            # no triangle may become much thinner than the thinner of the two was
            area = min(length(one), length(two)) / apart
            facing(position, q, b, a, two)
            if area < 0.5 * min(length(old), length(two)) / squared(position, a, b):
                continue
            u = o // 3
            i_o = o - 3 * u
            for axis in range(corner.shape[2]):
                corner[t, (k + 2) % 3, axis] = corner[u, i_o, axis]
                corner[u, (i_o + 2) % 3, axis] = corner[t, k, axis]
            for axis in range(edge.shape[2]):
                edge[t, k, axis] = edge[u, (i_o + 1) % 3, axis]
                edge[u, i_o, axis] = edge[t, (k + 1) % 3, axis]
                edge[t, (k + 1) % 3, axis] = 0.0
                edge[u, (i_o + 1) % 3, axis] = 0.0
            flip_edge(c, vertex, opposite, first)
            degree[a] -= 1 if degree[a] > 0 else -1
            degree[b] -= 1 if degree[b] > 0 else -1
            degree[p] += 1 if degree[p] > 0 else -1
            degree[q] += 1 if degree[q] > 0 else -1
            for row in (p, a, b, q):
                hold[row] |= TOUCHED
            done += 1
    return done
