"""Vertices where too many edges meet: shading shows a star there."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Vertices with more than `limit` edges."""
    slots = live_slots(body)
    triangles = body.corners.triangles[slots]
    around = np.bincount(triangles.reshape(-1), minlength=body.vertices.count)
    border = body.corners.border_corners()
    around[body.corners.vertex[border - border % 3 + (border + 1) % 3]] += (
        1  # a border fan has an edge more than triangles
    )
    at = around[triangles].max(axis=1)
    count = int((around > limit).sum())
    if not count:
        return NOTHING
    bad = np.flatnonzero(at > limit).astype(np.int32)
    return Found(count, slots[worst_first(bad, at[bad])], f"{int(around.max())} edges at one vertex")


CHECK = Check(
    "valence", "Crowded vertices", "Vertices where many edges meet. Shading shows a star there.",
    Number("limit", "Edges over", "", 6, 40, 8, "Vertices with more edges count.", whole=True),
    find, "remesh", "Remesh there", "Flips, splits and joins edges around them toward six at every vertex; the shape stays.",
)  # fmt: skip
