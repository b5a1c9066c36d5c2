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
    inverse = inverse.reshape(-1)
    middle, of_high = np.full(triangles.shape, -1, np.int32), np.zeros(triangles.shape)
    middle[slot, corner], of_high[slot, corner] = rows[inverse], part[inverse]
    count = corners.count + slot.size
    made, parent = np.empty((count, 3), np.int32), np.empty(count, np.int32)
    shares, along = np.empty((count, 3, 3)), np.empty((count, 3), np.int32)
    _divide(np.ascontiguousarray(triangles), middle, of_high, table["position"], made, parent, shares, along)
    slots = corners.slots.made(parent, shares, along)
    across = np.empty(made.size, np.int32)
    _join(corners.opposite, triangles, middle, made, parent, along, np.empty((triangles.size, 2), np.int32), across)
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
    # triangles with vertices in the middle of none, one, two or three of their edges; of two, the shorter way across
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
        if count == 0:
            _put(made, shares, along, at, (0, 1, 2), rows, corner, (0, 1, 2))
            at += 1
        elif count == 1:
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


@kernel(
    "void(int32[::1], int32[:,::1], int32[:,::1], int32[:,::1], int32[::1], int32[:,::1], int32[:,::1], int32[::1])"
)
def _join(
    opposite: Rows, triangles: Rows2, middle: Rows2, made: Rows2, parent: Rows, along: Rows2, there: Rows2, across: Rows,
) -> None:  # fmt: skip
    # opposite corners of the triangles made: by those of their parents, and among those of one parent
    flat = made.reshape(-1)
    begin = 0
    for c in range(made.shape[0]):
        if parent[c] != parent[begin]:
            begin = c
        for i in range(3):
            e = along[c, i]
            if e >= 0:
                there[3 * parent[c] + e, _half(triangles, middle, flat, 3 * c + i, parent[c], e)] = 3 * c + i
                continue
            tail, tip = made[c, (i + 1) % 3], made[c, (i + 2) % 3]
            for d in range(begin, c):
                for j in range(3):
                    if along[d, j] < 0 and made[d, (j + 1) % 3] == tip and made[d, (j + 2) % 3] == tail:
                        across[3 * c + i] = 3 * d + j
                        across[3 * d + j] = 3 * c + i
    for c in range(made.shape[0]):
        for i in range(3):
            e = along[c, i]
            if e >= 0:
                other = opposite[3 * parent[c] + e]
                half = _half(triangles, middle, flat, 3 * c + i, parent[c], e)
                across[3 * c + i] = there[other, half] if other >= 0 else -1
