"""Walking outward over a surface."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.tree_query import nearest_to

Corners = NDArray[np.int32]
Points = NDArray[np.float32]
Vector = NDArray[np.float64]


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[::1], float64[::1], "
    "float64[::1], float64, int64, float64[:,::1])"
)
def walk_ring(
    box: Points,
    first: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
    centre: Vector,
    across: Vector,
    along: Vector,
    radius: float,
    steps: int,
    rim: NDArray[np.float64],
) -> None:
    """Walk outward over the surface in many directions until `radius` away from the centre; `rim` gets the ends.

    `across` and `along` are unit vectors of the tangent plane. A step goes straight on, then to the nearest surface.
    """
    out = np.empty(3, np.float64)
    for i in range(rim.shape[0]):
        angle = 2.0 * np.pi * i / rim.shape[0]
        c = np.cos(angle)
        s = np.sin(angle)
        dx = across[0] * c + along[0] * s
        dy = across[1] * c + along[1] * s
        dz = across[2] * c + along[2] * s
        px = centre[0]
        py = centre[1]
        pz = centre[2]
        step = radius / steps
        had = 0.0
        for _ in range(3 * steps):
            qx = px + dx * step
            qy = py + dy * step
            qz = pz + dz * step
            # the last point is on the surface, a step away
            t = nearest_to(
                box, first, leaf_items, leaf_count, vertex, position, None, None, qx, qy, qz, 1.05 * step, out
            )
            if t < 0:
                break
            a = vertex[3 * t]
            b = vertex[3 * t + 1]
            e = vertex[3 * t + 2]
            v = out[1]
            w = out[2]
            u = 1.0 - v - w
            qx = u * position[a, 0] + v * position[b, 0] + w * position[e, 0]
            qy = u * position[a, 1] + v * position[b, 1] + w * position[e, 1]
            qz = u * position[a, 2] + v * position[b, 2] + w * position[e, 2]
            mx = qx - px
            my = qy - py
            mz = qz - pz
            moved = np.sqrt(mx * mx + my * my + mz * mz)
            away = np.sqrt((qx - centre[0]) ** 2 + (qy - centre[1]) ** 2 + (qz - centre[2]) ** 2)
            if moved < 0.02 * step or away < had - step:
                break  # a border, or a fold that leads back
            if away >= radius:
                share = (radius - had) / (away - had) if away > had else 1.0
                px += mx * share
                py += my * share
                pz += mz * share
                break
            # go on the way the surface led
            dx = 0.5 * dx + 0.5 * mx / moved
            dy = 0.5 * dy + 0.5 * my / moved
            dz = 0.5 * dz + 0.5 * mz / moved
            length = np.sqrt(dx * dx + dy * dy + dz * dz)
            if length < 1e-6:
                break
            dx /= length
            dy /= length
            dz /= length
            px = qx
            py = qy
            pz = qz
            had = away
        rim[i, 0] = px
        rim[i, 1] = py
        rim[i, 2] = pz
