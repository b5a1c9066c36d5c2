"""Share of thin triangles."""

import numpy as np

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.measure import THIN, smallest_angles


def thin_share(body: Body) -> float:
    """Share (0 to 1) of triangles whose smallest angle is under 10 degrees."""
    corners = body.vertices["position"][body.corners.live_triangles()].astype(np.float64)
    edges = np.roll(corners, -1, axis=1) - corners
    sides = np.sqrt(np.einsum("ijk,ijk->ij", edges, edges))
    double_area = np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1)
    return float(np.mean(smallest_angles(sides, double_area) < THIN))
