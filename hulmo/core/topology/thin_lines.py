"""Lines of edges with fewer vertices, the mesh on both sides of them going along."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.mesh.polyline import needed
from hulmo.core.mesh.seams import on_seams, seams
from hulmo.core.mesh.tree_query import apart_from
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.fan import around_at, faces_alike, facing, fan_at, holds, smallest_angle
from hulmo.core.topology.improve import improved
from hulmo.core.topology.join_vertices import joined

Mask = NDArray[np.bool_]
Rows = NDArray[np.int32]
Links = NDArray[np.int64]
Places = NDArray[np.float64]

LINE = "thinned line"
"""Edge column that marks the lines meanwhile."""

FAIR, LEAST = 12.0, 4.0
"""Degrees of the smallest angle under which triangles at a line are made better in the end, and of what a vertex that goes
must leave."""

BUSY = 1


def thin_lines(
    vertices: VertexTable, corners: CornerTable, edges: Mask, values: Places, tolerance: float
) -> tuple[VertexTable, CornerTable]:
    """Join vertices of lines with the next ones, so that what is left lies within a tolerance of what was there.

    Vertices at which a line ends, or several meet, or that lie on another seam stay, and so does one without which a
    triangle would turn over or become a sliver. Rows keep their numbers; some are not used any more.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    edges : (M, 3) bool
        Of the lines, by the corner across, the same from both sides; all of a border are among them, or none.
    values : (N, D) float64
        What is to stay within the tolerance: places in metres, and beside them whatever else, times what makes it as much.
    tolerance : float

    Returns
    -------
    tuple
        The same vertices, and the triangles over them.

    Notes
    -----
    Lines by Douglas and Peucker (1973); a vertex is joined as in edge collapse (Hoppe et al. 1993) under the link condition.
    """
    table = corners.copy()
    elsewhere, _ = on_seams(corners, vertices["position"], seams(corners) & ~edges)
    marked = np.zeros((corners.count, 3, 1), np.float32)
    marked[edges] = 1.0
    table.slots.set("edge", LINE, marked)
    position = np.ascontiguousarray(vertices["position"], np.float64)
    links = _links(table, edges, vertices.count)
    going = _going(links, values, tolerance) & ~elsewhere
    near = going.copy()
    while going.any():
        states = np.zeros(vertices.count, np.uint8)
        pairs = np.empty((int(going.sum()), 2), np.int64)
        room = np.empty((3, int(np.bincount(table.vertex).max()) + 3), np.int64)
        count = _pick(
            table.vertex, table.opposite, table.first_corner, position, links, np.flatnonzero(going), states, tolerance,
            room, pairs,
        )  # fmt: skip
        if not count:
            break
        pairs = pairs[:count]
        going[pairs[:, 0]] = False
        near[pairs[:, 1]] = True
        table = joined(table, pairs)
    table = improved(vertices, table, any_of(near, table.triangles), FAIR)
    table.slots.drop(LINE)
    return vertices, table


def _links(corners: CornerTable, edges: Mask, count: int) -> Links:
    # (N, 2) the vertices before and behind each on its line; -1 where it lies on none, ends one, or several meet
    slot, corner = np.nonzero(edges & (corners.opposite < np.arange(corners.opposite.size)).reshape(-1, 3))
    tail, tip = (corners.triangles[slot, (corner + step) % 3].astype(np.int64) for step in (1, 2))
    ends, others = np.concatenate((tail, tip)), np.concatenate((tip, tail))
    order = np.argsort(ends, kind="stable")
    ends, others = ends[order], others[order]
    first = np.searchsorted(ends, np.arange(count))
    both = np.bincount(ends, minlength=count) == 2
    out = np.full((count, 2), -1, np.int64)
    out[both, 0], out[both, 1] = others[first[both]], others[first[both] + 1]
    return out


def _going(links: Links, values: Places, tolerance: float) -> Mask:
    # (N,) vertices that are not needed
    out = np.zeros(links.shape[0], np.bool_)
    seen = links[:, 0] < 0
    for row in np.flatnonzero(~seen).tolist():
        if seen[row]:
            continue
        chain = _chain(links, row)
        seen[chain] = True
        for part in _open(chain, values):
            keep = needed(values[part], tolerance)
            out[np.array(part)[~keep]] = True
    out[links[:, 0] < 0] = False
    return out


def _chain(links: Links, row: int) -> list[int]:
    # a line through a vertex, from end to end; of a closed one the first vertex comes last again
    out = [row]
    for way in (0, 1):
        before, here = row, int(links[row, way])
        while True:
            out.append(here)
            if here == row:
                return out
            if links[here, 0] < 0:
                break
            before, here = here, int(links[here, 1] if links[here, 0] == before else links[here, 0])
        out.reverse()
    return out


def _open(chain: Sequence[int], values: Places) -> list[list[int]]:
    # a closed line is parted where it is farthest from its first vertex
    line = list(chain)
    if line[0] != line[-1]:
        return [line]
    far = int(np.linalg.norm(values[line] - values[line[0]], axis=1).argmax())
    return [line[: far + 1], line[far:]]


@part_of_kernels
def _left(vertex, opposite, first, position, gone, stays, off, room):  # type: ignore[no-untyped-def]
    # smallest angle that is left where one vertex is joined with another; 0 where it cannot be
    size = around_at(vertex, opposite, first, gone, room[0])
    others = around_at(vertex, opposite, first, stays, room[1])
    corners = fan_at(opposite, first, gone, room[2])
    shared, along = 0, 0
    for i in range(size):
        row = room[0, i]
        shared += row != gone and row != stays and holds(room[1], others, row)
    for i in range(corners):
        at = room[2, i]
        along += vertex[next_corner(at)] == stays or vertex[previous_corner(at)] == stays
    if along == 0 or shared != along:
        return 0.0
    smallest = 180.0
    for i in range(corners):
        at = room[2, i]
        a, b = vertex[next_corner(at)], vertex[previous_corner(at)]
        if a == stays or b == stays:
            continue
        if not faces_alike(facing(position, gone, a, b), facing(position, stays, a, b)):
            return 0.0
        smallest = min(smallest, smallest_angle(position, stays, a, b))
        # the middle of an edge that comes lies on what was there
        away = np.inf
        for j in range(corners):
            x, y, z = (
                0.5 * (position[stays, 0] + position[a, 0]),
                0.5 * (position[stays, 1] + position[a, 1]),
                0.5 * (position[stays, 2] + position[a, 2]),
            )
            away = min(away, apart_from(x, y, z, position, vertex, room[2, j] // 3))
        if away > off * off:
            return 0.0
    return smallest if corners > along else 0.0


@kernel(
    "int64(int32[::1], int32[::1], int32[::1], float64[:,::1], int64[:,::1], int64[::1], uint8[::1], float64, "
    "int64[:,::1], int64[:,::1])"
)
def _pick(
    vertex: Rows, opposite: Rows, first: Rows, position: Places, links: Links, going: Links, states: NDArray[np.uint8],
    off: float, room: Links, pairs: Links,
) -> int:  # fmt: skip
    # vertices that go now, each with the neighbour on its line that leaves the better triangles; none beside another one
    count = 0
    for gone in going:
        size = around_at(vertex, opposite, first, gone, room[0])
        busy = False
        for i in range(size):
            busy = busy or states[room[0, i]] & BUSY
        if busy:
            continue
        best, stays = LEAST, np.int64(-1)
        for way in range(2):
            least = _left(vertex, opposite, first, position, gone, links[gone, way], off, room)
            if least > best:
                best, stays = least, links[gone, way]
        if stays < 0:
            continue
        other = links[gone, 0] if links[gone, 1] == stays else links[gone, 1]
        for here, there in ((other, stays), (stays, other)):  # they are next to each other now
            for way in range(2):
                if links[here, way] == gone:
                    links[here, way] = there
        pairs[count, 0], pairs[count, 1] = gone, stays
        count += 1
        size = around_at(vertex, opposite, first, gone, room[0])
        for i in range(size):
            states[room[0, i]] |= BUSY
    return count
