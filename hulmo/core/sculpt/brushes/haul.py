"""Haul: drag a piece of surface with the pointer."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Choice


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: each row follows its share of the pull, or of the pull along one direction."""
    pull = dab.pull
    if dab.values["direction"] == "start":
        pull = dab.start_normal * float(pull @ dab.start_normal)
    elif dab.values["direction"] == "up":
        pull = np.array([0.0, pull[1], 0.0])
    position = np.take(dab.body.vertices["position"], dab.rows, axis=0)
    position += dab.amount[:, None] * pull.astype(np.float32)
    return position


BRUSH = Brush(
    name="haul",
    label="Haul",
    help="Drags a piece of surface with the pointer.",
    key="H",
    stage="sculpt",
    column="position",
    settings=(
        Choice(
            "direction",
            "Direction",
            (
                ("free", "With the pointer", "Anywhere in the plane that faces you."),
                ("start", "Normal at start", "Only along the surface normal where it was grabbed."),
                ("up", "World up", "Only up and down."),
            ),
            "free",
            "Which way the piece can go.",
        ),
    ),
    apply=apply,
    defaults=(("strength", 100.0), ("radius", 6.0)),
    grabs=True,
)
