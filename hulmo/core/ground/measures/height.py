"""Height above a typed level."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.down import LEVEL
from hulmo.core.setting import Number, number


def of(asked: Asked) -> Figures:
    """(K,) metres above the level."""
    body, level = asked.body, number(asked.values, "level")
    if body.down == LEVEL:  # in single precision throughout, as files that were laid so have it
        return np.asarray(body.vertices["position"][asked.rows, 1] - np.float32(level - body.origin[1]))
    return np.asarray(body.heights(body.vertices["position"][asked.rows]) - level, np.float32)


MEASURE = Measure(
    "height", "Height", "Metres above a level you type.", "m", 0.0, 0.0, (None, 2.0, 0.0, 1.0),
    (Number("level", "Level", "m", -1e5, 1e5, 0.0, "Where height is counted from.", comfort=(-50.0, 100.0)),),
    of,
)  # fmt: skip
