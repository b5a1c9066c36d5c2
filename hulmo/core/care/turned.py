"""Faces turned over against their surroundings: folds that a stroke left behind."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.mesh.bends import bends
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles that face more than `limit` degrees away from one across an edge."""
    slots = live_slots(body)
    off = bends(body, slots)
    bad = np.flatnonzero(off > limit).astype(np.int32)
    if not bad.size:
        return NOTHING
    return Found(bad.size, slots[worst_first(bad, off[bad])], f"{float(off.max()):.0f}° between two neighbours")


CHECK = Check(
    "turned", "Turned-over faces", "Triangles folded over onto their neighbours.",
    Number("limit", "Folded by more than", "°", 60.0, 179.0, 140.0, "Triangles bent farther away from a neighbour count."),
    find, "remesh", "Unfold there", "Smooths the folds out and remeshes around them.",
)  # fmt: skip
