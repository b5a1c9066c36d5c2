"""Shave: bring the surface to a plane, only what stands above."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.plane import SETTINGS, toward_plane


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: only what stands above moves toward the plane."""
    return toward_plane(dab, above=True, below=False)


BRUSH = Brush(
    name="shave",
    label="Shave",
    help="Cuts only what stands above a plane.",
    key="X",
    stage="sculpt",
    group="Flatten",
    column="position",
    settings=SETTINGS,
    apply=apply,
    defaults=(("build_up", "stacking"), ("strength", 80.0)),
)
