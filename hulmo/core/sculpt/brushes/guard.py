"""Guard: keep surface from every change, or free it again."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import GUARD
from hulmo.core.sculpt.brush import Brush, Dab


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 1) new protection, 0 free to 1 kept: more by the amount, or less while inverted."""
    had = np.take(dab.body.vertices[GUARD], dab.rows, axis=0)
    step = -dab.amount if dab.invert else dab.amount
    return np.asarray(np.clip(had + step[:, None], 0.0, 1.0), np.float32)


BRUSH = Brush(
    name="guard",
    label="Guard",
    help="Keeps surface from every change. Ctrl frees it.",
    key="Q",
    stage="sculpt",
    group="Keep",
    column=GUARD,
    settings=(),
    apply=apply,
    inverse="Unguard",
    defaults=(("strength", 100.0), ("core", 60.0)),
)
