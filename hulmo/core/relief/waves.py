"""Waves: a notch cut into walls along a waterline."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import fbm
from hulmo.core.relief.relief import SEED, Relief, Task
from hulmo.core.setting import Number, number


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres, level and into the wall: deepest at the waterline, nothing a notch's height away from it.

    The roof falls off more steeply than the floor, as waves cut; hard rock, told by noise, is cut less.
    """
    values = task.values
    high = number(values, "height")
    away = (task.heights - number(values, "level")) / high
    roof, floor = np.clip(1.0 - away / 0.4, 0.0, 1.0), np.clip(1.0 + away / 0.6, 0.0, 1.0)
    profile = np.where(away > 0, roof**0.5 * (away < 0.4), floor * floor * (3.0 - 2.0 * floor))
    seed, uneven = int(number(values, "seed")), number(values, "irregularity") / 100.0
    hard = np.clip(0.5 + fbm(task.level_places, 3.0 * high, 3, seed), 0.0, 1.0)
    outward = task.normal - (task.normal * task.up).sum(axis=1)[:, None] * task.up
    depth = number(values, "depth") * profile * (1.0 - uneven * hard) * task.free
    return np.asarray(-outward * depth[:, None], np.float32)


RELIEF = Relief(
    name="waves",
    label="Notch",
    help="Cuts a notch along a waterline.",
    settings=(
        Number("level", "Waterline", "m", -1e5, 1e5, 0.0, "Height of the water.", comfort=(-20.0, 50.0)),
        Number("height", "Notch height", "m", 0.01, 1000.0, 2.0, "From its floor to its roof.", comfort=(0.2, 10.0),
               curve=2.0),
        Number("depth", "Depth", "m", 0.0, 1000.0, 1.0, "How far it is cut into a wall.", comfort=(0.0, 5.0), curve=2.0),
        Number("irregularity", "Irregularity", "%", 0.0, 100.0, 60.0, "How much harder rock is cut less."),
        SEED,
    ),
    lay=lay,
)  # fmt: skip
