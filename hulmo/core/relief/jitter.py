"""Jitter: every vertex moves a random way off."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.relief.relief import SEED, Relief, Task
from hulmo.core.setting import Choice, Number, number


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres: even in a ball of radius `height`, or between -height and height along the normal."""
    values = task.values
    rng = np.random.default_rng(int(number(values, "seed")))
    height, count = np.float32(number(values, "height")), task.position.shape[0]
    if values["way"] == "normal":
        step = np.asarray(rng.uniform(-1.0, 1.0, count), np.float32) * height
        return np.asarray(task.normal * (step * task.free)[:, None], np.float32)
    way = rng.standard_normal((count, 3)).astype(np.float32)
    way /= np.maximum(np.linalg.norm(way, axis=1), np.float32(1e-9))[:, None]
    step = np.asarray(np.cbrt(rng.uniform(0.0, 1.0, count)), np.float32) * height
    return np.asarray(way * (step * task.free)[:, None], np.float32)


RELIEF = Relief(
    name="jitter",
    label="Jitter",
    help="Moves every vertex a little, at random.",
    settings=(
        Number(
            "height", "Height", "m", 0.0, 1000.0, 0.05, "How far a vertex moves at the most.", comfort=(0.0, 2.0), curve=3.0,
        ),
        Choice(
            "way",
            "Way",
            (("normal", "Normals", "Along its own normal."), ("any", "Any way", "In any direction.")),
            "normal",
            "Which way a vertex moves.",
        ),
        SEED,
    ),
    lay=lay,
)  # fmt: skip
