"""How steep the surface is."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure


def of(asked: Asked) -> Figures:
    """(K,) degrees between surface and horizontal: 0 level ground, 90 a wall, up to 180 under an overhang."""
    return np.asarray(asked.body.slopes(asked.rows), np.float32)


MEASURE = Measure(
    "slope",
    "Slope",
    "0° is level, 90° a wall, more under an overhang.",
    "°",
    0.0,
    180.0,
    (None, 35.0, 0.0, 10.0),
    (),
    of,
)
