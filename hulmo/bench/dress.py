"""Waters, props and what they cost a stroke and a picture."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.care.seen_from import seen_from
from hulmo.core.commands import AddBody, AddWater, LayRelief, SetStrewRules, SetViewpoint, Strew, Stroke
from hulmo.core.commands.strew import LiveStrew
from hulmo.core.ground.rules import Condition
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.flood import flood
from hulmo.core.mesh.strewn import Strewn
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.water.surface import water_surface

PROPS = 100_000


def bench_dress(say: Callable[[str], None], largest: int = 1_000_000) -> dict[str, Any]:
    """Seconds to fill a pond beside one look at all heights; props strewn a second; a rule that sets many; what a dab costs
    more with them; a picture with and without them."""
    side = round((largest / 2) ** 0.5)
    history = History(Project())
    history.do(AddBody("sheet", {"size": float(side), "depth": float(side), "edge": 1.0}, "Land"))
    history.do(LayRelief("Land", "noise", {"size": 60.0, "height": 6.0}))
    body = history.project.bodies[0]
    body.index  # noqa: B018 - as it is when somebody works
    out = _pond(history, say)
    out |= _seen(history, say)
    out |= _strewn(history, say)
    out |= _rule(history, say)
    out |= _dab(history, say)
    return out | _picture(history, say)


def _pond(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    body = history.project.bodies[0]
    height = body.heights(body.vertices["position"])
    lowest = int(np.argmin(height))
    x, y, z = (float(value) for value in body.placed(body.vertices["position"][lowest].astype(np.float64)))
    history.do(AddWater("pond", (x, y, z), "Land"))
    entry = history.project.objects[-1]
    times = {"floor": [], "flood": [], "surface": []}  # type: dict[str, list[float]]
    for _ in range(4):
        begin = time.perf_counter()
        body.heights(body.vertices["position"])
        times["floor"].append(time.perf_counter() - begin)
        begin = time.perf_counter()
        flood(body, lowest)
        times["flood"].append(time.perf_counter() - begin)
        begin = time.perf_counter()
        found = water_surface(history.project.bodies, history.project.objects, entry)
        times["surface"].append(time.perf_counter() - begin)
    best = {name: min(values[1:]) for name, values in times.items()}
    history.undo()
    say(
        f"dress, a pond on {body.corners.count:,} triangles: found and cut in {best['surface']:.2f} s "
        f"({best['surface'] / best['floor']:.0f} times one look at all heights), {found.triangles.shape[0]:,} triangles"
    )
    return {"pond_s": round(best["surface"], 3), "flood_s": round(best["flood"], 3)}


def _seen(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    body = history.project.bodies[0]
    for step in range(8):
        way = 2 * np.pi * step / 8
        eye = (200 * float(np.cos(way)), 30.0, 200 * float(np.sin(way)))
        history.do(SetViewpoint(f"From {step}", eye, (0.0, 0.0, 0.0), 40.0))
    begin = time.perf_counter()
    found = seen_from(body, tuple(history.project.viewpoints), (1920, 1080), silent())
    taken = time.perf_counter() - begin
    say(
        f"dress, what 8 viewpoints see of {body.corners.count:,} triangles: {taken:.2f} s, {100 * found.seen.mean():.0f} % of"
        " them"
    )
    return {"seen_s": round(taken, 2)}


def _strewn(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    shares = {"Tussock": 1.0, "Boulder 3": 0.2}
    live = LiveStrew(history.project, Strew("Land", (), {"radius": 8.0, "density": 2.0, "slope_to": 90.0}, shares))
    live.add((0.0, 0.0, 0.0))  # kernels are loaded
    before = live.strewn.count
    begin = time.perf_counter()
    slowest = 0.0
    for step in range(60):
        once = time.perf_counter()
        live.add((2.0 * step - 60.0, 0.0, 12.0))
        slowest = max(slowest, time.perf_counter() - once)
    taken = time.perf_counter() - begin
    rate = (live.strewn.count - before) / taken
    say(f"dress, strewing: {rate:,.0f} props a second of stroke, the slowest event {1000 * slowest:.0f} ms")
    return {"strewn_a_second": round(rate), "slowest_event_ms": round(1000 * slowest, 1)}


def _rule(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    body = history.project.bodies[0]
    area = float(body.corners.count) / 2
    rule = StrewRule(
        "All", {"Tussock": 1.0}, {"density": 1.15 * PROPS / area, "slope_to": 90.0},
        (Condition("slope", {}, None, 60.0, 0.0, 10.0),),
    )  # fmt: skip
    begin = time.perf_counter()
    history.do(SetStrewRules("Land", (rule,)))
    taken = time.perf_counter() - begin
    strewn = _strewn_on(body)
    count = strewn.count
    say(
        f"dress, a rule that sets {count:,} props on {body.corners.count:,} triangles: {taken:.2f} s; "
        f"{strewn.nbytes / count:.0f} bytes a prop"
    )
    return {"rule_s": round(taken, 2), "rule_props": count, "bytes_a_prop": round(strewn.nbytes / count, 1)}


def _dab(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    # the props of all are brought up to date as the renderer does it
    from hulmo.render.context import headless_context
    from hulmo.render.gpu_props import GpuProps, PropMeshes

    body = history.project.bodies[0]
    context = headless_context()
    props = GpuProps(context, PropMeshes(context))
    props.refresh(body, history.project)
    radius = float(np.sqrt(10_000 / np.pi))
    times = []
    for step in range(6):
        history.do(Stroke("Land", "raise", ((20.0 * step, 0.0, 0.0),), {"radius": radius}))
        rows = body.ball_region(np.array([20.0 * step, 0.0, 0.0]), radius).inside
        begin = time.perf_counter()
        props.moved(rows)
        props.refresh(body, history.project)
        times.append(time.perf_counter() - begin)
    context.release()
    worst = 1000 * max(times[1:])
    say(f"dress, {_strewn_on(body).count:,} props carried through a dab of 10,000 vertices: {worst:.1f} ms at the most")
    return {"carried_ms": round(worst, 1)}


def _picture(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    from hulmo.render.camera import Camera
    from hulmo.render.context import headless_context
    from hulmo.render.renderer import Renderer
    from hulmo.render.targets import Targets

    context = headless_context()
    renderer = Renderer(context, history.project)
    targets = Targets(context, (1280, 800))
    camera = Camera.framing(renderer.bounds())
    body = history.project.bodies[0]
    strewn, taken = _strewn_on(body), {}
    for name in ("with", "without"):
        body.strewn = strewn if name == "with" else None
        times = []
        for _ in range(3):
            begin = time.perf_counter()
            renderer.picture(targets, camera, "lit")
            context.finish()
            times.append(time.perf_counter() - begin)
        taken[name] = min(times[1:])
    body.strewn = strewn
    context.release()
    ratio = taken["with"] / taken["without"]
    say(f"dress, a picture with {strewn.count:,} props: {ratio:.2f} times that without them ({taken['without']:.2f} s)")
    return {"picture_over_plain": round(ratio, 2)}


def _strewn_on(body: Body) -> Strewn:
    assert body.strewn is not None, "a rule has set props before"
    return body.strewn
