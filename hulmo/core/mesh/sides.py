"""Lengths of sides and facing of triangles."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import Body

Triangles = NDArray[np.int32]

SAMPLE = 20_000
"""Triangles that the mean edge is taken from."""


def side_lengths(position: NDArray[np.floating], triangles: Triangles) -> NDArray[np.floating]:
    """(M, 3) lengths of the sides of triangles, metres: from the third corner to the first, and so on."""
    out = np.empty((triangles.shape[0], 3), position.dtype)
    triangles = np.ascontiguousarray(triangles, np.int32)
    if position.dtype == np.float32:
        _sides_single(np.ascontiguousarray(position), triangles, out)
    else:
        _sides_double(np.ascontiguousarray(position), triangles, out)
    return out


@part_of_kernels
def _measure(position, triangles, out):  # type: ignore[no-untyped-def]
    for t in range(triangles.shape[0]):
        for k in range(3):
            a, b = triangles[t, k], triangles[t, (k + 2) % 3]
            x = np.float64(position[a, 0]) - np.float64(position[b, 0])
            y = np.float64(position[a, 1]) - np.float64(position[b, 1])
            z = np.float64(position[a, 2]) - np.float64(position[b, 2])
            out[t, k] = np.sqrt(x * x + y * y + z * z)


@kernel("void(float32[:,::1], int32[:,::1], float32[:,::1])")
def _sides_single(position: NDArray[np.float32], triangles: Triangles, out: NDArray[np.float32]) -> None:
    _measure(position, triangles, out)


@kernel("void(float64[:,::1], int32[:,::1], float64[:,::1])")
def _sides_double(position: NDArray[np.float64], triangles: Triangles, out: NDArray[np.float64]) -> None:
    _measure(position, triangles, out)


def edges_at(position: NDArray[np.floating], triangles: Triangles) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(N,) lengths of the shortest and of the longest edge that triangles have at each vertex, metres; infinite and 0 where
    there is none."""
    side = np.asarray(side_lengths(position, triangles), np.float64)
    shortest, longest = np.full(position.shape[0], np.inf), np.zeros(position.shape[0])
    _ends(side, np.ascontiguousarray(triangles, np.int32), shortest, longest)
    return shortest, longest


@kernel("void(float64[:,::1], int32[:,::1], float64[::1], float64[::1])")
def _ends(
    side: NDArray[np.float64], triangles: Triangles, shortest: NDArray[np.float64], longest: NDArray[np.float64]
) -> None:
    for t in range(triangles.shape[0]):
        for k in range(3):
            row, one, other = triangles[t, k], side[t, k], side[t, (k + 1) % 3]
            shortest[row] = min(shortest[row], one, other)
            longest[row] = max(longest[row], one, other)


@kernel("void(float64[:,::1], int32[:,::1], float64[:,::1])")
def _normals(position: NDArray[np.float64], triangles: NDArray[np.int32], out: NDArray[np.float64]) -> None:
    for t in range(triangles.shape[0]):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ux, uy, uz = position[b, 0] - position[a, 0], position[b, 1] - position[a, 1], position[b, 2] - position[a, 2]
        vx, vy, vz = position[c, 0] - position[a, 0], position[c, 1] - position[a, 1], position[c, 2] - position[a, 2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        length = max(np.sqrt(x * x + y * y + z * z), 1e-300)
        out[t, 0], out[t, 1], out[t, 2] = x / length, y / length, z / length


def unit_normals(position: NDArray[np.floating], triangles: Triangles) -> NDArray[np.float64]:
    """(M, 3) unit normals of triangles; of no length where a triangle has no area."""
    out = np.empty((triangles.shape[0], 3))
    _normals(np.ascontiguousarray(position, np.float64), np.ascontiguousarray(triangles, np.int32), out)
    return out


def mean_edge(body: Body, sample: int = SAMPLE) -> float:
    """Mean edge length of a body, metres, from about so many of its triangles; 1 for a body without any."""
    triangles = body.corners.triangles
    triangles = triangles[:: max(1, triangles.shape[0] // sample)]
    triangles = triangles[triangles[:, 0] >= 0]
    if not triangles.size:
        return 1.0
    return max(float(side_lengths(body.vertices["position"], triangles).mean()), 1e-6)
