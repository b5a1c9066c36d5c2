"""Laid down: what weather has left behind at each vertex."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.traces import LAID


def of(asked: Asked) -> Figures:
    """(K,) metres; 0 where no weather was laid."""
    vertices = asked.body.vertices
    if LAID not in vertices:
        return np.zeros(asked.rows.size, np.float32)
    return np.take(vertices[LAID][:, 0], asked.rows)


MEASURE = Measure(
    "laid",
    "Laid down",
    "What water has laid down there.",
    "m",
    0.0,
    0.0,
    (0.1, None, 0.1, 0.0),
    (),
    of,
)
