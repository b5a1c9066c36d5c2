"""How many metres one unit of texture coordinates covers."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.workers import by_pieces

PIECE = 200_000
"""Triangles that one thread looks at a time."""


@kernel("void(int32[::1], float32[:,::1], float32[:,:,::1], float64[::1])")
def _areas(
    vertex: NDArray[np.int32], position: NDArray[np.float32], uv: NDArray[np.float32], out: NDArray[np.float64]
) -> None:
    area, covered = 0.0, 0.0
    for t in range(uv.shape[0]):
        if vertex[3 * t] < 0:
            continue
        a, b, c = vertex[3 * t], vertex[3 * t + 1], vertex[3 * t + 2]
        x = np.float64(position[b, 0]) - position[a, 0]
        y = np.float64(position[b, 1]) - position[a, 1]
        z = np.float64(position[b, 2]) - position[a, 2]
        u = np.float64(position[c, 0]) - position[a, 0]
        v = np.float64(position[c, 1]) - position[a, 1]
        w = np.float64(position[c, 2]) - position[a, 2]
        area += np.sqrt((y * w - z * v) ** 2 + (z * u - x * w) ** 2 + (x * v - y * u) ** 2)
        x = np.float64(uv[t, 1, 0]) - uv[t, 0, 0]
        y = np.float64(uv[t, 1, 1]) - uv[t, 0, 1]
        u = np.float64(uv[t, 2, 0]) - uv[t, 0, 0]
        v = np.float64(uv[t, 2, 1]) - uv[t, 0, 1]
        covered += abs(x * v - y * u)
    out[0], out[1] = area, covered


def metres_per_uv(body: Body) -> float:
    """Metres a unit of UV covers on a body: the root of its area over the area of its triangles in UV; 1 without any."""
    if body.corners.uv is None:
        return 1.0
    vertex, position, uv = body.corners.vertex, body.vertices["position"], np.ascontiguousarray(body.corners.uv)
    parts = np.zeros((-(-uv.shape[0] // PIECE), 2))

    def add(rows: slice) -> None:
        _areas(vertex[3 * rows.start : 3 * rows.stop], position, uv[rows], parts[rows.start // PIECE])

    by_pieces(add, uv.shape[0], PIECE)
    out = parts.sum(axis=0)
    return float(np.sqrt(out[0] / out[1])) if out[1] > 0 and out[0] > 0 else 1.0
