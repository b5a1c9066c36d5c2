"""Edges turned to join the two corners across from them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

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
    asked = np.flatnonzero(edges.reshape(-1) & (opposite > np.arange(opposite.size)))
    able = np.empty(asked.size, np.bool_)
    _able(corners.vertex, opposite, corners.first_corner, asked, np.zeros(corners.count, np.bool_), able)
    turned = asked[able]
    if not turned.size:
        return corners.copy(), np.empty((0, 2), np.int64)
    t, k = np.divmod(turned, 3)
    u, i = np.divmod(opposite[turned].astype(np.int64), 3)
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
    across = opposite.copy()
    _turn(across, turned, opposite[turned].astype(np.int64))
    return CornerTable.from_opposites(made.reshape(-1), across, count, slots, True), np.stack((t, u), axis=1)


@part_of_kernels
def _link(opposite, one, other):  # type: ignore[no-untyped-def]
    opposite[one] = other
    if other >= 0:
        opposite[other] = one


@kernel("void(int32[::1], int64[::1], int64[::1])")
def _turn(opposite: NDArray[np.int32], here: NDArray[np.int64], there: NDArray[np.int64]) -> None:
    # opposite corners after turns one after the other, of which none shares a triangle with another one
    for i in range(here.size):
        k, j = here[i], there[i]
        t, u = k - k % 3, j - j % 3
        of_t = opposite[next_corner(k)], opposite[previous_corner(k)]
        of_u = opposite[next_corner(j)], opposite[previous_corner(j)]
        _link(opposite, t, of_u[0])
        _link(opposite, t + 1, u + 1)
        _link(opposite, t + 2, of_t[1])
        _link(opposite, u, of_t[0])
        _link(opposite, u + 2, of_u[1])


@kernel("void(int32[::1], int32[::1], int32[::1], int64[::1], boolean[::1], boolean[::1])")
def _able(
    vertex: NDArray[np.int32], opposite: NDArray[np.int32], first: NDArray[np.int32], asked: NDArray[np.int64],
    taken: Mask, able: Mask,
) -> None:  # fmt: skip
    # which edges can be turned one after the other; what joins two vertices already, or has come to, joins them no more
    made = {(np.int64(-1), np.int64(-1))}
    for j in range(asked.size):
        at = asked[j]
        across = np.int64(opposite[at])
        p, q = np.int64(vertex[at]), np.int64(vertex[across])
        pair = (min(p, q), max(p, q))
        able[j] = False
        if taken[at // 3] or taken[across // 3] or p == q or pair in made or _joined(vertex, opposite, first, p, q):
            continue
        taken[at // 3] = taken[across // 3] = True
        made.add(pair)
        able[j] = True


@part_of_kernels
def _joined(vertex, opposite, first, row, other):  # type: ignore[no-untyped-def]
    # whether an edge leads from one vertex to another; a fan at a border starts at it
    start = first[row]
    corner = start
    while corner >= 0:
        if vertex[next_corner(corner)] == other or vertex[previous_corner(corner)] == other:
            return True
        across = opposite[next_corner(corner)]
        if across < 0:
            break
        corner = next_corner(across)
        if corner == start:
            break
    return False
