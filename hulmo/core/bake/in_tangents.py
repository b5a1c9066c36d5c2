"""Normals told in the tangent space that they are mixed in."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.workers import by_pieces

Places = NDArray[np.float32]

PIECE = 1 << 16
"""Places that one thread does at a time."""


def in_tangents(
    normal: Places, told: Places, tangents: NDArray[np.float32], triangle: NDArray[np.int32], weight: Places
) -> Places:
    """(K, 3) unit normals by the three ways as they are mixed at each place, which need not be square to each other.

    Parameters
    ----------
    normal : (K, 3) float32
        Of the mesh, mixed and of length 1.
    told : (K, 3) float32
        What is to be told.
    tangents : (M, 3, 4) float32
        At every corner: the way along u, and the sign of the one along v; as MikkTSpace has them.
    triangle : (K,) int32
    weight : (K, 2) float32
        Shares of the second and third corner.

    Notes
    -----
    By Cramer's rule; straight up where the three ways lie in a plane.
    """
    out = np.empty(normal.shape, np.float32)
    given = [np.ascontiguousarray(part, np.float32) for part in (normal, told, tangents, weight)]
    slots = np.ascontiguousarray(triangle, np.int32)

    def some(part: slice) -> None:
        _in_tangents(given[0][part], given[1][part], given[2], slots[part], given[3][part], out[part])

    by_pieces(some, normal.shape[0], PIECE)
    return out


@kernel("void(float32[:,::1], float32[:,::1], float32[:,:,::1], int32[::1], float32[:,::1], float32[:,::1])")
def _in_tangents(
    normal: Places,
    told: Places,
    tangents: NDArray[np.float32],
    triangle: NDArray[np.int32],
    weight: Places,
    out: Places,
) -> None:
    along, across, local = np.empty(3), np.empty(3), np.empty(3)
    for i in range(normal.shape[0]):
        t = triangle[i]
        second, third = np.float64(weight[i, 0]), np.float64(weight[i, 1])
        for axis in range(3):
            along[axis] = (
                (1.0 - second - third) * tangents[t, 0, axis]
                + second * tangents[t, 1, axis]
                + third * tangents[t, 2, axis]
            )
        sign = np.float64(tangents[t, 0, 3])
        nx, ny, nz = np.float64(normal[i, 0]), np.float64(normal[i, 1]), np.float64(normal[i, 2])
        across[0] = sign * (ny * along[2] - nz * along[1])
        across[1] = sign * (nz * along[0] - nx * along[2])
        across[2] = sign * (nx * along[1] - ny * along[0])
        x, y, z = np.float64(told[i, 0]), np.float64(told[i, 1]), np.float64(told[i, 2])
        # cross products of two ways each, which the third is measured against
        ax, ay, az = across[1] * nz - across[2] * ny, across[2] * nx - across[0] * nz, across[0] * ny - across[1] * nx
        whole = along[0] * ax + along[1] * ay + along[2] * az
        if abs(whole) < 1e-9:
            out[i, 0], out[i, 1], out[i, 2] = 0.0, 0.0, 1.0
            continue
        local[0] = (x * ax + y * ay + z * az) / whole
        ax, ay, az = ny * along[2] - nz * along[1], nz * along[0] - nx * along[2], nx * along[1] - ny * along[0]
        local[1] = (x * ax + y * ay + z * az) / whole
        ax = along[1] * across[2] - along[2] * across[1]
        ay = along[2] * across[0] - along[0] * across[2]
        az = along[0] * across[1] - along[1] * across[0]
        local[2] = (x * ax + y * ay + z * az) / whole
        size = max(np.sqrt(local[0] ** 2 + local[1] ** 2 + local[2] ** 2), 1e-12)
        for axis in range(3):
            out[i, axis] = local[axis] / size
