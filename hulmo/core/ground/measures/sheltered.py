"""How sheltered a place is: ambient occlusion by the body itself."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.shelter import shelter
from hulmo.core.setting import Number, number


def of(asked: Asked) -> Figures:
    """(K,) percent of the sky that is hidden."""
    found = shelter(asked.body, number(asked.values, "reach"), asked.progress)
    return np.take(found, asked.rows) * np.float32(100.0)


MEASURE = Measure(
    "shelter", "Shelter", "0 % in the open, 100 % where all of the sky is hidden.", "%", 0.0, 100.0,
    (40.0, None, 20.0, 0.0),
    (
        Number("reach", "Reach", "m", 0.01, 10_000.0, 20.0, "What is further away than this gives no shelter.",
               comfort=(0.5, 100.0), curve=3.0),
    ),
    of, kept=True,
)  # fmt: skip
