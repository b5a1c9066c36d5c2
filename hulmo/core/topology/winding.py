"""How often a closed surface winds around each point of a grid."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels

TINY = 1e-300

Corners = NDArray[np.int32]
Places = NDArray[np.float64]


@part_of_kernels
def _side(position, i, j, x, z):  # type: ignore[no-untyped-def]
    # on which side of an edge a column of the grid stands, never 0; asked from the lower vertex, so that both triangles of
    # an edge get exactly opposite answers and a column through the edge counts for one of them
    if i > j:
        return -_side_up(position, j, i, x, z)
    return _side_up(position, i, j, x, z)


@part_of_kernels
def _side_up(position, i, j, x, z):  # type: ignore[no-untyped-def]
    ax = position[i, 0]
    az = position[i, 2]
    side = (position[j, 0] - ax) * (z - az) - (position[j, 2] - az) * (x - ax)
    return side if side != 0.0 else TINY


@kernel("void(float64[:,::1], int32[:,::1], float64[::1], float64, int16[:,:,::1])")
def _cross(position: Places, triangles: Corners, low: NDArray[np.float64], cell: float, out: NDArray[np.int16]) -> None:
    # marks at each column of the grid where the surface is crossed, one step above the crossing: +1 into, -1 out of it
    nx, nz, ny = out.shape
    for t in range(triangles.shape[0]):
        a = triangles[t, 0]
        b = triangles[t, 1]
        c = triangles[t, 2]
        x0 = min(position[a, 0], min(position[b, 0], position[c, 0]))
        x1 = max(position[a, 0], max(position[b, 0], position[c, 0]))
        z0 = min(position[a, 2], min(position[b, 2], position[c, 2]))
        z1 = max(position[a, 2], max(position[b, 2], position[c, 2]))
        i0 = max(int(np.ceil((x0 - low[0]) / cell)), 0)
        i1 = min(int(np.floor((x1 - low[0]) / cell)), nx - 1)
        k0 = max(int(np.ceil((z0 - low[2]) / cell)), 0)
        k1 = min(int(np.floor((z1 - low[2]) / cell)), nz - 1)
        for i in range(i0, i1 + 1):
            x = low[0] + i * cell
            for k in range(k0, k1 + 1):
                z = low[2] + k * cell
                wa = _side(position, b, c, x, z)
                wb = _side(position, c, a, x, z)
                wc = _side(position, a, b, x, z)
                if wa > 0.0 and wb > 0.0 and wc > 0.0:
                    step = 1  # its normal points down
                elif wa < 0.0 and wb < 0.0 and wc < 0.0:
                    step = -1
                else:
                    continue
                total = wa + wb + wc
                y = (wa * position[a, 1] + wb * position[b, 1] + wc * position[c, 1]) / total
                j = int(np.floor((y - low[1]) / cell)) + 1
                if j < ny:
                    out[i, k, max(j, 0)] += step


def winding_grid(
    position: Places, triangles: Corners, low: Places, cell: float, shape: tuple[int, int, int]
) -> NDArray[np.int16]:
    """Winding numbers of a closed, oriented surface around the points of a grid.

    Parameters
    ----------
    position : (N, 3) float64
        Metres.
    triangles : (M, 3) int32
    low : (3,) float64
        First point of the grid. It should not be aligned with vertices: a column through one may be counted wrong.
    cell : float
        Metres between points.
    shape : tuple of int
        Points along x, z and y, in that order.

    Returns
    -------
    (nx, nz, ny) int16
        0 outside, 1 inside, more where parts overlap, less than 0 inside of what is turned inside out.

    Notes
    -----
    Signed crossings of a ray, after Sunday, "Inclusion of a point in a polygon" (2001), with the ray along y and summed up
    column by column.
    """
    out = np.zeros(shape, np.int16)
    _cross(position, triangles, low, cell, out)
    # a column is crossed from below: leaving through a surface that faces up, entering through one that faces down
    return np.cumsum(out, axis=2, dtype=np.int16, out=out)
