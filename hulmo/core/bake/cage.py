"""How far a bake looks for a finer surface, as lines about the body."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.edge_ends import edge_ends

Lines = NDArray[np.float64]


SHARE = 0.05
"""Of the body's size, that is looked through where no distance is given."""


def usual_reach(body: Body) -> float:
    """Metres to each side that are looked through where no distance is given."""
    bounds = body.bounds()
    return SHARE * float(np.linalg.norm(np.asarray(bounds.high) - np.asarray(bounds.low)))


def cage(body: Body, reach: float) -> tuple[Lines, Lines]:
    """(L, 2, 3) edges of the body moved outward and inward along its normals by so many metres, metres."""
    corners = body.corners
    at = np.flatnonzero((corners.vertex >= 0) & (corners.opposite < np.arange(corners.vertex.size)))
    ends = np.stack(edge_ends(corners, at), axis=1)
    place, normal = body.placed(body.vertices["position"][ends]), body.vertices["normal"][ends].astype(np.float64)
    return np.asarray(place + reach * normal), np.asarray(place - reach * normal)
