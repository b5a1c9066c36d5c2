"""Double vertices: two in the same place, and a seam that opens under the brush."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.graph import close_pairs
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Vertices with another one within `limit` metres."""
    rows = np.flatnonzero(body.corners.first_corner >= 0)
    position = body.vertices["position"][rows]
    pairs = close_pairs(position, limit)
    if not pairs.size:
        return NOTHING
    double = np.zeros(body.vertices.count, np.bool_)
    double[rows[pairs]] = True
    slots = live_slots(body)
    apart = np.linalg.norm(position[pairs[:, 0]] - position[pairs[:, 1]], axis=1)
    at_fault = slots[any_of(double, body.corners.triangles[slots])]
    return Found(int(double.sum()), at_fault, f"two vertices {1000 * float(apart.min()):.2g} mm apart")


CHECK = Check(
    "doubles", "Double vertices", "Vertices in the same place that are not joined.",
    Number("limit", "Closer than", "m", 1e-6, 10.0, 0.0005, "Vertices that are closer to each other count.", curve=3.0),
    find, "weld", "Weld", "Makes vertices that close one.",
)  # fmt: skip
