"""Moving, choosing and cutting by hand, on a small body and on a large one."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody, ChooseParts, Command, CutLevels, Extrude, MoveChosen
from hulmo.core.history import History
from hulmo.core.project import Project

EDGE = 0.1
CHOSEN = 10_000
EVENTS = 40


def bench_by_hand(say: Callable[[str], None], largest: int = 2_000_000) -> dict[str, Any]:
    """Milliseconds an event of a drag that moves 10,000 vertices with soft reach, on bodies of two sizes; choosing all
    vertices by a limit, pulling out faces, and cutting, beside one copy of the body's tables."""
    out: dict[str, Any] = {}
    typical = 0.0
    for triangles in (100_000, largest):
        side = round((triangles / 2) ** 0.5)
        history = History(Project())
        history.do(AddBody("sheet", {"size": side * EDGE, "depth": side * EDGE, "edge": EDGE}, "Land"))
        body = history.project.bodies[0]
        reach = 0.5 * (CHOSEN**0.5) * EDGE
        position = body.vertices["position"]
        rows = np.flatnonzero((np.abs(position[:, (0, 2)]) <= reach).all(axis=1))
        history.do(ChooseParts("Land", "vertex", "these", these=tuple(rows.tolist())))
        body.index  # noqa: B018 - as it is when somebody works
        times = []
        for event in range(EVENTS):
            begin = time.perf_counter()
            command = MoveChosen("Land", "vertex", (0.0, 0.02 * (event + 1), 0.0), reach=1.0)
            (history.do_instead if event else history.do)(command)
            times.append(1000 * (time.perf_counter() - begin))
        first, rest = times[0], times[1:]
        p50, p95 = (float(value) for value in np.percentile(rest, (50, 95)))
        typical = typical or p50
        entry = {"triangles": body.corners.count, "chosen": rows.size, "first_ms": round(first, 1)}
        entry |= {"p50_ms": round(p50, 2), "p95_ms": round(p95, 2), "times_small": round(p50 / typical, 2)}
        say(
            f"by hand, {rows.size:,} of {position.shape[0]:,} vertices moved with soft reach: p50 {p50:.1f} ms, "
            f"p95 {p95:.1f} ms an event (the first {first:.0f} ms), {p50 / typical:.2f} times the cost on 100,000 triangles"
        )
        begin = time.perf_counter()
        body.vertices.copy(), body.corners.copy()
        floor = time.perf_counter() - begin
        work: tuple[tuple[str, Command], ...] = (
            ("choose", ChooseParts("Land", "vertex", "height", low=-1e3, high=1e3)),
            ("extrude", Extrude("Land")),
            ("levels", CutLevels("Land", toward=(1.0, 0.0, 0.0), levels=2)),
        )
        for name, done in work:
            if name == "extrude":
                history.do(ChooseParts("Land", "vertex", "height", low=-1e3, high=1e3))
                history.do(ChooseParts("Land", "face", "as", source="vertex"))
            begin = time.perf_counter()
            history.do(done)
            taken = time.perf_counter() - begin
            history.undo()
            entry[f"{name}_s"], entry[f"{name}_over_floor"] = round(taken, 3), round(taken / floor, 1)
            say(f"  {name}: {taken:.3f} s, {taken / floor:.1f} times one copy of the tables")
        out[f"{triangles}"] = entry
    return out
