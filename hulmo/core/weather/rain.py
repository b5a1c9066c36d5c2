"""Rain that carves, carries and lays down, over years."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.progress import Progress, silent
from hulmo.core.weather.flow import flow_of
from hulmo.core.weather.graph import Graph

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]
Single = NDArray[np.float32]

MOST_STEPS = 60
"""Steps of one run; years only make them longer, since each is solved implicitly."""


@dataclass(frozen=True)
class Climate:
    """What the weather is like.

    Attributes
    ----------
    years : float
    soft : (N,) float64
        How fast rock gives way: metres a year at slope 1 for a square metre that drains through, to the power `m`.
    m : float
        Power of what drains through in the law of incision.
    grain : float
        How soon what is carried is laid down again (G of Yuan et al.): 0 never, 1 soon.
    angle : float
        Degrees from which what was worn slides down.
    slide : float
        Share of what is too steep that slides in a step, 0 to 1.
    lift : (N,) or float
        Metres a year by which the ground rises.
    steps : int
    """

    years: float
    soft: Vector
    m: float = 0.5
    grain: float = 0.5
    angle: float = 40.0
    slide: float = 0.0
    lift: Vector | float = 0.0
    steps: int = 20


@dataclass
class Weathered:
    """What the weather did.

    Attributes
    ----------
    height : (N,) float64
        Metres.
    flow : (N,) float64
        Square metres that drain through.
    worn, laid : (N,) float64
        Metres carried off and laid down, all years together.
    gone : float
        Cubic metres that have left.
    """

    height: Vector
    flow: Vector
    worn: Vector
    laid: Vector
    gone: float = 0.0
    history: list[float] = field(default_factory=list)


@kernel("void(int32[::1], int32[::1], float32[::1], float64[::1], float64[::1], float64, float64, float64[::1])")
def _carve(
    order: Rows, to: Rows, far: Single, drained: Vector, soft: Vector, years: float, m: float, height: Vector
) -> None:
    # h = (h + F h_down) / (1 + F), from where water leaves upward: implicit, however many years a step has
    for here in order:
        down = to[here]
        if down == here or height[down] >= height[here] or soft[here] <= 0.0:
            continue
        power = np.sqrt(drained[here]) if m == 0.5 else drained[here] ** m
        f = soft[here] * years * power / far[here]
        height[here] = (height[here] + f * height[down]) / (1.0 + f)


@kernel(
    "float64(int32[::1], int32[::1], int32[::1], int32[::1], float64[::1], float64[::1], float64[::1], float64[::1], "
    "float64[::1], float64, float64[::1], float64[::1])"
)
def _lay(
    order: Rows, to: Rows, first: Rows, other: Rows, area: Vector, drained: Vector, spill: Vector, worn: Vector,
    free: Vector, grain: float, height: Vector, laid: Vector,
) -> float:  # fmt: skip
    # what was worn goes down with the water; laid down as it spreads, and in pits; returns what leaves
    carried = np.zeros(height.size, np.float64)
    above = np.full(height.size, np.inf)
    gone = 0.0
    for k in range(order.size - 1, -1, -1):
        here = order[k]
        load = carried[here] + worn[here] * area[here]
        down = to[here]
        if load > 0.0 and area[here] > 0.0 and free[here] > 0.0 and down != here:
            # no higher than half way to the lowest who gives to it; a pit is filled as far as what lies around it
            drop = grain * load * area[here] / max(drained[here], area[here])
            room = 0.5 * (above[here] - height[here]) if above[here] < np.inf else 0.0
            if spill[here] > height[here]:
                drop = load
                rim = spill[here]
                for j in range(first[here], first[here + 1]):
                    rim = min(rim, height[other[j]])
                room = max(room, rim - height[here])
            drop = min(drop, load, max(room, 0.0) * area[here]) * free[here]
            height[here] += drop / area[here]
            laid[here] += drop / area[here]
            load -= drop
        if down == here:
            gone += load
        else:
            carried[down] += load
            above[down] = min(above[down], height[here])
    return gone


@kernel(
    "void(int32[::1], int32[::1], float32[::1], float64[::1], float64[::1], float64, float64, float64[::1], float64[::1], "
    "float64[::1])"
)
def _slump(
    order: Rows, to: Rows, far: Single, area: Vector, free: Vector, tangent: float, share: float, height: Vector,
    worn: Vector, laid: Vector,
) -> None:  # fmt: skip
    # what stands too steep above where its water goes comes down there, from above downward
    for k in range(order.size - 1, -1, -1):
        here = order[k]
        down = to[here]
        if down == here or area[here] <= 0.0 or area[down] <= 0.0:
            continue
        excess = height[here] - height[down] - tangent * far[here]
        give = min(free[here], free[down])
        if excess <= 0.0 or give <= 0.0:
            continue
        # as much as brings the two to the angle, what one loses the other gains
        moved = give * share * excess / (1.0 / area[here] + 1.0 / area[down])
        height[here] -= moved / area[here]
        height[down] += moved / area[down]
        worn[here] += moved / area[here]
        laid[down] += moved / area[down]


def rained(
    graph: Graph,
    height: Vector,
    area: Vector,
    rain: Vector,
    leaves: NDArray[np.bool_],
    free: Vector,
    climate: Climate,
    progress: Progress | None = None,
) -> Weathered:
    """A surface after years of rain.

    Parameters
    ----------
    graph : Graph
    height : (N,) float64
        Metres above the sea.
    area : (N,) float64
        Square metres of each vertex as seen from above; 0 where rock hangs over and keeps its shape.
    rain : (N,) float64
        What falls on a square metre, 1 being usual.
    leaves : (N,) bool
        Where water and what it carries leave.
    free : (N,) float64
        0 keeps a vertex where it is, 1 lets it go all the way.
    climate : Climate
    progress : Progress, optional

    Notes
    -----
    Incision by stream power, dh/dt = U - K A^m S, solved implicitly from below upward (Braun and Willett, "A very efficient
    O(n), implicit and parallel method to solve the stream power equation", 2013); what is carried is laid down at G times
    its load over what drains through (Yuan, Braun, Guerit, Rouby and Cordonnier, "A new efficient method to solve the stream
    power law model taking into account sediment deposition", 2019), one after the other within a step.
    """
    progress = progress or silent()
    out = Weathered(np.array(height, np.float64), np.zeros(height.size), np.zeros(height.size), np.zeros(height.size))
    steps = min(max(int(climate.steps), 1), MOST_STEPS)
    years = climate.years / steps
    tangent = math.tan(math.radians(climate.angle))
    soft = np.ascontiguousarray(climate.soft * free, np.float64)
    fallen = np.ascontiguousarray(rain * area, np.float64)
    free = np.ascontiguousarray(free, np.float64)
    for done in range(steps):
        progress.step(done / steps, f"rain, year {round(done * years):,}")
        if np.any(climate.lift):
            out.height += np.where(leaves, 0.0, climate.lift) * years
        flow = flow_of(graph, out.height, leaves)
        out.flow = flow.gathered(fallen)
        before = out.height.copy()
        _carve(flow.order, flow.to, flow.far, out.flow, soft, years, climate.m, out.height)
        worn = before - out.height
        worn[area <= 0] = 0.0
        out.worn += worn
        if climate.grain > 0:
            spill = np.where(flow.spill > before, flow.spill, -np.inf)
            out.gone += float(
                _lay(
                    flow.order, flow.to, graph.first, graph.other, area, out.flow, spill, worn, free, climate.grain,
                    out.height, out.laid,
                )
            )  # fmt: skip
        else:
            out.gone += float(worn @ area)
        if climate.slide > 0:
            _slump(flow.order, flow.to, flow.far, area, free, tangent, climate.slide, out.height, out.worn, out.laid)
        out.history.append(float(np.abs(out.height - before).max(initial=0.0)))
    return out
