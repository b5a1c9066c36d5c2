"""How many metres one unit of texture coordinates covers."""

import numpy as np

from hulmo.core.mesh.body import Body


def metres_per_uv(body: Body) -> float:
    """Metres a unit of UV covers on a body: the root of its area over the area of its triangles in UV; 1 without any."""
    if body.corners.uv is None:
        return 1.0
    live = body.corners.triangles[:, 0] >= 0
    uv = body.corners.uv[live].astype(np.float64)
    at = body.vertices["position"][body.corners.triangles[live]].astype(np.float64)
    area = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum()
    a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    laid = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum()
    return float(np.sqrt(area / laid)) if laid > 0 and area > 0 else 1.0
