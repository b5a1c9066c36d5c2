"""Feather / Sharpen: soften the border between grounds, or draw it sharper."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.around import around
from hulmo.core.ground.brushes import stamped
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.repeat import repeated
from hulmo.core.setting import Number, number

SHARPER = 0.6
"""Part of the difference from its surroundings that a vertex gains in one pass of Sharpen."""


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, G) new weights: part of the way to the mean of the one-ring, or away from it while inverted; they sum to 1."""
    weight = dab.body.vertices[WEIGHT]
    step = np.minimum(dab.amount, np.float32(1.0))[:, None]
    if dab.invert:
        step = -np.float32(SHARPER) * step

    def once() -> NDArray[np.float32]:
        at = np.take(weight, dab.rows, axis=0)
        at = np.maximum(at + step * (around(weight, dab.body.corners, dab.rows) - at), np.float32(0.0))
        return np.asarray(at / at.sum(axis=1, keepdims=True))

    return repeated(weight, dab.rows, [once], int(number(dab.values, "passes")))


BRUSH = Brush(
    name="feather",
    label="Feather / Sharpen",
    help="Softens the border between grounds. Ctrl draws it sharper.",
    key="A",
    stage="ground",
    column=WEIGHT,
    settings=(
        Number(
            "passes", "Passes", "", 1, 20, 2, "How often every dab goes over the border.", comfort=(1, 10), whole=True
        ),
        *stamped.SETTINGS,
    ),
    apply=apply,
    inverse="Sharpen",
    check=stamped.check,
    mask=stamped.mask,
    defaults=(("build_up", "stacking"), ("strength", 60.0)),
)
