"""Where on a moon: how far from its equator."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.down import POLE


def of(asked: Asked) -> Figures:
    """(K,) degrees north of the equator, -90 to 90; the poles lie on the Y axis. 0 where down is the same everywhere."""
    down = asked.body.down
    if down.even:
        return np.zeros(asked.rows.size, np.float32)
    up = down.up(np.take(asked.body.vertices["position"], asked.rows, axis=0), asked.body.origin)
    return np.asarray(np.degrees(np.arcsin(np.clip(up @ POLE, -1.0, 1.0))), np.float32)


MEASURE = Measure(
    "latitude",
    "Latitude",
    "Degrees north of a moon's equator: 90° at its north pole. Only where down is toward a centre.",
    "°",
    -90.0,
    90.0,
    (60.0, None, 10.0, 0.0),
    (),
    of,
)
