"""Edges turned to join the two corners across from them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable

Mask = NDArray[np.bool_]


def turn_edges(corners: CornerTable, edges: Mask, count: int) -> tuple[CornerTable, NDArray[np.int64]]:
    """Turn edges one after the other, wherever the surface stays a manifold; none that shares a triangle with one turned.

    Parameters
    ----------
    corners : CornerTable
        Without freed slots.
    edges : (M, 3) bool
        By the corner across, the same from both sides.
    count : int
        Vertices.

    Returns
    -------
    tuple
        The new table, and (K, 2) pairs of triangles between which an edge was turned: it lies across the second corner of
        both.
    """
    triangles, opposite = corners.triangles, corners.opposite
    tail, tip = triangles[:, (1, 2, 0)].astype(np.int64), triangles[:, (2, 0, 1)].astype(np.int64)
    joined = set(np.unique(np.minimum(tail, tip) * count + np.maximum(tail, tip)).tolist())
    taken = np.zeros(corners.count, np.bool_)
    turned = []
    for at in np.flatnonzero(edges.reshape(-1) & (opposite > np.arange(opposite.size))).tolist():
        t, k = divmod(at, 3)
        u, i = divmod(int(opposite[at]), 3)
        p, q = int(triangles[t, k]), int(triangles[u, i])
        key = min(p, q) * count + max(p, q)
        if taken[t] or taken[u] or p == q or key in joined:
            continue
        taken[t] = taken[u] = True
        joined.add(key)
        turned.append((t, k, u, i))
    if not turned:
        return corners.copy(), np.empty((0, 2), np.int64)
    t, k, u, i = np.array(turned).T
    k1, k2, i1, i2 = (k + 1) % 3, (k + 2) % 3, (i + 1) % 3, (i + 2) % 3
    made = triangles.copy()
    made[t] = np.stack((triangles[t, k], triangles[t, k1], triangles[u, i]), axis=1)
    made[u] = np.stack((triangles[u, i], triangles[u, i1], triangles[t, k]), axis=1)
    slots = corners.slots.copy()
    for name in slots.names("corner"):
        old = corners.slots[name]
        slots[name][t] = np.stack((old[t, k], old[t, k1], old[u, i]), axis=1)
        slots[name][u] = np.stack((old[u, i], old[u, i1], old[t, k]), axis=1)
    for name in slots.names("edge"):
        old = corners.slots[name]
        none = np.zeros_like(old[t, k])
        slots[name][t] = np.stack((old[u, i1], none, old[t, k2]), axis=1)
        slots[name][u] = np.stack((old[t, k1], none, old[u, i2]), axis=1)
    return CornerTable.from_triangles(made, count, slots), np.stack((t, u), axis=1)
