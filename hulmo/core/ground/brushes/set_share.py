"""Set: bring the ground in hand to an exact share."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.brushes import stamped
from hulmo.core.ground.shift import shift
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Number, number


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, G) new weights: the ground in hand goes by `amount` of the way to the share; at full amount it is exactly that."""
    weight = dab.body.vertices[WEIGHT]
    share = np.float32(number(dab.values, "share") / 100.0)
    step = np.minimum(dab.amount, np.float32(1.0)) * (share - np.take(weight, dab.rows, axis=0)[:, dab.ground])
    return shift(weight, dab.rows, step, dab.ground, 1.0)


BRUSH = Brush(
    name="set",
    label="Set",
    help="Brings the ground in hand to an exact share.",
    key="Shift+S",
    stage="ground",
    column=WEIGHT,
    settings=(
        Number("share", "Share", "%", 0.0, 100.0, 50.0, "What the ground in hand is brought to."),
        *stamped.SETTINGS,
    ),
    apply=apply,
    needs_ground=True,
    approaches=True,
    defaults=(("strength", 100.0), ("core", 50.0)),
    check=stamped.check,
    mask=stamped.mask,
)
