"""Drawing vertices toward the middle of their neighbours."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


@kernel(
    "void(float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[::1], float32[:,::1], boolean, "
    "float32[:,::1])"
)
def _smooth(
    position: Points,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    rows: Corners,
    amount: NDArray[np.float32],
    normal: Points,
    along: bool,
    out: Points,
) -> None:
    for i in range(rows.size):
        row = rows[i]
        x = 0.0
        y = 0.0
        z = 0.0
        count = 0
        start = first[row]
        corner = start
        border = start < 0
        while start >= 0:
            other = vertex[next_corner(corner)]
            x += position[other, 0]
            y += position[other, 1]
            z += position[other, 2]
            count += 1
            across = opposite[next_corner(corner)]
            if across < 0:
                border = True
                break
            corner = next_corner(across)
            if corner == start:
                break
        if border and start >= 0:
            # along the border only, so that an open edge is rounded but never drawn inward
            other = vertex[previous_corner(corner)]
            x = np.float64(position[other, 0])
            y = np.float64(position[other, 1])
            z = np.float64(position[other, 2])
            corner = start
            while opposite[previous_corner(corner)] >= 0:
                corner = previous_corner(opposite[previous_corner(corner)])
            other = vertex[next_corner(corner)]
            x += position[other, 0]
            y += position[other, 1]
            z += position[other, 2]
            count = 2
        share = min(np.float64(amount[i]), 1.0)
        if count == 0:
            share = 0.0
            count = 1
        x = x / count - position[row, 0]
        y = y / count - position[row, 1]
        z = z / count - position[row, 2]
        if along:
            if border:
                share = 0.0
            away = x * normal[row, 0] + y * normal[row, 1] + z * normal[row, 2]
            x -= away * normal[row, 0]
            y -= away * normal[row, 1]
            z -= away * normal[row, 2]
        out[i, 0] = position[row, 0] + share * x
        out[i, 1] = position[row, 1] + share * y
        out[i, 2] = position[row, 2] + share * z


def ring_means(
    position: Points,
    corners: CornerTable,
    rows: Corners,
    amount: NDArray[np.float32],
    normal: Points,
    along: bool,
) -> Points:
    """(K, 3) positions a share of the way from some rows to the mean of their one-rings; on borders, of border neighbours.

    Parameters
    ----------
    position, normal : (N, 3) float32
        Metres; unit normals.
    corners : CornerTable
    rows : (K,) int32
    amount : (K,) float32
        Share of the way, at most 1.
    along : bool
        Leave out the part of the way along the normal, and keep borders where they are.
    """
    out = np.empty((rows.size, 3), np.float32)
    _smooth(position, corners.vertex, corners.opposite, corners.first_corner, rows, amount, normal, along, out)
    return out
