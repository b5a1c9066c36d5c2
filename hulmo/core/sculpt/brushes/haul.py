"""Haul: drag a piece of surface with the pointer."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.direction import AXIS, CHOICES, common_direction
from hulmo.core.setting import Choice

FREE = ("free", "With the pointer", "Anywhere in the plane that faces you.")


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: each row follows its share of the pull, or of the pull along one direction."""
    way = None if dab.values["direction"] == "free" else common_direction(dab)
    pull = dab.pull if way is None else way * float(dab.pull @ way)
    position = np.take(dab.surface, dab.rows, axis=0)
    position += dab.amount[:, None] * pull.astype(np.float32)
    return position


BRUSH = Brush(
    name="haul",
    label="Haul",
    help="Drags a piece of surface with the pointer.",
    key="H",
    stage="sculpt",
    group="Shape",
    column="position",
    settings=(
        Choice("direction", "Direction", (FREE, *CHOICES), "free", "Which way the piece can go."),
        *AXIS,
    ),
    apply=apply,
    defaults=(("strength", 100.0), ("radius", 6.0)),
    grabs=True,
)
