"""Swell / Shrink: move the surface along its own normals."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Number, number


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: each row moves by amount times height along its own normal."""
    step = dab.amount * np.float32(number(dab.values, "height"))
    if dab.invert:
        step = -step
    position = np.take(dab.surface, dab.rows, axis=0)
    position += dab.normals(dab.rows) * step[:, None]
    return position


BRUSH = Brush(
    name="swell",
    label="Swell / Shrink",
    help="Blows the surface up on all sides. Ctrl shrinks it.",
    key="W",
    stage="sculpt",
    group="Shape",
    column="position",
    settings=(
        Number(
            "height", "Height", "m", 0.0, 10_000.0, 0.5, "How far one full coat moves the surface at its middle.",
            comfort=(0.01, 20.0), curve=3.0,
        ),
    ),
    apply=apply,
    inverse="Shrink",
)  # fmt: skip
