"""Share of thin triangles."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import Body

THIN = 10.0
"""Degrees; a triangle whose smallest angle is smaller counts as thin."""


def thin_share(body: Body) -> float:
    """Share (0 to 1) of triangles whose smallest angle is under 10 degrees."""
    angle, _ = shapes_of(body.vertices["position"], body.corners.live_triangles())
    return float(np.mean(angle < THIN))


def shapes_of(
    position: NDArray[np.floating], triangles: NDArray[np.int32]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Smallest angle and aspect ratio of triangles.

    Parameters
    ----------
    position : (N, 3) float
    triangles : (M, 3) int32

    Returns
    -------
    angle : (M,) float64
        Degrees; 0 for a triangle without area.
    aspect : (M,) float64
        Longest side over the height above it: 1.15 for an equilateral triangle, infinite for one without area.
    """
    angle, aspect = np.empty(triangles.shape[0]), np.empty(triangles.shape[0])
    triangles = np.ascontiguousarray(triangles, np.int32)
    if position.dtype == np.float32:
        _shapes_single(np.ascontiguousarray(position), triangles, angle, aspect)
    else:
        _shapes_double(np.ascontiguousarray(position, np.float64), triangles, angle, aspect)
    return angle, aspect


@part_of_kernels
def _shapes(position, triangles, angle, aspect):  # type: ignore[no-untyped-def]
    side = np.empty(3)
    way = np.empty((3, 3))
    for t in range(triangles.shape[0]):
        for k in range(3):
            a, b = triangles[t, k], triangles[t, (k + 1) % 3]
            size = 0.0
            for axis in range(3):
                way[k, axis] = np.float64(position[b, axis]) - np.float64(position[a, axis])
                size += way[k, axis] * way[k, axis]
            side[k] = np.sqrt(size)
        x = way[0, 1] * way[1, 2] - way[0, 2] * way[1, 1]
        y = way[0, 2] * way[1, 0] - way[0, 0] * way[1, 2]
        z = way[0, 0] * way[1, 1] - way[0, 1] * way[1, 0]
        double = np.sqrt(x * x + y * y + z * z)
        longest = max(side[0], side[1], side[2])
        middle = max(min(side[0], side[1]), min(max(side[0], side[1]), side[2]))
        product = longest * middle
        angle[t] = np.degrees(np.arcsin(min(max(double / product, 0.0), 1.0))) if product > 0 else 0.0
        aspect[t] = longest * longest / double if double > 0 else np.inf


@kernel("void(float32[:,::1], int32[:,::1], float64[::1], float64[::1])")
def _shapes_single(
    position: NDArray[np.float32], triangles: NDArray[np.int32], angle: NDArray[np.float64], aspect: NDArray[np.float64]
) -> None:
    _shapes(position, triangles, angle, aspect)


@kernel("void(float64[:,::1], int32[:,::1], float64[::1], float64[::1])")
def _shapes_double(
    position: NDArray[np.float64], triangles: NDArray[np.int32], angle: NDArray[np.float64], aspect: NDArray[np.float64]
) -> None:
    _shapes(position, triangles, angle, aspect)


def smallest_angles(sides: NDArray[np.float64], double_area: NDArray[np.float64]) -> NDArray[np.float64]:
    """Smallest angle of each triangle in degrees, 0 for one without area.

    Parameters
    ----------
    sides : (M, 3) float64
        Lengths of the three sides.
    double_area : (M,) float64
        Twice the area.
    """
    ordered = np.sort(sides, axis=1)
    product = ordered[:, 1] * ordered[:, 2]
    sine = np.divide(double_area, product, out=np.zeros_like(product), where=product > 0)
    return np.asarray(np.degrees(np.arcsin(np.clip(sine, 0.0, 1.0))))
