"""Vertices where too many edges meet: shading shows a star there."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Vertices with more than `limit` triangles around them."""
    slots = live_slots(body)
    triangles = body.corners.triangles[slots]
    around = np.bincount(triangles.reshape(-1), minlength=body.vertices.count)
    at = around[triangles].max(axis=1)
    count = int((around > limit).sum())
    if not count:
        return NOTHING
    bad = np.flatnonzero(at > limit)
    return Found(count, slots[bad[np.argsort(-at[bad], kind="stable")]], f"{int(around.max())} edges at one vertex")


CHECK = Check(
    "valence", "Crowded vertices", "Vertices where many edges meet. Shading shows a star there.",
    Number("limit", "Edges over", "", 6, 40, 8, "Vertices with more edges count.", whole=True),
    find, "remesh", "Remesh there", "Flips edges around them toward six at every vertex; the shape stays.",
)  # fmt: skip
