"""Raise / Lower: move the surface along one direction."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.direction import direction_settings, pushed
from hulmo.core.setting import Number, number


def apply(dab: Dab) -> NDArray[np.float32]:
    """New positions: each row moves by amount times height along the chosen direction.

    Returns
    -------
    (K, 3) float32
        Metres.
    """
    step = dab.amount * np.float32(number(dab.values, "height"))
    if dab.invert:
        step = -step
    return pushed(dab, step)


BRUSH = Brush(
    name="raise",
    label="Raise / Lower",
    help="Raises the surface. Ctrl lowers it.",
    key="R",
    stage="sculpt",
    group="Shape",
    column="position",
    settings=(
        Number(
            "height", "Height", "m", 0.0, 10_000.0, 1.0, "How far one full coat moves the surface at its middle.",
            comfort=(0.01, 20.0), curve=3.0,
        ),
        *direction_settings(),
    ),
    apply=apply,
    inverse="Lower",
)  # fmt: skip
