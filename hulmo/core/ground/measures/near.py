"""How far it is to another ground, or to a marked set of vertices."""

import numpy as np

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.marked import marked_rows
from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.geodesic import geodesic
from hulmo.core.setting import Number, Text, number

FAR = 1e6
"""Metres that stand for further away than is looked."""


def of(asked: Asked) -> Figures:
    """(K,) metres over the surface to where the ground makes up half of what the rules below say, or to the set."""
    body, to = asked.body, str(asked.values["to"])
    if to.startswith("#"):
        rows = marked_rows(body, to[1:])
    elif to in asked.grounds:
        below = (
            asked.below if asked.below is not None else np.zeros((body.vertices.count, len(asked.grounds)), np.float32)
        )
        rows = np.flatnonzero(below[:, asked.grounds.index(to)] >= 0.5).astype(np.int32)
    else:
        raise InvalidInput(f"distance: there is no ground {to!r}; name one of {', '.join(asked.grounds)}, or #set")
    rows = rows[body.corners.first_corner[rows] >= 0]
    away = geodesic(body.vertices["position"], body.corners, rows, number(asked.values, "look"))
    return np.where(np.isfinite(away), away, np.float32(FAR))[asked.rows]


MEASURE = Measure(
    "near", "Distance", "Metres over the surface to a ground of the rules below, or to a marked set.", "m", 0.0, 0.0,
    (None, 1.0, 0.0, 1.0),
    (
        Text("to", "To", "", "A ground, or # and the name of a marked set of vertices."),
        Number("look", "Look as far as", "m", 0.01, 10_000.0, 20.0, "Further away counts as infinitely far.",
               comfort=(0.5, 100.0), curve=3.0),
    ),
    of, kept=True,
)  # fmt: skip
