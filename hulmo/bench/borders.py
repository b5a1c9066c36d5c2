"""Stitching borders, and strokes that go over two bodies."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody, StitchBorders, Stroke
from hulmo.core.history import History
from hulmo.core.mesh.graph import close_pairs
from hulmo.core.mesh.seam import border_of
from hulmo.core.project import Project

BORDER = 10_000
EDGE = 0.1
UNDER = 10_000
DABS = 60


def bench_borders(say: Callable[[str], None], largest: int = 2_000_000) -> dict[str, Any]:
    """Seconds to stitch two borders of 10,000 vertices, beside SciPy's search of the same pairs; and milliseconds a dab of a
    stroke over two stitched bodies, beside one of the same size on a single body."""
    out = {"stitch": _stitch(say)}
    side = round((largest / 2) ** 0.5)
    radius = EDGE * (UNDER / np.pi) ** 0.5
    one = History(Project())
    one.do(AddBody("sheet", {"size": side * EDGE, "depth": side * EDGE, "edge": EDGE}, "A"))
    two = _pair(side // 2, side)
    two.do(StitchBorders())
    times = {}
    for name, history, over in (("one", one, ()), ("two", two, ("B",))):
        for body in history.project.bodies:
            body.index  # noqa: B018 - as it is when somebody works
        history.begin(Stroke("A", "raise", (), {"radius": float(radius), "spacing": 20.0}, over=over))
        taken = []
        for step in range(DABS):
            place = 0.2 * float(radius) * step - 0.1 * DABS * float(radius)
            begin = time.perf_counter()
            history.sample((0.3 * float(radius), 10.0, place, 0.0, -1.0, 0.0))
            taken.append(1000 * (time.perf_counter() - begin))
        history.finish()
        times[name] = np.percentile(taken[5:], (50, 95))
    ratio = float(times["two"][0] / times["one"][0])
    say(
        f"strokes over two stitched bodies, {largest:,} triangles in all: p50 {times['two'][0]:.1f} ms, p95 "
        f"{times['two'][1]:.1f} ms a dab of {UNDER:,} vertices; {ratio:.2f} times one on a single body of that size"
    )
    out["stroke"] = {"p50_ms": round(float(times["two"][0]), 2), "p95_ms": round(float(times["two"][1]), 2)}
    out["stroke"]["over_one"] = round(ratio, 2)
    return out


def _pair(across: int, along: int) -> History:
    history = History(Project())
    size = {"size": across * EDGE, "depth": along * EDGE, "edge": EDGE}
    for name, x in (("A", -across * EDGE / 2), ("B", across * EDGE / 2)):
        history.do(AddBody("sheet", size, name, (x, 0.0, 0.0)))
    return history


def _stitch(say: Callable[[str], None]) -> dict[str, Any]:
    history = _pair(20, BORDER)
    bodies = history.project.bodies
    points = np.concatenate([body.placed(body.vertices["position"][border_of(body)]) for body in bodies])
    begin = time.perf_counter()
    close_pairs(points, 1e-3)
    floor = time.perf_counter() - begin
    begin = time.perf_counter()
    history.do(StitchBorders())
    taken = time.perf_counter() - begin
    say(
        f"stitching two borders of {BORDER:,} vertices: {taken:.3f} s, {taken / floor:.1f} times SciPy's search of the same "
        "pairs"
    )
    return {"s": round(taken, 4), "over_floor": round(taken / floor, 1)}
