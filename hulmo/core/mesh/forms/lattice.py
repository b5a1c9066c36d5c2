"""The surface of a box of cells, shared by the block and the box sphere."""

import numpy as np
from numpy.typing import NDArray


def box_surface(nx: int, ny: int, nz: int) -> tuple[NDArray[np.int64], NDArray[np.int32]]:
    """Lattice points on the surface of an nx by ny by nz box, and triangles over them.

    Returns
    -------
    lattice : (2 (nx ny + ny nz + nz nx) + 2, 3) int64
        Whole coordinates from 0 to nx, ny, nz, in ascending order.
    triangles : (4 (nx ny + ny nz + nz nx), 3) int32
        Counter-clockwise seen from outside.
    """
    size = np.array((nx, ny, nz))
    key_step = np.array(((ny + 1) * (nz + 1), nz + 1, 1))
    keys, faces = [], []
    offset = 0
    for axis in range(3):
        u_axis, v_axis = (axis + 1) % 3, (axis + 2) % 3
        nu, nv = int(size[u_axis]), int(size[v_axis])
        v, u = np.meshgrid(np.arange(nv + 1), np.arange(nu + 1), indexing="ij")
        corner = (np.arange(nv)[:, None] * (nu + 1) + np.arange(nu)).reshape(-1)
        right, up, far = corner + 1, corner + nu + 1, corner + nu + 2
        high = np.stack((np.stack((corner, right, far), -1), np.stack((corner, far, up), -1)), 1).reshape(-1, 3)
        for side in (0, size[axis]):
            keys.append((side * key_step[axis] + u * key_step[u_axis] + v * key_step[v_axis]).reshape(-1))
            faces.append((high if side else high[:, ::-1]) + offset)
            offset += (nu + 1) * (nv + 1)
    unique, inverse = np.unique(np.concatenate(keys), return_inverse=True)
    lattice = np.column_stack(np.unravel_index(unique, (nx + 1, ny + 1, nz + 1)))
    return lattice, inverse.reshape(-1).astype(np.int32)[np.concatenate(faces)]
