"""Tint: colour over the grounds, vertex by vertex."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import hex_to_linear
from hulmo.core.ground.brushes import stamped
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Colour

TINT = "tint"
"""Vertex column of width 4: colour times cover in linear light, then cover (0 to 1). What lies there is multiplied with
1 - cover + colour times cover; so no colour at all is zeros, and mixtures of vertices are plain means."""


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 4) new values: part of the way to the colour, or to none while inverted."""
    now = np.take(dab.body.vertices[TINT], dab.rows, axis=0)
    colour = np.zeros(4) if dab.invert else np.array([*hex_to_linear(str(dab.values["colour"]), "tint"), 1.0])
    part = np.minimum(dab.amount, np.float32(1.0))[:, None]
    return np.asarray(now + part * (colour.astype(np.float32) - now))


BRUSH = Brush(
    name="tint",
    label="Tint",
    help="Colours the grounds. Ctrl takes the colour away.",
    key="Shift+T",
    stage="ground",
    column=TINT,
    width=4,
    settings=(
        Colour("colour", "Colour", "#8a7a52", "What the grounds are multiplied with; white changes nothing."),
        *stamped.SETTINGS,
    ),
    apply=apply,
    inverse="Bleach",
    approaches=True,
    check=stamped.check,
    mask=stamped.mask,
)
