"""How deep under a water of the scene."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.ground.standing_water import depth_under
from hulmo.core.setting import Number, number

WATER = Number("water", "Water", "", 0, 1_000_000, 0, "Number of the water; 0: whichever stands there.", whole=True)


def of(asked: Asked) -> Figures:
    """(K,) metres below the water, below 0 above it."""
    return depth_under(asked.body, int(number(asked.values, "water")))[asked.rows].astype(np.float32)


MEASURE = Measure(
    "under_water", "Depth under water", "Metres below the water that stands there; below 0 above it.", "m", -5.0, 5.0,
    (0.0, None, 0.3, 0.0), (WATER,), of, kept=True,
)  # fmt: skip
