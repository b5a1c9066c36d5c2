"""Vertex normals, of the whole table or of touched rows only."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


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
        other = vertex[next_corner(start)]
        ax = position[other, 0] - px
        ay = position[other, 1] - py
        az = position[other, 2] - pz
        sx = ax
        sy = ay
        sz = az
        corner = start
        while True:
            other = vertex[previous_corner(corner)]
            bx = position[other, 0] - px
            by = position[other, 1] - py
            bz = position[other, 2] - pz
            x += ay * bz - az * by
            y += az * bx - ax * bz
            z += ax * by - ay * bx
            across = opposite[next_corner(corner)]
            if across < 0:
                corner = -1
                break
            corner = next_corner(across)
            if corner == start:
                break
            ax = bx
            ay = by
            az = bz
        if corner < 0:
            # a border was met: the other half of the fan, backward from the first spoke
            across = opposite[previous_corner(start)]
            while across >= 0:
                corner = previous_corner(across)
                other = vertex[next_corner(corner)]
                ax = position[other, 0] - px
                ay = position[other, 1] - py
                az = position[other, 2] - pz
                x += ay * sz - az * sy
                y += az * sx - ax * sz
                z += ax * sy - ay * sx
                sx = ax
                sy = ay
                sz = az
                across = opposite[previous_corner(corner)]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 0.0:
            normal[row, 0] = x / length
            normal[row, 1] = y / length
            normal[row, 2] = z / length
        else:
            normal[row, 0] = 0.0
            normal[row, 1] = 1.0
            normal[row, 2] = 0.0


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
