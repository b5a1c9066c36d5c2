"""The brush ring: a circle laid on the surface."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body

Vector = NDArray[np.float64]


def draped_ring(body: Body, centre: Vector, normal: Vector, radius: float, count: int = 72) -> NDArray[np.float64]:
    """Points of a circle around a surface point, each brought to the nearest surface and then eased.

    Parameters
    ----------
    body : Body
    centre, normal : (3,) float64
        Surface point in metres and its unit normal.
    radius : float
        Metres.
    count : int

    Returns
    -------
    (count, 3) float64
        Metres. A point with no surface near stays on the flat circle.
    """
    aside = np.array([1.0, 0.0, 0.0]) if abs(normal[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    across = np.cross(normal, aside)
    across /= np.linalg.norm(across)
    along = np.cross(normal, across)
    points = np.empty((count, 3))
    # points of a rugged surface jump; the mean with both neighbours keeps the ring readable
    for i in range(count):
        angle = 2 * math.pi * i / count
        flat = centre + (across * math.cos(angle) + along * math.sin(angle)) * radius
        near = body.nearest(flat, radius)
        points[i] = flat if near is None else near.position
    return (np.roll(points, 1, axis=0) + 2 * points + np.roll(points, -1, axis=0)) / 4
