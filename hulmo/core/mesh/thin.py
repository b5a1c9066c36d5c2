"""Share of thin triangles."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body

THIN = 10.0
"""Degrees; a triangle whose smallest angle is smaller counts as thin."""


def thin_share(body: Body) -> float:
    """Share (0 to 1) of triangles whose smallest angle is under 10 degrees."""
    corners = body.vertices["position"][body.corners.live_triangles()].astype(np.float64)
    edges = np.roll(corners, -1, axis=1) - corners
    sides = np.sqrt(np.einsum("ijk,ijk->ij", edges, edges))
    double_area = np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1)
    return float(np.mean(smallest_angles(sides, double_area) < THIN))


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
