"""What lies on the surface of another body, at the places of it that are nearest."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.origin import shifted


@dataclass(frozen=True)
class NearWeights:
    """Ground weights of one body as another one finds them next to it.

    Attributes
    ----------
    away : (N,) float64
        Metres to the surface of the other body.
    weight : (N, G) float32
        Weights there.
    place : (N, 3) float32
        Vertices, about the origin of the other body.
    """

    away: NDArray[np.float64]
    weight: NDArray[np.float32]
    place: NDArray[np.float32]


def near_weights(body: Body, source: Body, weight: NDArray[np.float32]) -> NearWeights:
    """For every vertex of a body, the nearest place of another's surface.

    Parameters
    ----------
    body : Body
        Of N vertices.
    source : Body
        Of L vertices.
    weight : (L, G) float32
        Its weights.

    Raises
    ------
    InvalidInput
        They lie too far apart.
    """
    place = shifted(body, source)
    triangle, part = source.index.nearest_many(source.corners.vertex, source.vertices["position"], place)
    corners = source.corners.triangles[triangle]
    there = sum(part[:, i, None] * source.vertices["position"][corners[:, i]] for i in range(3))
    mixed = sum(part[:, i, None] * weight[corners[:, i]] for i in range(3))
    away = np.linalg.norm(np.asarray(there) - place, axis=1)
    return NearWeights(away, np.asarray(mixed, np.float32), place)
