"""How far in from the rim of an outline or a track."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.objects.line import LINE
from hulmo.core.setting import Number, number

FAR = -1e6
"""Metres that stand for a line that is not on the body."""


def of(asked: Asked) -> Figures:
    """(K,) metres inward, below 0 outside."""
    column = f"{LINE}{int(number(asked.values, 'line'))}"
    if column not in asked.body.vertices:
        return np.full(asked.rows.size, FAR, np.float32)
    return np.take(asked.body.vertices[column][:, 0], asked.rows)


MEASURE = Measure(
    "line", "Inward of a line", "Metres in from the rim of an outline or a track; below 0 outside.", "m", -5.0, 5.0,
    (0.0, None, 0.0, 0.0),
    (Number("line", "Line", "", 0, 1_000_000, 0, "Number of the outline or track.", whole=True),),
    of,
)  # fmt: skip
