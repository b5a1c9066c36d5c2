"""Pinch / Spread: draw the surface together along itself, or push it apart."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab

REACH = 0.5
"""Share of the way to the middle that a full amount goes; all of it would fold triangles over the middle."""


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: toward the middle of the dab, but only along the surface (no row changes height).

    The way is the part of (centre - p) that is square to the row's normal.
    """
    position = np.take(dab.surface, dab.rows, axis=0)
    normal = np.take(dab.body.vertices["normal"], dab.rows, axis=0)
    way = dab.centre.astype(np.float32) - position
    way -= normal * np.einsum("ij,ij->i", way, normal)[:, None]
    share = np.minimum(dab.amount, np.float32(1.0)) * np.float32(-REACH if dab.invert else REACH)
    position += way * share[:, None]
    return position


BRUSH = Brush(
    name="pinch",
    label="Pinch / Spread",
    help="Draws the surface together. Ctrl pushes it apart.",
    key="P",
    stage="sculpt",
    group="Shape",
    column="position",
    settings=(),
    apply=apply,
    inverse="Spread",
    defaults=(("build_up", "stacking"), ("strength", 60.0)),
)
