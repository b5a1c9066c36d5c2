"""Ridges and hollows of a typed size."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure, Rows
from hulmo.core.mesh.rounding import WAYS, rounding
from hulmo.core.mesh.sampled import SPREADINGS, sampled, sparseness
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.setting import Number, Values, number
from hulmo.core.workers import WORKERS, side_by_side

EDGES = 2.0
"""Edges that a scale may hold for every vertex from one sample to the next."""


FEW = 20_000
"""Vertices up to which threads do not pay."""


def of(asked: Asked) -> Figures:
    """(K,) how far the surface stands out from, or lies in below, its surroundings: percent of the scale.

    The mean curvature at that scale times the scale: 100 on a ball whose radius is the scale, negative in hollows.
    """
    body, scale = asked.body, number(asked.values, "scale")
    position, normal = body.vertices["position"], body.vertices["normal"]

    ways = 3 if asked.edge else WAYS

    def part(rows: Rows) -> Figures:
        return rounding(position, normal, body.corners, rows, scale, ways)

    def measured(rows: Rows) -> Figures:
        if rows.size < FEW:
            return part(rows)
        return np.concatenate(side_by_side(part, np.array_split(rows, 4 * WORKERS)))

    sparse = _sparse(asked.edge or mean_edge(body), scale)
    if asked.edge:
        sparse = min(4 * sparse, max(SPREADINGS))
    return sampled(body, asked.rows, sparse, measured) * np.float32(100.0 * scale)


def reach(values: Values, edge: float) -> tuple[float, float]:
    """The scale and the way over which samples are spread; and that way again. See `Measure.reach`."""
    scale = number(values, "scale")
    spread = 1.5 * SPREADINGS[_sparse(edge, scale)] * edge
    return scale + spread, spread


def _sparse(edge: float, scale: float) -> int:
    return sparseness((scale / (EDGES * edge)) ** 2)


MEASURE = Measure(
    "bend", "Ridge or hollow", "Above 0 on ridges and bumps, below 0 in hollows and along the foot of walls.", "%", -100.0,
    100.0, (None, -10.0, 0.0, 10.0),
    (
        Number("scale", "Scale", "m", 0.01, 1000.0, 2.0, "Size of the ridges and hollows that count: what is rounded with "
               "this radius measures 100 %.", comfort=(0.1, 40.0), curve=3.0),
    ),
    of, reach=reach, cost=2,
)  # fmt: skip
