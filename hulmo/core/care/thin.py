"""Thin triangles: they light badly and make brushes stumble."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.thin import THIN, shapes_of
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles whose smallest angle is under `limit` degrees."""
    slots = live_slots(body)
    angle, aspect = shapes_of(body.vertices["position"], body.corners.triangles[slots])
    bad = angle < limit
    if not bad.any():
        return NOTHING
    order = worst_first(np.flatnonzero(bad).astype(np.int32), -angle[bad])
    first = order[0]
    times = f"{aspect[first]:,.0f} times as long as high" if np.isfinite(aspect[first]) else "no area at all"
    return Found(int(bad.sum()), slots[order], f"{angle[first]:.2g}°, {times}")


CHECK = Check(
    "thin", "Thin triangles", "Triangles with a very small angle. They light badly.",
    Number("limit", "Smallest angle under", "°", 0.1, 45.0, THIN, "Triangles with a smaller angle count."),
    find, "remesh", "Remesh there", "Joins, splits and flips edges around them; the shape stays.",
)  # fmt: skip
