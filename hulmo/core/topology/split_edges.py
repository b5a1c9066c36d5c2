"""New vertices on edges, and the triangles at them divided."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.mesh.vertex_table import VertexTable

Mask = NDArray[np.bool_]
Rows = NDArray[np.int32]
Rows2 = NDArray[np.int32]


def split_edges(
    vertices: VertexTable, corners: CornerTable, edges: Mask, share: NDArray[np.floating] | None = None
) -> tuple[VertexTable, CornerTable, Rows]:
    """Put a vertex on every edge named, and divide the triangles at it; the shape stays as it is.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    edges : (M, 3) bool
        By the corner across, the same from both sides.
    share : (M, 3) float, optional
        Where on the edge: 0 at the end of the lower number, 1 at the other; the middle where left out.

    Returns
    -------
    tuple
        Vertex table with the new rows behind the old ones, corner table, and the slot that each triangle lay in.
    """
    triangles = corners.triangles
    slot, corner = np.nonzero(edges)
    tail, tip = triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]
    low, high = np.minimum(tail, tip), np.maximum(tail, tip)
    key = low.astype(np.int64) * vertices.count + high
    unique, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    table = vertices.copy()
    if not unique.size:
        return table, corners.copy(), np.arange(corners.count, dtype=np.int32)
    rows = table.allocate(unique.size)
    part = np.full(unique.size, 0.5) if share is None else np.asarray(share, np.float64)[edges][first]
    table.blend(rows, low[first], high[first], part)
    # triangles that stay whole are carried over as they are; those that are divided are few as a rule
    divided = edges.any(axis=1)
    cut, place = np.flatnonzero(divided), np.cumsum(divided, dtype=np.int32) - 1
    cut_of = np.where(divided, place, np.int32(-1))
    inverse, own = inverse.reshape(-1), cut_of[slot]
    middle, of_high = np.full((cut.size, 3), -1, np.int32), np.zeros((cut.size, 3))
    middle[own, corner], of_high[own, corner] = rows[inverse], part[inverse]
    each = np.ones(corners.count, np.int32)
    each[cut] += (middle >= 0).sum(axis=1, dtype=np.int32)
    begin = np.cumsum(each, dtype=np.int32) - each
    few = cut.size + slot.size
    pieces, within = np.empty((few, 3), np.int32), np.empty(few, np.int32)
    shares, along = np.empty((few, 3, 3)), np.empty((few, 3), np.int32)
    parents = np.ascontiguousarray(triangles[cut])
    _divide(parents, middle, of_high, table["position"], pieces, within, shares, along)
    lies = np.repeat(begin[cut] - (np.cumsum(each[cut], dtype=np.int32) - each[cut]), each[cut])
    lies += np.arange(few, dtype=np.int32)
    parent = np.repeat(np.arange(corners.count, dtype=np.int32), each)
    made = triangles.take(parent, axis=0)
    made[lies] = pieces
    across = np.empty(made.size, np.int32)
    _join(
        corners.opposite, begin, cut_of, cut.astype(np.int32), parents, middle, pieces, within, along, lies,
        np.empty((parents.size, 2), np.int32), across,
    )  # fmt: skip
    slots = corners.slots.made(parent, shares, along, lies)
    return table, CornerTable.from_opposites(made.reshape(-1), across, table.count, slots, True), parent


@part_of_kernels
def _put(made, shares, along, at, where, rows, corner, edge):  # type: ignore[no-untyped-def]
    # one triangle of three of the six places of its parent: its corners, and then the middles across from them
    for i in range(3):
        made[at, i] = rows[where[i]]
        along[at, i] = edge[i]
        for k in range(3):
            shares[at, i, k] = corner[where[i], k]


@part_of_kernels
def _apart(position, a, b):  # type: ignore[no-untyped-def]
    far = 0.0
    for axis in range(3):
        far += (np.float64(position[a, axis]) - np.float64(position[b, axis])) ** 2
    return far


@kernel(
    "void(int32[:,::1], int32[:,::1], float64[:,::1], float32[:,::1], int32[:,::1], int32[::1], float64[:,:,::1], "
    "int32[:,::1])"
)
def _divide(
    triangles: Rows2, middle: Rows2, part: NDArray[np.float64], position: NDArray[np.float32], made: Rows2, parent: Rows,
    shares: NDArray[np.float64], along: Rows2,
) -> None:  # fmt: skip
    # triangles with vertices in the middle of one, two or three of their edges; of two, the shorter way across
    rows, corner = np.empty(6, np.int64), np.zeros((6, 3))
    at = 0
    for t in range(triangles.shape[0]):
        count, one, none = 0, 0, 0
        for k in range(3):
            rows[k], rows[3 + k] = triangles[t, k], middle[t, k]
            for i in range(3):
                corner[k, i] = 1.0 if i == k else 0.0
                corner[3 + k, i] = 0.0
            if middle[t, k] < 0:
                none = k
                continue
            count += 1
            one = k
            n, r = (k + 1) % 3, (k + 2) % 3
            up = triangles[t, n] < triangles[t, r]
            corner[3 + k, n] = 1.0 - part[t, k] if up else part[t, k]
            corner[3 + k, r] = part[t, k] if up else 1.0 - part[t, k]
        start = at
        if count == 1:
            k, n, r = one, (one + 1) % 3, (one + 2) % 3
            _put(made, shares, along, at, (k, n, 3 + k), rows, corner, (k, -1, r))
            _put(made, shares, along, at + 1, (k, 3 + k, r), rows, corner, (k, n, -1))
            at += 2
        elif count == 2:
            k, n, r = none, (none + 1) % 3, (none + 2) % 3
            _put(made, shares, along, at, (k, 3 + r, 3 + n), rows, corner, (-1, n, r))
            if _apart(position, rows[3 + r], rows[r]) <= _apart(position, rows[n], rows[3 + n]):
                _put(made, shares, along, at + 1, (3 + r, n, r), rows, corner, (k, -1, r))
                _put(made, shares, along, at + 2, (3 + r, r, 3 + n), rows, corner, (n, -1, -1))
            else:
                _put(made, shares, along, at + 1, (3 + r, n, 3 + n), rows, corner, (-1, -1, r))
                _put(made, shares, along, at + 2, (n, r, 3 + n), rows, corner, (n, -1, k))
            at += 3
        else:
            _put(made, shares, along, at, (0, 5, 4), rows, corner, (-1, 1, 2))
            _put(made, shares, along, at + 1, (5, 1, 3), rows, corner, (0, -1, 2))
            _put(made, shares, along, at + 2, (4, 3, 2), rows, corner, (0, 1, -1))
            _put(made, shares, along, at + 3, (3, 4, 5), rows, corner, (-1, -1, -1))
            at += 4
        for i in range(start, at):
            parent[i] = t


@part_of_kernels
def _half(triangles, middle, made, corner, t, e):  # type: ignore[no-untyped-def]
    # which half of an edge of its parent a triangle has across from a corner: 0 that at the lower end, or the whole edge
    if middle[t, e] < 0:
        return 0
    tail, tip = made[next_corner(corner)], made[previous_corner(corner)]
    end = tail if tip == middle[t, e] else tip
    return 0 if end == min(triangles[t, (e + 1) % 3], triangles[t, (e + 2) % 3]) else 1


@part_of_kernels
def _facing(other, half, begin, cut_of, there):  # type: ignore[no-untyped-def]
    # the corner that now faces what a corner of a parent faced, or one half of it
    if other < 0:
        return np.int32(-1)
    t, k = other // 3, other % 3
    if cut_of[t] >= 0:
        return there[3 * cut_of[t] + k, half]
    return np.int32(3 * begin[t] + k)


@kernel(
    "void(int32[::1], int32[::1], int32[::1], int32[::1], int32[:,::1], int32[:,::1], int32[:,::1], int32[::1], "
    "int32[:,::1], int32[::1], int32[:,::1], int32[::1])"
)
def _join(
    opposite: Rows, begin: Rows, cut_of: Rows, cut: Rows, parents: Rows2, middle: Rows2, pieces: Rows2, within: Rows,
    along: Rows2, lies: Rows, there: Rows2, across: Rows,
) -> None:  # fmt: skip
    # opposite corners of all triangles: by those of their parents, and among the pieces of one parent
    flat = pieces.reshape(-1)
    first = 0
    for c in range(pieces.shape[0]):
        if within[c] != within[first]:
            first = c
        for i in range(3):
            e = along[c, i]
            if e >= 0:
                half = _half(parents, middle, flat, 3 * c + i, within[c], e)
                there[3 * within[c] + e, half] = 3 * lies[c] + i
                continue
            tail, tip = pieces[c, (i + 1) % 3], pieces[c, (i + 2) % 3]
            for d in range(first, c):
                for j in range(3):
                    if along[d, j] < 0 and pieces[d, (j + 1) % 3] == tip and pieces[d, (j + 2) % 3] == tail:
                        across[3 * lies[c] + i] = 3 * lies[d] + j
                        across[3 * lies[d] + j] = 3 * lies[c] + i
    for c in range(pieces.shape[0]):
        for i in range(3):
            e = along[c, i]
            if e >= 0:
                half = _half(parents, middle, flat, 3 * c + i, within[c], e)
                across[3 * lies[c] + i] = _facing(opposite[3 * cut[within[c]] + e], half, begin, cut_of, there)
    for t in range(begin.size):
        if cut_of[t] < 0:
            for k in range(3):
                across[3 * begin[t] + k] = _facing(opposite[3 * t + k], 0, begin, cut_of, there)
