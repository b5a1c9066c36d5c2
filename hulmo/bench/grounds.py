"""Painting with eight grounds, ground rules over a million vertices, and what blended grounds cost to draw."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.bench.strokes import RADIUS, both, percentiles, places, sphere
from hulmo.core.commands import AddGround, SetRules, Stroke, UseRules
from hulmo.core.ground.measures import MEASURES
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.mesh.row_ranges import row_ranges
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

REPEATS = 24

DAB = 10_000
"""Vertices under one dab."""

PICTURE = (640, 480)

BRUSHES = ("lay", "lift", "feather", "set", "give_back", "tint")


def bench_grounds(say: Callable[[str], None], bandwidth: float, largest: int) -> dict[str, Any]:
    """Dabs of every paint brush with eight grounds; the rules of the sea stack; the picture of eight grounds against one."""
    out: dict[str, Any] = {"paint": [], "rules": {}}
    for size in (entry for entry in (100_000, 4_000_000) if entry <= largest):
        history = _with_grounds(size)
        body = history.project.bodies[0]
        say(f"paint with 8 grounds on {body.corners.count:,} triangles")
        for brush in BRUSHES:
            taken, rows = _dabs(history, brush)
            first = next((entry for entry in out["paint"] if entry["brush"] == brush), None)
            floor = 1000 * rows * 4 * 2 * 2 * 8 / bandwidth
            entry = {
                "brush": brush, "triangles": body.corners.count, "touched": rows, "dab_ms": both(taken),
                "floor_ms": round(floor, 4),
                "over_smallest_body": 1.0 if first is None else round(taken[0] / first["dab_ms"]["p50"], 2),
            }  # fmt: skip
            out["paint"].append(entry)
            say(
                f"  {brush}: p50 {taken[0]:.2f} ms, p95 {taken[1]:.2f} ms, floor {floor:.2f} ms, "
                f"{entry['over_smallest_body']} times the cost on the smallest body"
            )
    out["rules"] = _rules(say, min(2_000_000, largest))
    out["picture"] = _pictures(say)
    return out


def _with_grounds(size: int) -> History:
    history = sphere(size)
    for texture in ("scree", "frost", "peat", "heath"):
        history.do(AddGround(texture))
    return history


def _radius(count: int) -> float:
    return float(min(2 * RADIUS * np.sqrt(DAB / count), 2 * RADIUS))


def _dabs(history: History, brush: str) -> tuple[tuple[float, float], int]:
    body = history.project.bodies[0]
    ground = history.project.grounds[3].name if brush in ("lay", "lift", "set") else ""
    settings = {"radius": _radius(body.vertices.count), "strength": 80.0}
    if brush in ("lift", "feather", "give_back"):  # something to take away
        history.do(SetRules("Ball", ()))
        body.vertices["weight"][:] = np.float32(1 / 8)
        body.vertices["hand"][:] = np.float32(1 / 8)
    taken, touched = [], []
    for origin, direction in places(REPEATS, 3):
        history.begin(Stroke("Ball", brush, (), settings, ground))
        begun = time.perf_counter()
        change = history.sample((*origin.tolist(), *direction.tolist()))
        for _, _, rows in change.rows:
            row_ranges(rows)
        taken.append(time.perf_counter() - begun)
        touched.append(max(rows.size for _, _, rows in change.rows))
        if history.finish() is not None:
            history.undo()
    return percentiles(taken[3:]), round(float(np.mean(touched)))


def _rules(say: Callable[[str], None], size: int) -> dict[str, Any]:
    history = sphere(size)
    body = history.project.bodies[0]
    out: dict[str, Any] = {"vertices": body.vertices.count}
    start = time.perf_counter()
    history.do(UseRules("Ball", "sea_stack"))
    out["sea_stack_s"] = round(time.perf_counter() - start, 3)
    say(f"rules of the sea stack over {body.vertices.count:,} vertices, all measures taken: {out['sea_stack_s']:.2f} s")
    start = time.perf_counter()
    history.do(SetRules("Ball", (*body.rules[:-1], Rule("Shell sand", body.rules[-1].conditions, 0.8))))
    out["again_s"] = round(time.perf_counter() - start, 3)
    say(f"  one rule changed: {out['again_s']:.2f} s")
    taken = []
    settings = {"radius": _radius(body.vertices.count), "height": 0.02, "strength": 100.0}
    for origin, direction in places(REPEATS, 4):
        history.begin(Stroke("Ball", "raise", (), settings))
        stroke = history._stroke
        assert stroke is not None
        follower = stroke._parts[0]._follower
        assert follower is not None
        after, spent = follower.after, [0.0]

        def timed(touched: Any, after: Any = after, spent: list[float] = spent) -> Any:
            begun = time.perf_counter()
            done = after(touched)
            spent[0] += time.perf_counter() - begun
            return done

        follower.after = timed  # type: ignore[method-assign]
        history.sample((*origin.tolist(), *direction.tolist()))
        taken.append(spent[0])
        history.finish()
        history.undo()
    pair = percentiles(taken[3:])
    out["under_a_dab_ms"] = both(pair)
    say(f"  under one sculpting dab of {DAB:,} vertices: p50 {pair[0]:.1f} ms, p95 {pair[1]:.1f} ms")
    start = time.perf_counter()
    history.do(SetRules("Ball", (Rule("Shell sand", (Condition("shelter", {"reach": 10.0}, 40.0),)),)))
    out["shelter_s"] = round(time.perf_counter() - start, 2)
    say(f"  {MEASURES['shelter'].label.lower()}: {out['shelter_s']:.1f} s")
    return out


def _pictures(say: Callable[[str], None]) -> dict[str, Any]:
    context = headless_context()
    out = {}
    try:
        for count in (1, 8):
            history = _with_grounds(100_000)
            body = history.project.bodies[0]
            weight = np.zeros((body.vertices.count, 8), np.float32)
            weight[:, :count] = 1.0 / count
            body.vertices.set_column("weight", weight)
            renderer, targets = Renderer(context, history.project), Targets(context, PICTURE)
            camera = Camera.framing(renderer.bounds())
            taken = []
            for _ in range(4):
                begun = time.perf_counter()
                renderer.picture(targets, camera, "lit")
                targets.read()
                taken.append(time.perf_counter() - begun)
            out[count] = float(np.median(taken[1:]))
    finally:
        context.release()
    ratio = out[8] / out[1]
    say(f"picture of 8 height-blended grounds at every vertex: {ratio:.2f} times that of one ({1000 * out[1]:.0f} ms)")
    return {"one_s": round(out[1], 4), "eight_s": round(out[8], 4), "ratio": round(ratio, 2)}
