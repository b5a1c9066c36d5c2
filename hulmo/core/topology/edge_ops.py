"""Splitting, collapsing and flipping edges in a corner table: the steps that even meshes are made of.

All functions work on bare arrays with room behind their used part, and are inlined into the kernels that decide where to
use them. An edge is named by the corner `c` that faces it. With c at p, the edge runs from a = next(c) to b = previous(c);
the triangle across has the corner o = opposite(c) at q. `first` gets any corner of a vertex that it still has.
"""

from hulmo.core.kernel import part_of_kernels
from hulmo.core.mesh.one_ring import next_corner, previous_corner

MOST_RING = 64
"""Corners around one vertex that are looked at; vertices with more are left alone."""


@part_of_kernels
def ring_of(start, opposite, out):  # type: ignore[no-untyped-def]
    """Corners at a vertex that no border runs through; -1 on a border, or when there are too many."""
    count = 0
    corner = start
    while True:
        if count == out.size:
            return -1
        out[count] = corner
        count += 1
        across = opposite[next_corner(corner)]
        if across < 0:
            return -1
        corner = next_corner(across)
        if corner == start:
            return count


@part_of_kernels
def split_edge(c, vertex, opposite, first, new_vertex, t3, t4):  # type: ignore[no-untyped-def]
    """Put `new_vertex` into an inner edge; `t3` and `t4` are free triangle slots."""
    n = next_corner(c)
    r = previous_corner(c)
    o = opposite[c]
    on = next_corner(o)
    back = previous_corner(o)
    p = vertex[c]
    a = vertex[n]
    b = vertex[r]
    q = vertex[o]
    x = opposite[n]
    z = opposite[on]
    c3 = 3 * t3
    c4 = 3 * t4
    vertex[r] = new_vertex
    vertex[back] = new_vertex
    vertex[c3] = p
    vertex[c3 + 1] = new_vertex
    vertex[c3 + 2] = b
    vertex[c4] = q
    vertex[c4 + 1] = new_vertex
    vertex[c4 + 2] = a
    opposite[n] = c3 + 2
    opposite[c3 + 2] = n
    opposite[c3 + 1] = x
    if x >= 0:
        opposite[x] = c3 + 1
    opposite[c3] = o
    opposite[o] = c3
    opposite[on] = c4 + 2
    opposite[c4 + 2] = on
    opposite[c4 + 1] = z
    if z >= 0:
        opposite[z] = c4 + 1
    opposite[c4] = c
    opposite[c] = c4
    first[new_vertex] = r
    first[a] = n
    first[b] = c3 + 2
    first[p] = c
    first[q] = o


@part_of_kernels
def split_border(c, vertex, opposite, first, new_vertex, t3):  # type: ignore[no-untyped-def]
    """Put `new_vertex` into a border edge; `t3` is a free triangle slot."""
    n = next_corner(c)
    r = previous_corner(c)
    p = vertex[c]
    a = vertex[n]
    b = vertex[r]
    x = opposite[n]
    c3 = 3 * t3
    vertex[r] = new_vertex
    vertex[c3] = p
    vertex[c3 + 1] = new_vertex
    vertex[c3 + 2] = b
    opposite[n] = c3 + 2
    opposite[c3 + 2] = n
    opposite[c3 + 1] = x
    if x >= 0:
        opposite[x] = c3 + 1
    opposite[c3] = -1
    first[new_vertex] = r
    first[a] = n
    first[b] = c3 + 2
    first[p] = c


@part_of_kernels
def flip_edge(c, vertex, opposite, first):  # type: ignore[no-untyped-def]
    """Turn an inner edge to join the two corners that face it."""
    n = next_corner(c)
    r = previous_corner(c)
    o = opposite[c]
    on = next_corner(o)
    back = previous_corner(o)
    p = vertex[c]
    a = vertex[n]
    b = vertex[r]
    q = vertex[o]
    x = opposite[n]
    z = opposite[on]
    vertex[r] = q
    vertex[back] = p
    opposite[c] = z
    if z >= 0:
        opposite[z] = c
    opposite[o] = x
    if x >= 0:
        opposite[x] = o
    opposite[n] = on
    opposite[on] = n
    first[a] = n
    first[b] = on
    first[p] = c
    first[q] = o


@part_of_kernels
def can_collapse(c, vertex, opposite, first, ring, other):  # type: ignore[no-untyped-def]
    """Whether an inner edge can become one vertex and the surface stay a manifold: both ends inside, two common neighbours.

    `ring` and `other` are scratch. Link condition after Dey, Edelsbrunner, Guha and Nekhayev (1999).
    """
    n = next_corner(c)
    r = previous_corner(c)
    o = opposite[c]
    on = next_corner(o)
    back = previous_corner(o)
    if opposite[n] < 0 or opposite[r] < 0 or opposite[on] < 0 or opposite[back] < 0:
        return 0
    count_a = ring_of(n, opposite, ring)
    count_b = ring_of(r, opposite, other)
    if count_a < 0 or count_b < 0 or count_a + count_b - 4 < 3:
        return 0
    common = 0
    for i in range(count_a):
        u = vertex[next_corner(ring[i])]
        for j in range(count_b):
            if vertex[next_corner(other[j])] == u:
                common += 1
    if common != 2:
        return 0
    # a facing vertex of valence 3 would be left with two triangles back to back
    for side in range(2):
        around = ring_of(c if side == 0 else o, opposite, ring)
        if 0 <= around <= 3:
            return 0
    return 1


@part_of_kernels
def collapse_edge(c, vertex, opposite, first, other):  # type: ignore[no-untyped-def]
    """Make the edge one vertex, a; b and both triangles are gone (-1). `other` is scratch; see `can_collapse`."""
    n = next_corner(c)
    r = previous_corner(c)
    o = opposite[c]
    on = next_corner(o)
    back = previous_corner(o)
    p = vertex[c]
    a = vertex[n]
    b = vertex[r]
    q = vertex[o]
    x = opposite[n]
    y = opposite[r]
    z = opposite[on]
    w = opposite[back]
    count = ring_of(r, opposite, other)
    for i in range(count):
        vertex[other[i]] = a
    opposite[x] = y
    opposite[y] = x
    opposite[z] = w
    opposite[w] = z
    for side in range(2):
        base = 3 * (c // 3) if side == 0 else 3 * (o // 3)
        for corner in range(base, base + 3):
            vertex[corner] = -1
            opposite[corner] = -1
    first[p] = next_corner(x)
    first[a] = next_corner(y)
    first[q] = next_corner(z)
    first[b] = -1


@part_of_kernels
def joined(u, v, vertex, opposite, first, ring):  # type: ignore[no-untyped-def]
    """Whether an edge joins two vertices; True when that cannot be told because one lies on a border."""
    count = ring_of(first[u], opposite, ring)
    if count < 0:
        return True
    for i in range(count):  # noqa: SIM110 - kernels have no generators
        if vertex[next_corner(ring[i])] == v:
            return True
    return False


@part_of_kernels
def facing(position, i, j, k, out):  # type: ignore[no-untyped-def]
    """Area vector of a triangle, twice its area long."""
    ux = position[j, 0] - position[i, 0]
    uy = position[j, 1] - position[i, 1]
    uz = position[j, 2] - position[i, 2]
    vx = position[k, 0] - position[i, 0]
    vy = position[k, 1] - position[i, 1]
    vz = position[k, 2] - position[i, 2]
    out[0] = uy * vz - uz * vy
    out[1] = uz * vx - ux * vz
    out[2] = ux * vy - uy * vx


@part_of_kernels
def squared(position, i, j):  # type: ignore[no-untyped-def]
    """Squared distance of two vertices."""
    x = position[i, 0] - position[j, 0]
    y = position[i, 1] - position[j, 1]
    z = position[i, 2] - position[j, 2]
    return x * x + y * y + z * z
