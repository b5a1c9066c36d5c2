"""Building opposite corners from a triangle list in one pass."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.kernel import kernel
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]

NO_ROWS = np.empty(0, np.bool_)


@kernel("int64(int32[::1], int32[::1], int32[::1])")
def _pair(vertex: Corners, head: Corners, opposite: Corners) -> int:
    # Half-edges still without a partner hang in a chain at their smaller vertex; `opposite` holds the chain links as
    # -2 - next until a partner is found, so no memory beyond the result is needed.
    for corner in range(vertex.size):
        opposite[corner] = -1
    for corner in range(vertex.size):
        tail = vertex[next_corner(corner)]
        tip = vertex[previous_corner(corner)]
        low = min(tail, tip)
        before = -1
        other = head[low]
        while other >= 0:
            if vertex[next_corner(other)] == tip and vertex[previous_corner(other)] == tail:
                break
            if vertex[next_corner(other)] == tail and vertex[previous_corner(other)] == tip:
                return corner  # the same directed edge twice
            before = other
            other = -2 - opposite[other]
        if other >= 0:
            after = opposite[other]
            if before >= 0:
                opposite[before] = after
            else:
                head[low] = -2 - after
            opposite[other] = corner
            opposite[corner] = other
            continue
        opposite[corner] = -2 - head[low]
        head[low] = corner
    for low in range(head.size):
        other = head[low]
        while other >= 0:
            after = -2 - opposite[other]
            opposite[other] = -1
            other = after
    return -1


@kernel("void(int32[::1], int32[::1], int32[::1])")
def _first(vertex: Corners, opposite: Corners, first: Corners) -> None:
    for i in range(first.size):
        first[i] = -1
    for corner in range(vertex.size):
        at = vertex[corner]
        if first[at] < 0 or opposite[previous_corner(corner)] < 0:
            first[at] = corner  # a border fan starts at its border, so that one direction covers it


@kernel("int64(int32[::1], int32[::1], int32[::1], boolean[::1], int32[::1])")
def _loose(vertex: Corners, opposite: Corners, first: Corners, rows: NDArray[np.bool_], near: Corners) -> int:
    # corners that no walk around a vertex comes by, or that one comes by twice; only at some vertices if any are named;
    # `near` is -1 for every vertex
    every = rows.size == 0
    corners_seen = 0
    if every:
        corners_seen -= vertex.size
    else:
        for corner in range(vertex.size):
            corners_seen -= rows[vertex[corner]]
    twice = 0
    for at in range(first.size):
        start = first[at]
        if start < 0 or not (every or rows[at]):
            continue
        corner = start
        while True:
            corners_seen += 1
            # an edge of four triangles can pair up two by two; then a fan comes by the same neighbour twice
            beside = vertex[next_corner(corner)]
            twice += near[beside] == at
            near[beside] = at
            across = opposite[next_corner(corner)]
            if across < 0:
                beside = vertex[previous_corner(corner)]
                twice += near[beside] == at
                break
            corner = next_corner(across)
            if corner == start:
                break
    return twice - corners_seen


def build_opposites(vertex: Corners, vertex_count: int) -> tuple[Corners, Corners]:
    """Opposite corner of every corner and a first corner of every vertex, in time linear in the triangles.

    Parameters
    ----------
    vertex : (3 M,) int32
        Vertex at each corner, three corners a triangle, counter-clockwise seen from outside.
    vertex_count : int
        Rows of the vertex table.

    Returns
    -------
    opposite : (3 M,) int32
        -1 where the edge is a border.
    first_corner : (vertex_count,) int32
        -1 at a vertex without triangles.

    Raises
    ------
    InvalidInput
        An edge of more than two triangles, triangles of clashing winding, a corner that names no vertex, or two fans
        of triangles that meet in one vertex only.
    """
    if vertex.size and (int(vertex.min()) < 0 or int(vertex.max()) >= vertex_count):
        raise InvalidInput(f"a triangle names a vertex outside 0 to {vertex_count - 1}; the mesh cannot be used")
    opposite = np.empty(vertex.size, np.int32)
    head = np.full(vertex_count, -1, np.int32)
    bad = _pair(vertex, head, opposite)
    if bad >= 0:
        raise InvalidInput(
            f"triangle {bad // 3}: one of its edges is used twice in the same direction, so the surface is not a "
            "manifold of one winding; clean the mesh first"
        )
    first = first_corners(vertex, opposite, vertex_count)
    check_fans(vertex, opposite, first)
    return opposite, first


def first_corners(vertex: Corners, opposite: Corners, vertex_count: int) -> Corners:
    """(vertex_count,) a first corner of every vertex, where opposite corners are known; see `build_opposites`."""
    first = np.empty(vertex_count, np.int32)
    _first(vertex, opposite, first)
    return first


def check_fans(vertex: Corners, opposite: Corners, first: Corners, rows: NDArray[np.bool_] = NO_ROWS) -> None:
    """Walk around every vertex, or some of them: `rows` (N,) says which.

    Raises
    ------
    InvalidInput
        Two fans of triangles meet in one vertex only, or share an edge.
    """
    loose = _loose(vertex, opposite, first, rows, np.full(first.size, -1, np.int32))
    if loose:
        raise InvalidInput(
            f"{loose} triangle corners belong to fans that touch in a single vertex or share an edge with two other "
            "triangles; split those places first"
        )
