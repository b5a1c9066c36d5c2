"""Faces turned over against their surroundings: folds that a stroke left behind."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles that face more than `limit` degrees away from one across an edge."""
    slots = live_slots(body)
    corners = body.corners
    at = body.vertices["position"][corners.triangles[slots]].astype(np.float64)
    normal = np.zeros((corners.count, 3))
    facing = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    normal[slots] = facing / np.maximum(np.linalg.norm(facing, axis=1), 1e-300)[:, None]
    across = corners.opposite.reshape(-1, 3)[slots]
    along = np.ones(slots.size)
    for side in range(3):
        there = across[:, side] >= 0
        bend = np.einsum("ij,ij->i", normal[slots[there]], normal[across[there, side] // 3])
        along[there] = np.minimum(along[there], bend)
    off = np.degrees(np.arccos(np.clip(along, -1, 1)))
    bad = np.flatnonzero(off > limit).astype(np.int32)
    if not bad.size:
        return NOTHING
    return Found(bad.size, slots[worst_first(bad, off[bad])], f"{float(off.max()):.0f}° between two neighbours")


CHECK = Check(
    "turned", "Turned-over faces", "Triangles folded over onto their neighbours.",
    Number("limit", "Folded by more than", "°", 60.0, 179.0, 140.0, "Triangles bent farther away from a neighbour count."),
    find, "remesh", "Unfold there", "Smooths the folds out and remeshes around them.",
)  # fmt: skip
