"""Height above a typed level."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.setting import Number, number


def of(asked: Asked) -> Figures:
    """(K,) metres above the level."""
    high = asked.body.vertices["position"][asked.rows, 1]
    return np.asarray(high - np.float32(number(asked.values, "level") - asked.body.origin[1]))


MEASURE = Measure(
    "height", "Height", "Metres above a level you type.", "m", 0.0, 0.0, (None, 2.0, 0.0, 1.0),
    (Number("level", "Level", "m", -1e5, 1e5, 0.0, "Where height is counted from.", comfort=(-50.0, 100.0)),),
    of,
)  # fmt: skip
