"""What it costs a dab that down is toward a centre."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody, SetDown, Stroke
from hulmo.core.history import History
from hulmo.core.project import Project

RADIUS = 10.0
UNDER = 10_000
DABS = 40
ROUNDS = 3


def bench_down(say: Callable[[str], None], largest: int = 2_000_000) -> dict[str, Any]:
    """Milliseconds a dab straight up on a ball, with down toward its centre and with down the same everywhere, in turn."""
    history = History(Project())
    edge = RADIUS * (4 * np.pi / (largest * 3**0.5 / 4)) ** 0.5
    history.do(AddBody("icosphere", {"radius": RADIUS, "edge": float(edge)}, "Ball"))
    body = history.project.bodies[0]
    body.index  # noqa: B018 - as it is when somebody works
    radius = float(2 * RADIUS * (UNDER / body.vertices.count) ** 0.5)
    times: dict[str, list[float]] = {"level": [], "centre": []}
    for kind in ("level", "centre") * ROUNDS:
        history.do(SetDown("Ball", kind))
        history.begin(Stroke("Ball", "raise", (), {"radius": radius, "spacing": 20.0, "direction": "up"}))
        for step in range(DABS):
            turn = 0.2 * radius / RADIUS * step
            way = np.array((np.cos(turn), 0.3, np.sin(turn))) / np.hypot(1.0, 0.3)
            begin = time.perf_counter()
            history.sample((*(3 * RADIUS * way).tolist(), *(-way).tolist()))
            if step > 2:
                times[kind].append(1000 * (time.perf_counter() - begin))
        history.finish()
        history.undo()
    level, centre = (float(np.median(times[kind])) for kind in ("level", "centre"))
    say(
        f"down toward a centre, {body.corners.count:,} triangles: {centre:.2f} ms a dab of {UNDER:,} vertices, "
        f"{centre / level:.2f} times one with down the same everywhere"
    )
    return {"p50_ms": round(centre, 2), "over_level": round(centre / level, 3)}
