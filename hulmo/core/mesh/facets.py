"""Normals where some faces are drawn flat: those faces have their own, and leave the vertices to the others."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.chosen_parts import FLAT
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Rows = NDArray[np.int32]
Points = NDArray[np.float32]


@kernel("void(float32[:,::1], int32[::1], int32[::1], int32[::1], boolean[::1], int32[::1], float32[:,::1])")
def _smooth_only(
    position: Points, vertex: Rows, opposite: Rows, first: Rows, flat: NDArray[np.bool_], rows: Rows, normal: Points
) -> None:
    for row in rows:
        if first[row] < 0:
            continue
        x = 0.0
        y = 0.0
        z = 0.0
        some = False
        for way in range(2):
            corner = np.int64(first[row])
            while True:
                a = vertex[next_corner(corner)]
                b = vertex[previous_corner(corner)]
                if flat[corner // 3]:
                    some = True
                elif way == 0 or corner != first[row]:
                    ax = np.float64(position[a, 0]) - position[row, 0]
                    ay = np.float64(position[a, 1]) - position[row, 1]
                    az = np.float64(position[a, 2]) - position[row, 2]
                    bx = np.float64(position[b, 0]) - position[row, 0]
                    by = np.float64(position[b, 1]) - position[row, 1]
                    bz = np.float64(position[b, 2]) - position[row, 2]
                    x += ay * bz - az * by
                    y += az * bx - ax * bz
                    z += ax * by - ay * bx
                across = opposite[next_corner(corner)] if way == 0 else opposite[previous_corner(corner)]
                if across < 0:
                    break
                corner = next_corner(np.int64(across)) if way == 0 else previous_corner(np.int64(across))
                if corner == first[row]:
                    break
            if corner == first[row] and opposite[next_corner(corner)] >= 0 and opposite[previous_corner(corner)] >= 0:
                break  # all round: no border to come from the other side to
        size = np.sqrt(x * x + y * y + z * z)
        if some and size > 0.0:
            normal[row, 0] = x / size
            normal[row, 1] = y / size
            normal[row, 2] = z / size


def flat_faces(corners: CornerTable) -> NDArray[np.bool_] | None:
    """(M,) which faces are drawn flat; None where none is."""
    values = corners.slots.get(FLAT)
    return None if values is None else np.ascontiguousarray(values[:, 0, 0] >= 0.5)


def leave_out_flat(position: Points, corners: CornerTable, rows: Rows, normal: Points) -> None:
    """Have the normals of some rows be those of the smooth faces around them alone; where all are flat they stay."""
    flat = flat_faces(corners)
    if flat is not None:
        _smooth_only(
            position, corners.vertex, corners.opposite, corners.first_corner, flat, np.asarray(rows, np.int32), normal
        )


def corner_normals(position: Points, normal: Points, corners: CornerTable) -> Points | None:
    """(M, 3, 3) normal at each corner: the face's own where it is flat; None where no face is."""
    flat = flat_faces(corners)
    if flat is None or not flat.any():
        return None
    out = normal[corners.triangles].astype(np.float32)
    a, b, c = (position[corners.triangles[flat][:, k]].astype(np.float64) for k in range(3))
    own = np.cross(b - a, c - a)
    out[flat] = (own / np.maximum(np.linalg.norm(own, axis=1), 1e-300)[:, None])[:, None]
    return out
