"""Lengths that suit the size of what is worked on, until somebody chooses others."""

import math

import numpy as np

from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Number, Setting, Value

LENGTHS = ("radius", "height", "size", "thickness", "edge", "step", "tile")
"""Settings in metres that are larger on larger bodies."""

USUAL, SMALL, LARGE = 30.0, 8.0, 100.0
"""Metres that a body measures for which the defaults are made, and between which they stay as they are."""


def length_scale(body: Body | None) -> float:
    """What default lengths are multiplied with for a body."""
    if body is None or not body.vertices.count:
        return 1.0
    low, high = low_high(body.vertices["position"])
    extent = float((high - low).max())
    return 1.0 if SMALL <= extent <= LARGE or not extent > 0 else extent / USUAL


def fitted(setting: Setting, scale: float) -> Value:
    """The default of a setting, for bodies of some size: a round number within its range."""
    default = setting.default
    if scale == 1.0 or not isinstance(setting, Number) or setting.unit != "m" or setting.name not in LENGTHS:
        return default
    value = setting.default * scale
    step = 10.0 ** (math.floor(math.log10(value)) - 1) * 5 if value > 0 else 1.0
    return float(np.clip(max(round(value / step), 1) * step, setting.low, setting.high))
