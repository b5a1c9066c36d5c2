"""Borders between grounds on triangles too large to show them."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots, worst_first
from hulmo.core.care.stretched import usual_edge
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.progress import Progress
from hulmo.core.setting import Number

GAP = 0.34
"""Change of a ground's weight within a triangle from which a border runs through it."""


ASKED = 0.72
"""Share of the limit that edges are split to, so that none is left that is longer."""

USUAL = 1.5
"""Times the usual edge of a body from which edges count where no limit is typed."""


def limit_of(body: Body, limit: float) -> float:
    """The limit in metres: what was typed, or for 0 what suits the edges of the body."""
    return limit or USUAL * usual_edge(body)


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles with an edge longer than `limit` metres through which a border runs; 0: see `limit_of`."""
    if WEIGHT not in body.vertices:
        return NOTHING
    limit = limit_of(body, limit)
    slots = live_slots(body)
    triangles = body.corners.triangles[slots]
    longest = side_lengths(body.vertices["position"], triangles).max(axis=1)
    long = np.flatnonzero(longest > limit)
    weight = body.vertices[WEIGHT][triangles[long]]
    bad = long[(weight.max(axis=1) - weight.min(axis=1)).max(axis=1) >= GAP].astype(np.int32)
    if not bad.size:
        return NOTHING
    return Found(bad.size, slots[worst_first(bad, longest[bad])], f"an edge of {float(longest[bad].max()):.2g} m")


def refined_count(body: Body, limit: float, progress: Progress) -> int:
    """About how many triangles refining there adds: each that is too large becomes as many as its longest edge is too long,
    squared."""
    found = find(body, limit, progress)
    if not found.count:
        return 0
    longest = side_lengths(body.vertices["position"], body.corners.triangles[found.triangles]).max(axis=1)
    parts = np.ceil(longest / (ASKED * limit_of(body, limit)))
    return int((parts**2 - 1).sum())


CHECK = Check(
    "border", "Coarse for its border", "A border between grounds can only be as sharp as the triangles under it.",
    Number("limit", "Edges longer than", "m", 0.0, 100.0, 0.0, "Edges up to this length show a border as sharp as it is "
           "wanted. 0 takes half as long again as is usual on the body.", comfort=(0.0, 4.0), curve=3.0),
    find, "remesh", "Refine there", "Splits edges along borders until they are no longer than that; the shape stays.",
)  # fmt: skip
