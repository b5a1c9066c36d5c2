"""Infill: bring the surface to a plane, only what lies below."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.plane import SETTINGS, toward_plane


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: only what lies below moves toward the plane."""
    return toward_plane(dab, above=False, below=True)


BRUSH = Brush(
    name="infill",
    label="Infill",
    help="Fills only what lies below a plane.",
    key="N",
    stage="sculpt",
    group="Flatten",
    column="position",
    settings=SETTINGS,
    apply=apply,
    defaults=(("build_up", "stacking"), ("strength", 80.0)),
)
