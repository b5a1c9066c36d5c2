"""How a surface is rounded at a scale: ridges and hollows of a typed size, whatever the mesh is like."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels, written_into_kernels
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Values = NDArray[np.float32]

WAYS = 4
"""Directions in which the surface is walked: two at a right angle would do for a quadric, four even out what is not one."""

MOST_STEPS = 4096
"""Triangles that one walk crosses at the most."""


@written_into_kernels
def _gap(position, a, b):  # type: ignore[no-untyped-def]
    return (
        np.float64(position[b, 0]) - position[a, 0],
        np.float64(position[b, 1]) - position[a, 1],
        np.float64(position[b, 2]) - position[a, 2],
    )


@part_of_kernels
def _walk(position, vertex, opposite, corner, share, go_x, go_y, go_z, left):  # type: ignore[no-untyped-def]
    # go on from the edge that faces `corner`, at `share` of the way from its next to its previous vertex, in a direction
    # that lies in the triangle of `corner`; `left` metres are to go. Gives where it ends.
    p = vertex[next_corner(corner)]
    q = vertex[previous_corner(corner)]
    ux, uy, uz = _gap(position, p, q)
    length = max(np.sqrt(ux * ux + uy * uy + uz * uz), 1e-30)
    ux /= length
    uy /= length
    uz /= length
    at = share * length
    along = min(max(go_x * ux + go_y * uy + go_z * uz, -1.0), 1.0)
    away = np.sqrt(1.0 - along * along)
    for _ in range(MOST_STEPS):
        across = opposite[corner]
        if across < 0 or left <= 0.0:
            break
        # the next triangle in a plane of its own: the edge along u from p, its apex at (ru, rw)
        r = vertex[across]
        rx, ry, rz = _gap(position, p, r)
        ru = rx * ux + ry * uy + rz * uz
        rw = np.sqrt(max(rx * rx + ry * ry + rz * rz - ru * ru, 0.0))
        if rw <= 1e-9 * length:
            break
        # leaves to the left of the apex through the edge from it to p, to the right through the edge from q to it
        left_of = along * rw < away * (ru - at)
        ax, aw, sx, sw = (ru, rw, -ru, -rw) if left_of else (length, 0.0, ru - length, rw)
        cross = along * sw - away * sx
        if abs(cross) < 1e-30:
            break
        step = max(((ax - at) * sw - aw * sx) / cross, 0.0)
        if step >= left:
            lift = left * away / rw
            at += left * along - lift * ru
            return (
                position[p, 0] + at * ux + lift * rx,
                position[p, 1] + at * uy + lift * ry,
                position[p, 2] + at * uz + lift * rz,
            )
        left -= step
        span = np.sqrt(sx * sx + sw * sw)
        if span <= 0.0:
            break
        back = 1.0 / span
        hit = min(max(((at + along * step - ax) * sx + (away * step - aw) * sw) * back, 0.0), span)
        along = (along * sx + away * sw) * back
        away = abs(cross) * back
        # in the triangle across, the corner that faces the edge it left through; its edge runs the other way round
        if left_of:
            corner = next_corner(across)
            forward = vertex[next_corner(corner)] == r
        else:
            corner = previous_corner(across)
            forward = vertex[previous_corner(corner)] == r
        p = vertex[next_corner(corner)]
        ux, uy, uz = _gap(position, p, vertex[previous_corner(corner)])
        length = span
        ux *= back
        uy *= back
        uz *= back
        at = hit
        if not forward:
            at = span - hit
            along = -along
    return position[p, 0] + at * ux, position[p, 1] + at * uy, position[p, 2] + at * uz


@kernel(
    "void(float32[:,::1], float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float64, int64, float32[::1])"
)
def _rounding(
    position: Points,
    normal: Points,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    rows: Corners,
    scale: float,
    ways: int,
    out: Values,
) -> None:
    for i in range(rows.size):
        row = rows[i]
        out[i] = 0.0
        start = first[row]
        if start < 0:
            continue
        nx = np.float64(normal[row, 0])
        ny = np.float64(normal[row, 1])
        nz = np.float64(normal[row, 2])
        # a frame of the tangent plane (Duff et al., "Building an orthonormal basis, revisited", 2017)
        sign = 1.0 if nz >= 0.0 else -1.0
        a = -1.0 / (sign + nz)
        b = nx * ny * a
        ux = 1.0 + sign * nx * nx * a
        uy = sign * b
        uz = -sign * nx
        vx = b
        vy = sign + ny * ny * a
        vz = -ny
        total = 0.0
        count = 0
        for way in range(ways):
            angle = 2.0 * np.pi * way / ways
            c = np.cos(angle)
            s = np.sin(angle)
            # where the fan is folded, several triangles may lie in this direction: the one that reaches farthest counts,
            # whichever corner the fan is begun at
            found = -1
            farthest = 0.0
            share = 0.0
            corner = start
            backward = False
            while True:
                p = vertex[next_corner(corner)]
                q = vertex[previous_corner(corner)]
                px, py, pz = _gap(position, row, p)
                qx, qy, qz = _gap(position, row, q)
                pu = px * ux + py * uy + pz * uz
                pv = px * vx + py * vy + pz * vz
                qu = qx * ux + qy * uy + qz * uz
                qv = qx * vx + qy * vy + qz * vz
                before = pu * s - pv * c
                after = c * qv - s * qu
                if before >= 0.0 and after > 0.0 and (pu + qu) * c + (pv + qv) * s > 0.0:
                    part = before / (before + after)
                    far = (pu + part * (qu - pu)) * c + (pv + part * (qv - pv)) * s
                    if far > farthest:
                        found = corner
                        farthest = far
                        share = part
                if not backward:
                    across = opposite[next_corner(corner)]
                    if across >= 0:
                        corner = next_corner(across)
                        if corner == start:
                            break
                        continue
                    backward = True
                    corner = start
                across = opposite[previous_corner(corner)]
                if across < 0:
                    break
                corner = previous_corner(across)
            if found < 0:
                continue
            px, py, pz = _gap(position, row, vertex[next_corner(found)])
            qx, qy, qz = _gap(position, row, vertex[previous_corner(found)])
            gx = px + share * (qx - px)
            gy = py + share * (qy - py)
            gz = pz + share * (qz - pz)
            gone = np.sqrt(gx * gx + gy * gy + gz * gz)
            if gone >= scale:
                ex = gx * scale / gone
                ey = gy * scale / gone
                ez = gz * scale / gone
            else:
                ex, ey, ez = _walk(
                    position, vertex, opposite, found, share, gx / gone, gy / gone, gz / gone, scale - gone
                )
                ex -= position[row, 0]
                ey -= position[row, 1]
                ez -= position[row, 2]
            chord = ex * ex + ey * ey + ez * ez
            if chord > 0.01 * scale * scale:
                total += -2.0 * (ex * nx + ey * ny + ez * nz) / chord
                count += 1
        if count > 0:
            out[i] = total / count


def rounding(
    position: Points, normal: Points, corners: CornerTable, rows: Corners, scale: float, ways: int = WAYS
) -> Values:
    """Mean curvature of the surface as it is met `scale` metres away; the cost is that of the rows named.

    Parameters
    ----------
    position, normal : (N, 3) float32
    corners : CornerTable
    rows : (K,) int32
    scale : float
        Metres along the surface.
    ways : int
        Directions, at least 2.

    Returns
    -------
    (K,) float32
        One over metres: positive on ridges and bumps, negative in hollows, 1 / R on a ball of radius R whatever the scale.

    Notes
    -----
    The surface is walked straight in `WAYS` even directions (straightest geodesics: Polthier and Schmies, 1998). The circle
    through the vertex, tangent to it, and through where a walk of chord c ends at height d along the normal has curvature
    -2 d / c^2. The mean over even directions is the mean curvature (Euler's theorem). A walk that meets a border ends there.
    """
    out = np.empty(rows.size, np.float32)
    _rounding(position, normal, corners.vertex, corners.opposite, corners.first_corner, rows, scale, ways, out)
    return out
