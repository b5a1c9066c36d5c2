"""Before and after the work on a piece: what is kept in it, what is off in it, and the log on other columns."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import squared
from hulmo.core.topology.local.common import BORDER, GUARDED, SEAM, TOUCHED, blend_row, near, seam, touches

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Flags = NDArray[np.uint8]


@kernel(
    "void(int32[::1], int32[::1], float32[:,:,::1], float32[:,:,::1], float32[:,:,::1], float32[:,::1], uint8[::1], "
    "uint8[::1], int32[::1], int64, int64, int64)"
)
def set_up(
    vertex: Corners, opposite: Corners, face: Points, of_corner: Points, edge: Points, guard: Points, hold: Flags,
    mark: Flags, work: Corners, count: int, holding_faces: int, holding_edges: int,
) -> None:  # fmt: skip
    """Mark the piece, and find what is to be kept in it. `guard` has no rows where nothing is guarded."""
    for i in range(count):
        mark[work[i]] = 1
        for corner in range(3 * work[i], 3 * work[i] + 3):
            hold[vertex[corner]] = 0
    for i in range(count):
        for corner in range(3 * work[i], 3 * work[i] + 3):
            row = vertex[corner]
            if guard.shape[0] > 0 and guard[row, 0] > 0.0:
                hold[row] |= GUARDED
            bit = 0
            if opposite[corner] < 0:
                bit = BORDER
            elif seam(corner, opposite, face, of_corner, edge, holding_faces, holding_edges):
                bit = SEAM
            if bit:
                hold[vertex[next_corner(corner)]] |= bit
                hold[vertex[previous_corner(corner)]] |= bit


@kernel("int64(float32[:,::1], int32[::1], int32[::1], int32[::1], int64, float64, float64, float64[::1], float64)")
def count_off(
    position: Points, vertex: Corners, opposite: Corners, work: Corners, count: int, long: float, short: float,
    centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """How many edges near a place are longer or shorter than wanted; `reach` is the square of the radius."""
    found = 0
    for i in range(count):
        for corner in range(3 * work[i], 3 * work[i] + 3):
            a = vertex[next_corner(corner)]
            b = vertex[previous_corner(corner)]
            size = squared(position, a, b)
            if size > long * long:
                found += touches(position, a, b, centre, reach)
            elif size < short * short:
                found += near(position, a, b, centre, reach)
    return found


@kernel("void(int32[::1], uint8[::1], int32[::1], int64)")
def touch(vertex: Corners, hold: Flags, work: Corners, count: int) -> None:
    """Have all vertices of the piece count as next to a change."""
    for i in range(count):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0:
                hold[vertex[corner]] |= TOUCHED


@kernel("void(float32[:,::1], int32[:,::1], float32[:,::1], int64)")
def replay(column: Points, log: Corners, share: Points, count: int) -> None:
    """Do to a column what the log says was done to positions."""
    for i in range(count):
        blend_row(column, log[i, 0], log[i, 1], log[i, 2], log[i, 3], share[i, 0], share[i, 1], share[i, 2])


@kernel("void(uint8[::1], int32[::1], int64)")
def clear(mark: Flags, work: Corners, count: int) -> None:
    """Take the marks away again."""
    for i in range(count):
        mark[work[i]] = 0
