"""How sheltered a place is by the body itself: of what it faces (ambient occlusion), or of the sky above."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.mesh.shelter import shelter
from hulmo.core.setting import Choice, Number, number


def of(asked: Asked) -> Figures:
    """(K,) percent that is hidden."""
    above = asked.values["of"] == "above"
    found = shelter(asked.body, number(asked.values, "reach"), asked.progress, above=above)
    return np.take(found, asked.rows) * np.float32(100.0)


MEASURE = Measure(
    "shelter", "Shelter", "How much the body hides within the reach: 0 % in the open, 100 % where it is closed in.",
    "%", 0.0, 100.0,
    (40.0, None, 20.0, 0.0),
    (
        Number("reach", "Reach", "m", 0.01, 10_000.0, 20.0, "What is further away than this gives no shelter.",
               comfort=(0.5, 100.0), curve=3.0),
        Choice("of", "Hidden is", (
            ("faced", "What it faces", "Of the half that the surface faces, wherever that is. The underside of an overhang "
             "high above open ground is in the open."),
            ("above", "Sky above", "Of the sky above, by the body's own up. The underside of an overhang is hidden "
             "wholly, level ground below it as far as it reaches, an upright face by half."),
        ), "faced", "What is asked to be hidden."),
    ),
    of, kept=True,
)  # fmt: skip
