"""Triangles pulled too long: textures and detail tear there."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles with an edge more than `limit` times as long as is usual; see `usual_edge`."""
    slots = live_slots(body)
    triangles = body.corners.triangles[slots]
    times = side_lengths(body.vertices["position"], triangles).max(axis=1) / usual_edge(body)
    bad = np.flatnonzero(times > limit).astype(np.int32)
    if not bad.size:
        return NOTHING
    return Found(bad.size, slots[worst_first(bad, times[bad])], f"{float(times.max()):.1f} times as long")


def usual_edge(body: Body) -> float:
    """Edge length of the form, below relief layers, as one meets it over the surface: the mean weighted by area, metres.

    Weighted, so that a place that was refined on purpose does not make the rest of the body look stretched.
    """
    form, triangles = body.vertices[REST if body.layers else "position"], body.corners.live_triangles()
    sides = side_lengths(form, triangles).astype(np.float64)
    half = sides.sum(axis=1) / 2
    # Heron's formula
    area = np.sqrt(np.maximum(half * (half[:, None] - sides).prod(axis=1), 0.0))
    total = float(area.sum())
    return max(float(area @ sides.mean(axis=1)) / total if total > 0 else 0.0, 1e-12)


CHECK = Check(
    "stretched", "Stretched triangles", "Triangles pulled long by relief or by a brush; textures tear there.",
    Number("limit", "Longer by", "times", 1.1, 100.0, 4.0, "Triangles with an edge so many times as long as is usual on "
           "the form, the body below its relief layers, count.", comfort=(1.5, 15.0)),
    find, "remesh", "Refine there", "Splits their edges; the shape stays.",
)  # fmt: skip
