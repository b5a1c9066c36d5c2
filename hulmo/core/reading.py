"""What is to be said of one point of a surface."""

import math
from dataclasses import dataclass

from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint


@dataclass(frozen=True)
class PointReading:
    """Figures of a surface point.

    Attributes
    ----------
    height : float
        Metres above zero.
    slope : float
        Degrees between surface and horizontal: 0 level, 90 a wall, up to 180 under an overhang.
    shares : list of (name, share)
        Grounds that lie there, largest first.
    """

    height: float
    slope: float
    shares: list[tuple[str, float]]


def read_point(body: Body, point: SurfacePoint, grounds: list[str]) -> PointReading:
    """Figures of a point on a body whose weight columns have these names."""
    normal = body.normal_at(point)
    rows = body.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
    weights = point.weights @ weights_of(body, len(grounds))[rows]
    shares = sorted(zip(grounds, weights.tolist(), strict=True), key=lambda pair: -pair[1])
    return PointReading(
        float(point.position[1]),
        math.degrees(math.acos(max(-1.0, min(1.0, float(normal[1]))))),
        [(name, share) for name, share in shares if share >= 0.005],
    )
