"""New vertices on edges, and the triangles at them divided."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable

Mask = NDArray[np.bool_]
Rows = NDArray[np.int32]

Whole = NDArray[np.integer]
Shares = NDArray[np.floating]

CORNER = np.eye(3)


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
    tail, tip = triangles[:, (1, 2, 0)].astype(np.int64), triangles[:, (2, 0, 1)].astype(np.int64)
    low, high = np.minimum(tail, tip), np.maximum(tail, tip)
    key = (low * vertices.count + high)[edges]
    unique, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    table = vertices.copy()
    if not unique.size:
        return table, corners.copy(), np.arange(corners.count, dtype=np.int32)
    rows = table.allocate(unique.size)
    part = np.full(unique.size, 0.5) if share is None else np.asarray(share)[edges][first]
    table.blend(rows, low[edges][first].astype(np.int32), high[edges][first].astype(np.int32), part)
    middle = np.full(triangles.shape, -1, np.int64)
    middle[edges] = rows[inverse.reshape(-1)]
    place = np.zeros((*triangles.shape, 3))  # what a new vertex has of the corners of each triangle at it
    slot, corner = np.nonzero(edges)
    of_high = part[inverse.reshape(-1)]
    ahead, behind = (corner + 1) % 3, (corner + 2) % 3
    up = triangles[slot, ahead] == low[edges]
    place[slot, corner, ahead] = np.where(up, 1 - of_high, of_high)
    place[slot, corner, behind] = np.where(up, of_high, 1 - of_high)
    made, parents, shares, alongs = [], [], [], []

    def add(which: Whole, vertex: list[Whole], at: list[Shares], along: list[Whole]) -> None:
        made.append(np.stack(vertex, axis=1))
        parents.append(which)
        shares.append(np.stack(at, axis=1))
        alongs.append(np.stack(along, axis=1))

    count = (middle >= 0).sum(axis=1)
    still = np.flatnonzero(count == 0)
    none = lambda which: np.full(which.size, -1)  # noqa: E731
    if still.size:
        t = triangles[still]
        whole = np.broadcast_to(CORNER, (still.size, 3, 3))
        add(still, [t[:, 0], t[:, 1], t[:, 2]], [whole[:, 0], whole[:, 1], whole[:, 2]],
            [np.zeros(still.size, int), np.ones(still.size, int), np.full(still.size, 2)])  # fmt: skip
    for k in range(3):
        n, r = (k + 1) % 3, (k + 2) % 3
        one = np.flatnonzero((count == 1) & (middle[:, k] >= 0))
        if one.size:
            p, a, b, m = triangles[one, k], triangles[one, n], triangles[one, r], middle[one, k]
            at = [np.broadcast_to(CORNER[i], (one.size, 3)) for i in (k, n, r)]
            add(one, [p, a, m], [at[0], at[1], place[one, k]], [np.full(one.size, k), none(one), np.full(one.size, r)])
            add(one, [p, m, b], [at[0], place[one, k], at[2]], [np.full(one.size, k), np.full(one.size, n), none(one)])
        two = np.flatnonzero((count == 2) & (middle[:, k] < 0))
        if two.size:
            p, a, b = triangles[two, k], triangles[two, n], triangles[two, r]
            mr, mn = middle[two, r], middle[two, n]  # on the edges p-a and b-p
            at = [np.broadcast_to(CORNER[i], (two.size, 3)) for i in (k, n, r)]
            pr, pn = place[two, r], place[two, n]
            add(two, [p, mr, mn], [at[0], pr, pn], [none(two), np.full(two.size, n), np.full(two.size, r)])
            position = table["position"].astype(np.float64)
            across = np.linalg.norm(position[mr] - position[b], axis=1) <= np.linalg.norm(
                position[a] - position[mn], axis=1
            )
            for which, swap in ((two[across], False), (two[~across], True)):
                pick = across if not swap else ~across
                full = lambda value, size=which.size: np.full(size, value)  # noqa: E731
                a_, b_, mr_, mn_ = a[pick], b[pick], mr[pick], mn[pick]
                sa, sb, sr, sn = at[1][pick], at[2][pick], pr[pick], pn[pick]
                if not which.size:
                    continue
                if not swap:
                    add(which, [mr_, a_, b_], [sr, sa, sb], [full(k), full(-1), full(r)])
                    add(which, [mr_, b_, mn_], [sr, sb, sn], [full(n), full(-1), full(-1)])
                else:
                    add(which, [mr_, a_, mn_], [sr, sa, sn], [full(-1), full(-1), full(r)])
                    add(which, [a_, b_, mn_], [sa, sb, sn], [full(n), full(-1), full(k)])
    three = np.flatnonzero(count == 3)
    if three.size:
        t, m, s = triangles[three], middle[three], place[three]
        at = [np.broadcast_to(CORNER[i], (three.size, 3)) for i in range(3)]
        no, zero, one_, two_ = none(three), np.zeros(three.size, int), np.ones(three.size, int), np.full(three.size, 2)
        add(three, [t[:, 0], m[:, 2], m[:, 1]], [at[0], s[:, 2], s[:, 1]], [no, one_, two_])
        add(three, [m[:, 2], t[:, 1], m[:, 0]], [s[:, 2], at[1], s[:, 0]], [zero, no, two_])
        add(three, [m[:, 1], m[:, 0], t[:, 2]], [s[:, 1], s[:, 0], at[2]], [zero, one_, no])
        add(three, [m[:, 0], m[:, 1], m[:, 2]], [s[:, 0], s[:, 1], s[:, 2]], [no, no, no])
    parent = np.concatenate(parents)
    order = np.argsort(parent, kind="stable")
    parent = parent[order]
    slots = corners.slots.made(parent, np.concatenate(shares)[order], np.concatenate(alongs)[order])
    result = CornerTable.from_triangles(np.concatenate(made)[order].astype(np.int32), table.count, slots)
    return table, result, parent.astype(np.int32)
