"""Sliding vertices along the surface toward the middle of their neighbours."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.topology.edge_ops import MOST_RING, facing
from hulmo.core.topology.local.common import (
    ARRAYS,
    DONE,
    KEPT,
    TOUCHED,
    WORK,
    blend_row,
    edge,
    length,
    near,
    note,
    triple,
    whole_ring,
)

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Flags = NDArray[np.uint8]


@kernel("int64(" + ARRAYS + "float64, float64[::1], float64)")
def ease(
    position: Points, vertex: Corners, opposite: Corners, first: Corners, of_face: Points, of_corner: Points,
    of_edge: Points, hold: Flags, mark: Flags, work: Corners, free_rows: Corners, free_faces: Corners,
    state: NDArray[np.int64], log: Corners, share: Points, amount: float, centre: NDArray[np.float64], reach: float,
) -> int:  # fmt: skip
    """Slide vertices next to a change toward the middle of their neighbours, within the triangles around them.

    The new place is a blend of the three corners of the triangle it lies in, so form, layers and grounds slide with it.
    Vertices at creases (a triangle more than 45 degrees off) stay.
    """
    ring = np.empty(MOST_RING, np.int64)
    face = np.empty(3, np.float64)
    normal = np.empty(3, np.float64)
    way = np.empty(3, np.float64)
    ej = np.empty(3, np.float64)
    ek = np.empty(3, np.float64)
    corner_at = np.empty((3, 3), np.float64)
    done = 0
    for i in range(state[WORK]):
        base = 3 * np.int64(work[i])
        if vertex[base] < 0:
            continue
        for start in range(base, base + 3):
            v = vertex[start]
            if not hold[v] & TOUCHED or hold[v] & (KEPT | DONE):
                continue
            hold[v] |= DONE
            count = whole_ring(start, opposite, mark, ring)
            if count < 3 or not near(position, v, v, centre, reach):
                continue
            normal[:] = 0.0
            way[:] = 0.0
            for at in range(count):
                facing(position, v, vertex[next_corner(ring[at])], vertex[previous_corner(ring[at])], face)
                for axis in range(3):
                    normal[axis] += face[axis]
                    way[axis] += np.float64(position[vertex[next_corner(ring[at])], axis]) - position[v, axis]
            size = length(normal)
            if not size > 0.0:
                continue
            normal /= size
            way *= amount / count
            off = way[0] * normal[0] + way[1] * normal[1] + way[2] * normal[2]
            way -= off * normal
            smooth = True
            found = -1
            s = 0.0
            u = 0.0
            for at in range(count):
                j = vertex[next_corner(ring[at])]
                e = vertex[previous_corner(ring[at])]
                facing(position, v, j, e, face)
                along = face[0] * normal[0] + face[1] * normal[1] + face[2] * normal[2]
                if along < 0.7 * length(face):
                    smooth = False
                    break
                # shares of the two spokes, in the plane of the normal
                for axis in range(3):
                    ej[axis] = np.float64(position[j, axis]) - position[v, axis]
                    ek[axis] = np.float64(position[e, axis]) - position[v, axis]
                wide = triple(ej, ek, normal)
                if found >= 0 or not wide > 0.0:
                    continue
                s = triple(way, ek, normal) / wide
                u = triple(ej, way, normal) / wide
                if s >= 0.0 and u >= 0.0:
                    found = at
            if not smooth or found < 0:
                continue
            j = vertex[next_corner(ring[found])]
            e = vertex[previous_corner(ring[found])]
            s = max(triple(way, edge(position, v, e, ek), normal), 0.0)
            u = max(triple(edge(position, v, j, ej), way, normal), 0.0)
            wide = triple(ej, ek, normal)
            s /= wide
            u /= wide
            if s + u > 0.9:
                s, u = 0.9 * s / (s + u), 0.9 * u / (s + u)
            wj = np.float32(s)
            we = np.float32(u)
            wv = np.float32(1.0) - wj - we
            for axis in range(3):
                corner_at[0, axis] = wv * position[v, axis] + wj * position[j, axis] + we * position[e, axis]
            good = True
            for at in range(count):
                for axis in range(3):
                    corner_at[1, axis] = position[vertex[next_corner(ring[at])], axis]
                    corner_at[2, axis] = position[vertex[previous_corner(ring[at])], axis]
                facing(corner_at, 0, 1, 2, face)
                if face[0] * normal[0] + face[1] * normal[1] + face[2] * normal[2] <= 0.5 * length(face):
                    good = False
                    break
            if not good:
                continue
            t = ring[found] // 3
            n = next_corner(ring[found]) - 3 * t
            r = previous_corner(ring[found]) - 3 * t
            k = ring[found] - 3 * t
            for axis in range(of_corner.shape[2]):
                value = wv * of_corner[t, k, axis] + wj * of_corner[t, n, axis] + we * of_corner[t, r, axis]
                for at in range(count):
                    of_corner[ring[at] // 3, ring[at] % 3, axis] = value
            blend_row(position, v, v, j, e, wv, wj, we)
            note(state, log, share, v, v, j, e, wv, wj, we)
            done += 1
    for i in range(state[WORK]):
        for corner in range(3 * np.int64(work[i]), 3 * np.int64(work[i]) + 3):
            if vertex[corner] >= 0:
                hold[vertex[corner]] &= ~np.uint8(DONE)
    return done
