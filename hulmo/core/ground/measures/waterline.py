"""How far it is to the waterline."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.ground.measures.under_water import WATER
from hulmo.core.ground.standing_water import DRY, depth_under
from hulmo.core.mesh.geodesic import geodesic
from hulmo.core.setting import Number, number


def of(asked: Asked) -> Figures:
    """(K,) metres over the surface from the waterline, below 0 under water."""
    body = asked.body
    under = depth_under(body, int(number(asked.values, "water")))
    wet = under >= 0
    slots = body.corners.triangles[:, 0] >= 0
    triangles = body.corners.triangles[slots]
    tail, tip = (triangles[:, order].reshape(-1) for order in ((0, 1, 2), (1, 2, 0)))
    crossed = (wet[tail] != wet[tip]) & (under[tail] > DRY) & (under[tip] > DRY)
    tail, tip = tail[crossed], tip[crossed]
    position = body.vertices["position"].astype(np.float64)
    length = np.linalg.norm(position[tip] - position[tail], axis=1)
    share = np.abs(under[tail]) / np.maximum(np.abs(under[tail]) + np.abs(under[tip]), 1e-30)
    source, begin = np.concatenate((tail, tip)), np.concatenate((share * length, (1 - share) * length))
    away = geodesic(
        body.vertices["position"], body.corners, source.astype(np.int32), number(asked.values, "look"), begin
    )
    away = np.where(np.isfinite(away), away, np.float32(-DRY))
    return np.where(wet, -away, away)[asked.rows].astype(np.float32)


MEASURE = Measure(
    "waterline", "Distance to the waterline", "Metres over the surface from the waterline; below 0 under water.", "m",
    -5.0, 5.0, (None, 0.5, 0.0, 0.5),
    (WATER, Number("look", "Look as far as", "m", 0.01, 10_000.0, 20.0, "Further away counts as infinitely far.",
                   comfort=(0.5, 100.0), curve=3.0)),
    of, kept=True,
)  # fmt: skip
