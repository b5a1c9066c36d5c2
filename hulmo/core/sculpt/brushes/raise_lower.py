"""Raise / Lower: move the surface along one direction."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Choice, Number, number


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
    position = np.take(dab.body.vertices["position"], dab.rows, axis=0)
    direction = dab.values["direction"]
    if direction == "own":
        position += np.take(dab.body.vertices["normal"], dab.rows, axis=0) * step[:, None]
    elif direction == "start":
        position += dab.start_normal.astype(np.float32) * step[:, None]
    else:
        position[:, 1] += step
    return position


BRUSH = Brush(
    name="raise",
    label="Raise / Lower",
    help="Raises the surface. Ctrl lowers it.",
    key="R",
    stage="sculpt",
    column="position",
    settings=(
        Number(
            "height", "Height", "m", 0.0, 10_000.0, 1.0, "How far one full coat moves the surface at its middle.",
            comfort=(0.01, 20.0), curve=3.0,
        ),
        Choice(
            "direction",
            "Direction",
            (
                ("own", "Own normal", "Every point moves along its own surface normal."),
                ("start", "Normal at start", "All points move along the normal where the stroke began."),
                ("up", "World up", "All points move straight up."),
            ),
            "own",
            "Which way the surface moves.",
        ),
    ),
    apply=apply,
    inverse="Lower",
)  # fmt: skip
