"""Flow: what weather has left behind at each vertex."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.traces import FLOW


def of(asked: Asked) -> Figures:
    """(K,) metres; 0 where no weather was laid."""
    vertices = asked.body.vertices
    if FLOW not in vertices:
        return np.zeros(asked.rows.size, np.float32)
    return np.take(vertices[FLOW][:, 0], asked.rows)


MEASURE = Measure(
    "flow",
    "Flow",
    "How much water runs through: the side of a square as large as what drains there.",
    "m",
    0.0,
    0.0,
    (8.0, None, 4.0, 0.0),
    (),
    of,
)
