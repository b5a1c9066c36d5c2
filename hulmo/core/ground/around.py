"""What lies around a vertex: the mean weights of its neighbours."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Weights = NDArray[np.float32]


@written_into_kernels
def _add(out, i, weight, row):  # type: ignore[no-untyped-def]
    for ground in range(weight.shape[1]):
        out[i, ground] += weight[row, ground]


@kernel("void(float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[:,::1])")
def _around(weight: Weights, vertex: Corners, opposite: Corners, first: Corners, rows: Corners, out: Weights) -> None:
    for i in range(rows.size):
        for ground in range(weight.shape[1]):
            out[i, ground] = 0.0
        start = first[rows[i]]
        if start < 0:
            _add(out, i, weight, rows[i])
            continue
        count = 0
        border = False
        corner = start
        while True:
            _add(out, i, weight, vertex[next_corner(corner)])
            count += 1
            across = opposite[next_corner(corner)]
            if across < 0:
                _add(out, i, weight, vertex[previous_corner(corner)])
                count += 1
                border = True
                break
            corner = next_corner(across)
            if corner == start:
                break
        corner = start
        while border and opposite[previous_corner(corner)] >= 0:
            corner = previous_corner(opposite[previous_corner(corner)])
            _add(out, i, weight, vertex[next_corner(corner)])
            count += 1
        for ground in range(weight.shape[1]):
            out[i, ground] /= count


def around(weight: Weights, corners: CornerTable, rows: Corners) -> Weights:
    """(K, G) mean weights of the one-rings of some rows; a row without triangles gets its own.

    Parameters
    ----------
    weight : (N, G) float32
    corners : CornerTable
    rows : (K,) int32
    """
    out = np.empty((rows.size, weight.shape[1]), np.float32)
    _around(weight, corners.vertex, corners.opposite, corners.first_corner, rows, out)
    return out
