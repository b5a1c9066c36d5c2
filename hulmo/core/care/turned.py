"""Faces turned over against their surroundings: folds that a stroke left behind."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles that face more than `limit` degrees away from the mean of the normals at their corners."""
    slots = live_slots(body)
    triangles = body.corners.triangles[slots]
    at = body.vertices["position"][triangles]
    normal = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    mean = body.vertices["normal"][triangles].sum(axis=1)
    size = np.linalg.norm(normal, axis=1) * np.linalg.norm(mean, axis=1)
    along = np.divide(np.einsum("ij,ij->i", normal, mean), size, out=np.ones_like(size), where=size > 0)
    off = np.degrees(np.arccos(np.clip(along, -1, 1)))
    bad = np.flatnonzero(off > limit).astype(np.int32)
    if not bad.size:
        return NOTHING
    return Found(bad.size, slots[worst_first(bad, off[bad])], f"{float(off.max()):.0f}° off its surroundings")


CHECK = Check(
    "turned", "Turned-over faces", "Triangles that face away from the surface around them: folds.",
    Number("limit", "Facing off by", "°", 60.0, 179.0, 100.0, "Triangles that face farther away count."),
    find, "remesh", "Unfold there", "Smooths the folds out and remeshes around them.",
)  # fmt: skip
