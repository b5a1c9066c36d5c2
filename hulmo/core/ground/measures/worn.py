"""Worn off: what weather has left behind at each vertex."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.traces import WORN


def of(asked: Asked) -> Figures:
    """(K,) metres; 0 where no weather was laid."""
    vertices = asked.body.vertices
    if WORN not in vertices:
        return np.zeros(asked.rows.size, np.float32)
    return np.take(vertices[WORN][:, 0], asked.rows)


MEASURE = Measure(
    "worn",
    "Worn off",
    "What water has carried off from there.",
    "m",
    0.0,
    0.0,
    (0.1, None, 0.1, 0.0),
    (),
    of,
)
