"""Slump: let loose material slide downhill to its angle of repose."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.slide import lie_of, slide, whole_triangles
from hulmo.core.setting import Number, number

SWEEPS = 2
"""Passes over the triangles that one dab makes; the stroke goes on where one dab left off."""

ANGLE = Number(
    "angle", "Angle of repose", "°", 5.0, 80.0, 34.0, "What is steeper slides. Dry sand 34, angular scree 37 to 40.",
    comfort=(20.0, 60.0),
)  # fmt: skip


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: material of triangles that are too steep, moved to their lower corners.

    Only triangles that lie within the brush with all corners take part, so its rim stays and volume is kept.
    """
    triangles = whole_triangles(dab.body, dab.triangles, dab.rows)
    position = np.take(dab.surface, dab.rows, axis=0).astype(np.float64)
    normal = np.take(dab.body.vertices["normal"], dab.rows, axis=0)
    up = dab.body.up(position)
    free = np.minimum(dab.amount, np.float32(1.0))
    moved, _ = slide(
        position, normal, triangles, free, number(dab.values, "angle"), SWEEPS, lie_of(normal, triangles, up, 0), up
    )
    return moved.astype(np.float32)


BRUSH = Brush(
    name="slump",
    label="Slump",
    help="Lets loose material slide to its angle of repose.",
    key="K",
    stage="sculpt",
    group="Flatten",
    column="position",
    settings=(ANGLE,),
    apply=apply,
    defaults=(("build_up", "stacking"), ("strength", 100.0), ("core", 50.0), ("radius", 6.0)),
)
