"""What is to be said of one point of a surface."""

import math
from dataclasses import dataclass

import numpy as np

from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import ONE_GROUND
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.spatial_index import SurfacePoint

FLAT = 1e-4
"""Curvature, one over metres, that counts as none."""


@dataclass(frozen=True)
class PointReading:
    """Figures of a surface point.

    Attributes
    ----------
    height : float
        Metres above zero, or above the sea of a moon.
    slope : float
        Degrees between surface and horizontal: 0 level, 90 a wall, up to 180 under an overhang.
    bend : float
        Radius that the surface is rounded with, metres: positive on bumps and ridges, negative in hollows, infinite where
        it is flat (further than 10 km counts as flat).
    edge : float
        Mean length of the edges of the triangle, metres.
    shares : list of (name, share)
        Grounds that lie there, largest first.
    """

    height: float
    slope: float
    bend: float
    edge: float
    shares: list[tuple[str, float]]


def read_point(body: Body, point: SurfacePoint, grounds: list[str]) -> PointReading:
    """Figures of a point on a body whose weight columns have these names."""
    normal = body.normal_at(point)
    rows = body.corners.vertex[3 * point.triangle : 3 * point.triangle + 3]
    weights = point.weights @ weights_of(body, len(grounds))[rows]
    one = body.corners.slots.get(ONE_GROUND)
    if one is not None and 0 < one[point.triangle, 0, 0] <= len(grounds):
        weights = np.arange(len(grounds)) == int(one[point.triangle, 0, 0]) - 1
    position = body.vertices["position"][rows].astype(np.float64)
    mean, _ = curvature(body.vertices["position"], body.vertices["normal"], body.corners, rows)
    bend = float(point.weights @ mean)
    at = body.own(np.asarray(point.position, np.float64))[None]
    shares = sorted(zip(grounds, weights.tolist(), strict=True), key=lambda pair: -pair[1])
    return PointReading(
        float(body.heights(at)[0]),
        float(body.down.slope(normal[None], at, body.origin)[0]),
        math.inf if abs(bend) < FLAT else 1.0 / bend,
        float(np.linalg.norm(position - np.roll(position, 1, axis=0), axis=1).mean()),
        [(name, share) for name, share in shares if share >= 0.005],
    )
