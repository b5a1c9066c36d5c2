"""Triangles that pierce or cover each other: the surface runs through itself."""

from hulmo.core.care.check import NOTHING, Check, Found
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number
from hulmo.core.topology.crossing import crossing


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Triangles that pierce or cover others, when there are more than `limit` of them."""
    bad = crossing(body, progress)
    return Found(bad.size, bad, f"{bad.size:,} triangles in or on others") if bad.size > limit else NOTHING


CHECK = Check(
    "crossing", "Crossing faces", "Triangles that pierce or cover others: the surface runs through itself.",
    Number("limit", "More than", "", 0, 1_000_000, 0, "So many are passed over.", whole=True),
    find, "remesh", "Untangle there",
    "Smooths the surface around them until it does not run through itself any more, no farther than it takes.",
)  # fmt: skip
