"""Noise, to break up what is too even."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.noise import KINDS, coherent
from hulmo.core.setting import Choice, Number, number

REACH = {"fbm": 0.55, "billow": 0.6}
"""What noise of these kinds keeps within, most of the time."""


def of(asked: Asked) -> Figures:
    """(K,) noise at each vertex, about -100 to 100."""
    values = asked.values
    at = np.take(asked.body.vertices["position"], asked.rows, axis=0)
    kind = str(values["kind"])
    noise = coherent(at, kind, number(values, "size"), int(number(values, "octaves")), int(number(values, "seed")))
    return noise * np.float32(100.0 / REACH.get(kind, 1.0))


MEASURE = Measure(
    "noise", "Noise", "Patches of noise: about half of the surface lies above 0.", "%", -100.0, 100.0,
    (0.0, None, 30.0, 0.0),
    (
        Choice("kind", "Kind", KINDS, "fbm", "What the noise looks like."),
        Number("size", "Size", "m", 0.01, 10_000.0, 6.0, "From one patch to the next.", comfort=(0.2, 100.0), curve=3.0),
        Number("octaves", "Octaves", "", 1, 8, 3, "Layers of ever finer noise.", whole=True),
        Number("seed", "Seed", "", 0, 999_999, 1, "Another number, another pattern.", comfort=(0, 100), whole=True),
    ),
    of, pointwise=True, cost=1,
)  # fmt: skip
