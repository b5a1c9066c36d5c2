"""Joining edges that are too short."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import MOST_RING, can_collapse, collapse_edge, facing, ring_of, squared
from hulmo.core.topology.local.common import (
    ARRAYS,
    FAIR,
    FREE_FACES,
    FREE_ROWS,
    KEPT,
    TOUCHED,
    WORK,
    blend_row,
    length,
    near,
    note,
    shape,
    whole_ring,
)

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Flags = NDArray[np.uint8]


@kernel("int64(" + ARRAYS + "float64, float64, float64[::1], float64)")
def collapse_short(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, face: Points, corner: Points,
    edge: Points, hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners, state: NDArray[np.int64],
    log: Corners, share: Points, short: float, limit: float, centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """Make edges shorter than `short`, metres, one vertex at their middle, where none gets longer than `limit` by it, no
    triangle turns by more than 60 degrees, and none gets thin."""
    half = np.float32(0.5)
    none = np.float32(0.0)
    ring = np.empty(MOST_RING, np.int64)
    other = np.empty(MOST_RING, np.int64)
    before = np.empty(3, np.float64)
    after = np.empty(3, np.float64)
    middle = np.empty((1, 3), np.float64)
    old = np.empty((3, 3), np.float64)
    joint = np.empty(corner.shape[2], np.float32)
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
            if squared(position, a, b) >= short * short or not near(position, a, b, centre, reach):
                continue
            count_b = whole_ring(previous_corner(c), opposite, mark, other)
            count_a = whole_ring(next_corner(c), opposite, mark, ring)
            if count_a < 0 or count_b < 0 or can_collapse(c, vertex, opposite, first, ring, other) == 0:
                continue
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
                    if along <= 0.5 * length(before) * length(after):
                        good = False
                        break
                    fair = shape(old, 0, 1, 2, after)
                    if fair < FAIR and fair < shape(position, vertex[ring[at]], j, e, before):
                        good = False
                        break
                if not good:
                    break
            if not good:
                continue
            hold[vertex[c]] |= TOUCHED
            hold[vertex[o]] |= TOUCHED
            hold[a] |= TOUCHED
            for axis in range(corner.shape[2]):
                joint[axis] = half * (corner[t, (k + 1) % 3, axis] + corner[t, (k + 2) % 3, axis])
            for gone in (c, np.int64(o)):
                one = opposite[next_corner(gone)]
                two = opposite[previous_corner(gone)]
                if one < 0 or two < 0:
                    continue
                for axis in range(edge.shape[2]):  # two edges become one, which is chosen where either was
                    kept = edge[one // 3, one % 3, axis]
                    if abs(edge[two // 3, two % 3, axis]) > abs(kept):
                        kept = edge[two // 3, two % 3, axis]
                    edge[one // 3, one % 3, axis] = kept
                    edge[two // 3, two % 3, axis] = kept
            collapse_edge(c, vertex, opposite, first, other)
            blend_row(position, a, a, b, b, half, half, none)
            note(state, log, share, a, a, b, b, half, half, none)
            if corner.shape[2] > 0:  # no edge at either end is a seam, or has anything known of it
                count = ring_of(first[a], opposite, ring)
                for at in range(count):
                    for axis in range(corner.shape[2]):
                        corner[ring[at] // 3, ring[at] % 3, axis] = joint[axis]
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
