"""Vertex normals, of the whole table or of touched rows only."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


@written_into_kernels
def _base(corner):  # type: ignore[no-untyped-def]
    # first corner of the triangle; one unsigned division a step instead of a signed remainder for every look around
    return np.int64(np.uint32(corner) // np.uint32(3) * np.uint32(3))


@written_into_kernels
def _after(k):  # type: ignore[no-untyped-def]
    return k + 1 if k < 2 else 0


@written_into_kernels
def _before(k):  # type: ignore[no-untyped-def]
    return k - 1 if k > 0 else 2


@kernel("void(float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[:,::1])")
def _normals(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, rows: Corners, normal: Points
) -> None:
    for i in range(rows.size):
        row = rows[i]
        start = first[row]
        if start < 0:
            continue
        px = np.float64(position[row, 0])
        py = np.float64(position[row, 1])
        pz = np.float64(position[row, 2])
        x = 0.0
        y = 0.0
        z = 0.0
        # every spoke is shared by two triangles of the fan, so each step loads only the next one
        base = _base(start)
        k = start - base
        other = vertex[base + _after(k)]
        ax = position[other, 0] - px
        ay = position[other, 1] - py
        az = position[other, 2] - pz
        sx = ax
        sy = ay
        sz = az
        border = False
        while True:
            other = vertex[base + _before(k)]
            bx = position[other, 0] - px
            by = position[other, 1] - py
            bz = position[other, 2] - pz
            x += ay * bz - az * by
            y += az * bx - ax * bz
            z += ax * by - ay * bx
            across = opposite[base + _after(k)]
            if across < 0:
                border = True
                break
            base = _base(across)
            k = _after(across - base)
            if base + k == start:
                break
            ax = bx
            ay = by
            az = bz
        if border:
            # the other half of the fan, backward from the first spoke
            base = _base(start)
            across = opposite[base + _before(start - base)]
            while across >= 0:
                base = _base(across)
                k = _before(across - base)
                other = vertex[base + _after(k)]
                ax = position[other, 0] - px
                ay = position[other, 1] - py
                az = position[other, 2] - pz
                x += ay * sz - az * sy
                y += az * sx - ax * sz
                z += ax * sy - ay * sx
                sx = ax
                sy = ay
                sz = az
                across = opposite[base + _before(k)]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 0.0:
            normal[row, 0] = x / length
            normal[row, 1] = y / length
            normal[row, 2] = z / length
        else:
            normal[row, 0] = 0.0
            normal[row, 1] = 1.0
            normal[row, 2] = 0.0


@kernel("void(float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float64[:,::1])")
def _areas(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, rows: Corners, area: NDArray[np.float64]
) -> None:
    for i in range(rows.size):
        start = np.int64(first[rows[i]])
        if start < 0:
            continue
        for way in range(2):
            corner = start
            while True:
                base = _base(corner)
                k = corner - base
                if way == 0 or corner != start:
                    a, b = vertex[base + _after(k)], vertex[base + _before(k)]
                    ax = np.float64(position[a, 0]) - position[rows[i], 0]
                    ay = np.float64(position[a, 1]) - position[rows[i], 1]
                    az = np.float64(position[a, 2]) - position[rows[i], 2]
                    bx = np.float64(position[b, 0]) - position[rows[i], 0]
                    by = np.float64(position[b, 1]) - position[rows[i], 1]
                    bz = np.float64(position[b, 2]) - position[rows[i], 2]
                    area[i, 0] += ay * bz - az * by
                    area[i, 1] += az * bx - ax * bz
                    area[i, 2] += ax * by - ay * bx
                across = np.int64(opposite[base + _after(k)] if way == 0 else opposite[base + _before(k)])
                if across < 0:
                    break
                base = _base(across)
                corner = base + (_after(across - base) if way == 0 else _before(across - base))
                if corner == start:
                    break
            if corner == start and opposite[_base(start) + _after(start - _base(start))] >= 0:
                break  # all round


def area_vectors(
    position: Points, vertex: Corners, opposite: Corners, first_corner: Corners, rows: Corners
) -> NDArray[np.float64]:
    """(K, 3) sums of the area vectors of the triangles around some rows, square metres, twice over; see `update_normals`."""
    out = np.zeros((rows.size, 3))
    _areas(position, vertex, opposite, first_corner, rows, out)
    return out


def update_normals(
    position: Points, vertex: Corners, opposite: Corners, first_corner: Corners, rows: Corners, normal: Points
) -> None:
    """Write unit normals of some rows: the sum of the area vectors of the triangles around each vertex.

    The same routine serves whole tables and touched rows, so a normal does not depend on how it came about.

    Parameters
    ----------
    position, normal : (N, 3) float32
        Normals of `rows` are written; a vertex whose triangles have no area gets +Y.
    vertex, opposite : (3 M,) int32
        Corner table.
    first_corner : (N,) int32
    rows : (K,) int32

    Notes
    -----
    Area weighting after Gouraud (1971) in the form common to mesh libraries: half the cross product of two edges is the
    area vector of a triangle.
    """
    _normals(position, vertex, opposite, first_corner, rows, normal)
