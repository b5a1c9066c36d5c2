"""Roughen: lay coherent noise where the brush goes."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import fbm
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.direction import direction_settings, pushed
from hulmo.core.setting import Choice, Number, number


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: along the chosen direction by amount times height times noise (about -1 to 1)."""
    position = np.take(dab.surface, dab.rows, axis=0)
    values = dab.values
    noise = fbm(
        position if values["copies"] == "own" else dab.own(position),
        number(values, "size"),
        int(number(values, "octaves")),
        int(number(values, "seed")),
    )
    step = dab.amount * noise * np.float32(number(values, "height"))
    return pushed(dab, step)


BRUSH = Brush(
    name="roughen",
    label="Roughen",
    help="Lays noise on the surface.",
    key="G",
    stage="sculpt",
    group="Break up",
    column="position",
    settings=(
        Number(
            "height", "Height", "m", 0.0, 10_000.0, 0.4, "How far one full coat moves the highest and lowest points.",
            comfort=(0.01, 10.0), curve=3.0,
        ),
        Number(
            "size", "Bump size", "m", 0.001, 10_000.0, 2.0, "Distance from one bump to the next.",
            comfort=(0.05, 40.0), curve=3.0,
        ),
        Number("octaves", "Octaves", "", 1, 8, 4, "Layers of ever finer noise, each half as strong.", whole=True),
        Number("seed", "Seed", "", 0, 9999, 1, "Another number gives another pattern.", whole=True),
        Choice(
            "copies", "Copies have",
            (
                ("image", "The same pattern", "Mirrored and turned copies are exact images of the stroke."),
                ("own", "Patterns of their own", "Every copy takes the noise of the place where it lies."),
            ),
            "image", "What mirrored and turned copies of the stroke look like.",
        ),
        *direction_settings(),
    ),
    apply=apply,
    defaults=(("strength", 100.0),),
)  # fmt: skip
