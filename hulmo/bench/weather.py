"""Weather over a body of a million vertices."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from hulmo.core.commands import AddBody, LayRelief
from hulmo.core.history import History
from hulmo.core.project import Project

STEPS = 20


def bench_weather(say: Callable[[str], None], vertices: int = 1_000_000) -> dict[str, Any]:
    """Seconds for twenty steps of rain, the whole command included, beside one walk of SciPy's over the same edges from the
    border inward, which is about what finding the way of the water takes at each step."""
    side = round(vertices**0.5) - 1
    history = History(Project())
    history.do(AddBody("sheet", {"size": side * 0.1, "depth": side * 0.1, "edge": 0.1}, "Land"))
    history.do(LayRelief("Land", "noise", {"height": 6.0, "size": 25.0}))
    body = history.project.bodies[0]
    triangles, count = body.corners.triangles, body.vertices.count
    position = body.vertices["position"].astype(np.float64)
    a, b = triangles.reshape(-1), triangles[:, (1, 2, 0)].reshape(-1)
    drop = np.maximum(position[b, 1] - position[a, 1], 0.0) + 1e-9
    graph = coo_array((drop, (a, b)), (count, count)).tocsr()
    begin = time.perf_counter()
    dijkstra(graph, indices=0)
    floor = time.perf_counter() - begin
    begin = time.perf_counter()
    history.do(LayRelief("Land", "weather", {"steps": STEPS}))
    taken = time.perf_counter() - begin
    say(
        f"weather, {STEPS} steps over {count:,} vertices: {taken:.1f} s, {taken / STEPS:.2f} s a step, "
        f"{taken / STEPS / floor:.2f} times one walk of SciPy's over the same edges"
    )
    return {"s": round(taken, 2), "step_s": round(taken / STEPS, 3), "step_over_floor": round(taken / STEPS / floor, 2)}
