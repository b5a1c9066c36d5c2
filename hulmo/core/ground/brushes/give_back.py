"""Give back: take hand paint away, so that the ground rules show again."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.brushes import stamped
from hulmo.core.ground.weights import HAND, WEIGHT
from hulmo.core.sculpt.brush import Brush, Dab


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, G) new hand paint: less of it; or, while inverted, all that lies there becomes hand paint."""
    hand = np.take(dab.body.vertices[HAND], dab.rows, axis=0)
    toward = np.take(dab.body.vertices[WEIGHT], dab.rows, axis=0) if dab.invert else np.float32(0.0)
    return np.asarray(hand + np.minimum(dab.amount, np.float32(1.0))[:, None] * (toward - hand))


BRUSH = Brush(
    name="give_back",
    label="Give back",
    help="Takes hand paint away, so that the rules show. Ctrl keeps what lies there.",
    key="Shift+G",
    stage="ground",
    column=HAND,
    settings=stamped.SETTINGS,
    apply=apply,
    inverse="Keep",
    approaches=True,
    defaults=(("strength", 100.0),),
    check=stamped.check,
    mask=stamped.mask,
)
