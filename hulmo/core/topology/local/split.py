"""Splitting edges that are too long."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels, written_into_kernels
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import split_border, split_edge, squared
from hulmo.core.topology.local.common import (
    ARRAYS,
    BORDER,
    FACES,
    FREE_FACES,
    FREE_ROWS,
    GUARDED,
    OF_EDGE,
    OF_FACE,
    ROWS,
    SEAM,
    TOUCHED,
    WORK,
    blend_row,
    longest_side,
    note,
    seam,
    take,
    touches,
)

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Flags = NDArray[np.uint8]


@written_into_kernels
def _parts(position, a, b):  # type: ignore[no-untyped-def]
    # whether the middle of an edge is another place than its ends: where coordinates are too coarse halving would never end
    half = np.float32(0.5)
    first = False
    second = False
    for axis in range(3):
        middle = half * (position[a, axis] + position[b, axis])
        first = first or middle != position[a, axis]
        second = second or middle != position[b, axis]
    return first and second


@part_of_kernels
def _halve(face, corner, edge, t, k, t3):  # type: ignore[no-untyped-def]
    # what is known of a triangle whose edge across corner k is split: it keeps the next corner, `t3` gets the previous one
    half = np.float32(0.5)
    n = (k + 1) % 3
    r = (k + 2) % 3
    for axis in range(face.shape[2]):
        face[t3, 0, axis] = face[t, 0, axis]
    for axis in range(corner.shape[2]):
        corner[t3, 0, axis] = corner[t, k, axis]
        corner[t3, 1, axis] = half * (corner[t, n, axis] + corner[t, r, axis])
        corner[t3, 2, axis] = corner[t, r, axis]
        corner[t, r, axis] = corner[t3, 1, axis]
    for axis in range(edge.shape[2]):
        edge[t3, 0, axis] = edge[t, k, axis]
        edge[t3, 1, axis] = edge[t, n, axis]
        edge[t3, 2, axis] = 0.0
        edge[t, n, axis] = 0.0


@kernel("int64(" + ARRAYS + "float64, float64[::1], float64, boolean)")
def split_long(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, face: Points, corner: Points,
    edge: Points, hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
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
            if 2.0 * size < longest_side(position, vertex, t) or (
                o >= 0 and 2.0 * size < longest_side(position, vertex, o // 3)
            ):
                continue  # halving the shorter sides beside one that may not be split would never end
            if not _parts(position, a, b):
                continue
            if (o < 0 and locked) or (o >= 0 and mark[o // 3] == 0) or not touches(position, a, b, centre, reach):
                continue
            if state[WORK] + 2 > work.size:
                return -1
            u = o // 3
            on_seam = o >= 0 and seam(c, opposite, face, corner, edge, state[OF_FACE], state[OF_EDGE])
            m = take(free_rows, state, FREE_ROWS, ROWS)
            t3 = take(free_faces, state, FREE_FACES, FACES)
            t4 = t3
            if o >= 0:
                t4 = take(free_faces, state, FREE_FACES, FACES)
            _halve(face, corner, edge, t, c - 3 * t, t3)
            mark[t3] = 1
            work[state[WORK]] = t3
            state[WORK] += 1
            if o >= 0:
                _halve(face, corner, edge, u, o - 3 * u, t4)
                mark[t4] = 1
                work[state[WORK]] = t4
                state[WORK] += 1
                split_edge(c, vertex, opposite, first, m, t3, t4)
                hold[vertex[o]] |= TOUCHED
            else:
                split_border(c, vertex, opposite, first, m, t3)
            blend_row(position, m, a, b, b, half, half, none)
            note(state, log, share, m, a, b, b, half, half, none)
            hold[m] = TOUCHED
            if o < 0:
                hold[m] |= BORDER
            if on_seam:
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
