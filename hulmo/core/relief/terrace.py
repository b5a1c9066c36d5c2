"""Terraces: steps of even height over the whole surface."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import fbm
from hulmo.core.relief.relief import SEED, Relief, Task
from hulmo.core.setting import Number, number


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres, straight up or down: each height goes to its place on a staircase.

    With t the height in steps, floor(t) + s(t - floor(t)); s goes from the line (sharpness 0) to a tread that is flat for
    that share of a step, followed by a smooth riser.
    """
    values = task.values
    step, sharp = number(values, "step"), number(values, "sharpness") / 100.0
    height = task.heights
    bend = number(values, "irregularity") / 100.0
    if bend:
        height = height + bend * step * fbm(task.level_places, 8.0 * step, 3, int(number(values, "seed")))
    t = height / step
    floor = np.floor(t)
    rise = np.clip((t - floor - sharp) / max(1.0 - sharp, 1e-6), 0.0, 1.0)
    stair = (1.0 - sharp) * (t - floor) + sharp * rise * rise * (3.0 - 2.0 * rise)
    return task.upward((floor + stair - t) * step * task.free)


RELIEF = Relief(
    name="terraces",
    label="Terraces",
    help="Turns slopes into steps.",
    settings=(
        Number(
            "step",
            "Step",
            "m",
            0.001,
            10_000.0,
            2.0,
            "Height from one tread to the next.",
            comfort=(0.1, 20.0),
            curve=3.0,
        ),
        Number("sharpness", "Sharpness", "%", 0.0, 95.0, 70.0, "Share of a step that is flat."),
        Number("irregularity", "Irregularity", "%", 0.0, 200.0, 30.0, "How much treads bend up and down."),
        SEED,
    ),
    lay=lay,
)
