"""Lift: take the ground in hand away, so that what else lies there shows."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.brushes import stamped
from hulmo.core.ground.shift import shift
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.sculpt.brush import Brush, Dab


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, G) new weights with less of the ground in hand, or more while inverted."""
    return shift(dab.body.vertices[WEIGHT], dab.rows, dab.amount, dab.ground, 1.0 if dab.invert else -1.0)


BRUSH = Brush(
    name="lift",
    label="Lift",
    help="Takes the ground in hand away. Ctrl adds it.",
    key="I",
    stage="ground",
    column=WEIGHT,
    settings=stamped.SETTINGS,
    apply=apply,
    inverse="Lay",
    needs_ground=True,
    check=stamped.check,
    mask=stamped.mask,
)
