"""The brush ring: how far a brush reaches over the surface."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body

Vector = NDArray[np.float64]

STEPS = 6
"""Steps of a walk from the middle of a brush to its rim, on level ground."""


def draped_ring(body: Body, centre: Vector, normal: Vector, radius: float, count: int = 56) -> NDArray[np.float64]:
    """Rim of a brush on the surface: a circle that follows the ground.

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
        Metres; `radius` away from the centre, or where the surface ends.
    """
    aside = np.array([1.0, 0.0, 0.0]) if abs(normal[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    across = np.cross(normal, aside)
    across /= np.linalg.norm(across)
    along = np.cross(normal, across)
    corners = body.corners
    rim = body.index.ring(corners.vertex, body.vertices["position"], centre, across, along, radius, count, STEPS)
    # on rugged ground neighbouring walks end apart; the mean with both neighbours keeps the ring readable
    return (np.roll(rim, 1, axis=0) + 2 * rim + np.roll(rim, -1, axis=0)) / 4
