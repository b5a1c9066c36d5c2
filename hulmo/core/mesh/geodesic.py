"""Distance over a surface from some of its vertices."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Values = NDArray[np.float32]


@part_of_kernels
def _through(position, a, b, c, ta, tb):  # type: ignore[no-untyped-def]
    # distance at c by a way that crosses the edge from a to b, or goes along an edge
    abx = np.float64(position[b, 0]) - position[a, 0]
    aby = np.float64(position[b, 1]) - position[a, 1]
    abz = np.float64(position[b, 2]) - position[a, 2]
    acx = np.float64(position[c, 0]) - position[a, 0]
    acy = np.float64(position[c, 1]) - position[a, 1]
    acz = np.float64(position[c, 2]) - position[a, 2]
    width = np.sqrt(abx * abx + aby * aby + abz * abz)
    far = np.sqrt(acx * acx + acy * acy + acz * acz)
    bcx = acx - abx
    bcy = acy - aby
    bcz = acz - abz
    best = min(ta + far, tb + np.sqrt(bcx * bcx + bcy * bcy + bcz * bcz))
    if width <= 0.0:
        return best
    tx = (acx * abx + acy * aby + acz * abz) / width
    ty = np.sqrt(max(far * far - tx * tx, 0.0))
    # where a point source would lie in the plane of the triangle, below the edge
    sx = (ta * ta - tb * tb + width * width) / (2.0 * width)
    below = ta * ta - sx * sx
    if below > 0.0:
        sy = np.sqrt(below)
        cross = sx + (tx - sx) * sy / (sy + ty) if sy + ty > 0.0 else sx
        if 0.0 <= cross <= width:
            return min(best, np.sqrt((tx - sx) ** 2 + (ty + sy) ** 2))
        return best
    # no such point: a straight front
    slope = (tb - ta) / width
    if abs(slope) < 1.0:
        lift = np.sqrt(1.0 - slope * slope)
        cross = tx - ty * slope / lift
        if 0.0 <= cross <= width:
            return min(best, ta + slope * tx + lift * ty)
    return best


@part_of_kernels
def push(heap, place, time, size, row):  # type: ignore[no-untyped-def]
    """Put a row where it belongs in a heap by `time`, or move it up; the heap's size. `place`: -1 where it never was,
    -2 where it has left. For kernels."""
    at = place[row]
    if at < 0:
        at = size
        size += 1
    while at > 0:
        up = (at - 1) // 2
        if time[heap[up]] <= time[row]:
            break
        heap[at] = heap[up]
        place[heap[at]] = at
        at = up
    heap[at] = row
    place[row] = at
    return size


@part_of_kernels
def pop(heap, place, time, size):  # type: ignore[no-untyped-def]
    """The row of the least `time` out of a heap, and the size that is left. For kernels."""
    top = heap[0]
    place[top] = -2
    size -= 1
    if size > 0:
        row = heap[size]
        at = 0
        while True:
            child = 2 * at + 1
            if child >= size:
                break
            if child + 1 < size and time[heap[child + 1]] < time[heap[child]]:
                child += 1
            if time[heap[child]] >= time[row]:
                break
            heap[at] = heap[child]
            place[heap[at]] = at
            at = child
        heap[at] = row
        place[row] = at
    return top, size


@kernel(
    "void(float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float64[::1], float64, float64[::1], int32[::1], "
    "int32[::1])"
)
def _geodesic(
    position: Points,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    sources: Corners,
    begin: NDArray[np.float64],
    limit: float,
    time: NDArray[np.float64],
    heap: Corners,
    place: Corners,
) -> None:
    size = 0
    for i in range(sources.size):
        if begin[i] < time[sources[i]]:
            time[sources[i]] = begin[i]
            size = push(heap, place, time, size, sources[i])
    while size > 0:
        row, size = pop(heap, place, time, size)
        if time[row] > limit:
            break
        start = first[row]
        if start < 0:
            continue
        corner = start
        backward = False
        while True:
            p = vertex[next_corner(corner)]
            q = vertex[previous_corner(corner)]
            for side in range(2):
                to = p if side == 0 else q
                other = q if side == 0 else p
                if place[to] != -2:
                    # beyond the edge that faces this vertex as well: fronts run on over obtuse triangles
                    new = _through(position, row, other, to, time[row], time[other])
                    if new < time[to]:
                        time[to] = new
                        size = push(heap, place, time, size, to)
            across = opposite[corner]
            if across >= 0:
                to = vertex[across]
                for side in range(2):
                    other = p if side == 0 else q
                    if place[to] != -2 and time[other] < np.inf:
                        third = q if side == 0 else p
                        new = time[other]
                        gx = np.float64(position[to, 0]) - position[other, 0]
                        gy = np.float64(position[to, 1]) - position[other, 1]
                        gz = np.float64(position[to, 2]) - position[other, 2]
                        new += np.sqrt(gx * gx + gy * gy + gz * gz)
                        if time[third] < np.inf:
                            new = min(new, _through(position, other, third, to, time[other], time[third]))
                        if new < time[to]:
                            time[to] = new
                            size = push(heap, place, time, size, to)
            if not backward:
                beyond = opposite[next_corner(corner)]
                if beyond >= 0:
                    corner = next_corner(beyond)
                    if corner == start:
                        break
                    continue
                backward = True
                corner = start
            beyond = opposite[previous_corner(corner)]
            if beyond < 0:
                break
            corner = previous_corner(beyond)


def geodesic(
    position: Points,
    corners: CornerTable,
    sources: Corners,
    limit: float = np.inf,
    begin: NDArray[np.float64] | None = None,
) -> Values:
    """Distance of every vertex over the surface from the nearest of some others.

    Parameters
    ----------
    position : (N, 3) float32
        Metres.
    corners : CornerTable
    sources : (K,) int32
    limit : float
        Metres; what lies further away is left infinite, and costs nothing.
    begin : (K,) float64, optional
        Distance that each source begins with, metres; 0 when left out.

    Returns
    -------
    (N,) float32
        Metres; infinite beyond the limit and on parts without a source.

    Notes
    -----
    The fast marching order (Kimmel and Sethian, 1998) with circular fronts (Novotni and Klein, 2002): from two vertices of a
    triangle the place of a point source in its plane is found, so that distances on a plane are exact where the triangles
    are not obtuse.
    """
    count = position.shape[0]
    time = np.full(count, np.inf)
    heap, place = np.empty(count, np.int32), np.full(count, -1, np.int32)
    starts = np.zeros(sources.size) if begin is None else np.asarray(begin, np.float64)
    _geodesic(
        position, corners.vertex, corners.opposite, corners.first_corner, sources, starts, limit, time, heap, place
    )  # fmt: skip
    time[time > limit] = np.inf
    return time.astype(np.float32)
