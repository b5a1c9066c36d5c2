"""Share of thin triangles."""

import numpy as np
from numpy.typing import NDArray

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
    corners = position[triangles].astype(np.float64)
    edges = np.roll(corners, -1, axis=1) - corners
    sides = np.sqrt(np.einsum("ijk,ijk->ij", edges, edges))
    double_area = np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1)
    longest = sides.max(axis=1)
    aspect = np.divide(longest**2, double_area, out=np.full_like(longest, np.inf), where=double_area > 0)
    return smallest_angles(sides, double_area), aspect


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
