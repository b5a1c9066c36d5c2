"""Dabs, rays and undo on bodies of several sizes."""

import math
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import AddBody, Stroke
from hulmo.core.history import History
from hulmo.core.mesh.row_ranges import row_ranges
from hulmo.core.project import Project
from hulmo.core.sculpt.brush import Brush

RADIUS = 100.0
TOUCHED = (1_000, 10_000, 50_000)
SIZES = (100_000, 1_000_000, 4_000_000)
REPEATS = 60


def bench_strokes(say: Callable[[str], None], bandwidth: float, largest: int) -> list[dict[str, Any]]:
    """One Raise dab, from the ray to the ranges for the graphics card, at places spread over the whole body.

    The floor counts what a dab must read and write once: position, normal and coat of each row, and the corners and
    box-tree leaves of its triangles.
    """
    results: list[dict[str, Any]] = []
    for size in (entry for entry in SIZES if entry <= largest):
        history = sphere(size)
        body = history.project.bodies[0]
        triangles = body.corners.count
        rays = _rays(history)
        say(f"ray on {triangles:,} triangles: p50 {rays[0]:.3f} ms, p95 {rays[1]:.3f} ms")
        for wanted in TOUCHED:
            dab, undo, rows = _dabs(history, wanted)
            floor = 1000 * rows * (2 * 12 + 2 * 12 + 2 * 4 + 2 * (24 + 21 + 12)) / bandwidth
            entry = {
                "triangles": triangles,
                "touched": rows,
                "ray_ms": both(rays),
                "dab_ms": both(dab),
                "undo_ms": both(undo),
                "floor_ms": round(floor, 4),
                "dab_over_floor": round(dab[0] / floor, 1),
                "undo_over_dab": round(undo[0] / dab[0], 2),
            }
            smallest = next((old for old in results if old["wanted"] == wanted), None)
            entry["wanted"] = wanted
            entry["over_smallest_body"] = 1.0 if smallest is None else round(dab[0] / smallest["dab_ms"]["p50"], 2)
            results.append(entry)
            say(
                f"  dab of {rows:,} vertices: p50 {dab[0]:.2f} ms, p95 {dab[1]:.2f} ms, floor {floor:.2f} ms "
                f"({entry['dab_over_floor']} times), undo p50 {undo[0]:.2f} ms, "
                f"{entry['over_smallest_body']} times the cost on the smallest body"
            )
    return results


def bench_brushes(say: Callable[[str], None], bandwidth: float, largest: int) -> list[dict[str, Any]]:
    """One dab of 10,000 vertices with every brush, on every size of body; for Haul, one move of what it holds."""
    results: list[dict[str, Any]] = []
    for size in (entry for entry in SIZES if entry <= largest):
        history = sphere(size)
        body = history.project.bodies[0]
        say(f"every brush on {body.corners.count:,} triangles")
        for brush in (entry for entry in BRUSHES.values() if not entry.remeshes):
            dab, undo, rows = _dabs(history, 10_000, brush)
            column = brush.column
            wide = body.vertices.width(column) if column in body.vertices else brush.width
            floor = 1000 * rows * 4 * 2 * wide / bandwidth
            first = next((old for old in results if old["brush"] == brush.name), None)
            entry = {
                "brush": brush.name,
                "triangles": body.corners.count,
                "touched": rows,
                "dab_ms": both(dab),
                "undo_ms": both(undo),
                "floor_ms": round(floor, 4),
                "over_smallest_body": 1.0 if first is None else round(dab[0] / first["dab_ms"]["p50"], 2),
            }
            results.append(entry)
            say(
                f"  {brush.name}: p50 {dab[0]:.2f} ms, p95 {dab[1]:.2f} ms, "
                f"{entry['over_smallest_body']} times the cost on the smallest body"
            )
    return results


def sphere(triangles: int) -> History:
    """A project with one ball of about so many triangles."""
    frequency = round(math.sqrt(triangles / 20))
    history = History(Project())
    history.do(AddBody("icosphere", {"radius": RADIUS, "edge": RADIUS * 1.1071487 / frequency}, "Ball"))
    return history


def _rays(history: History) -> tuple[float, float]:
    body = history.project.bodies[0]
    times = []
    for origin, direction in places(400, 1):
        start = time.perf_counter()
        body.ray(origin, direction)
        times.append(time.perf_counter() - start)
    return percentiles(times)


def _dabs(
    history: History, wanted: int, brush: Brush = BRUSHES["raise"]
) -> tuple[tuple[float, float], tuple[float, float], int]:
    vertices = history.project.bodies[0].vertices.count
    # a cap whose rim is a chord r away from its middle has the area pi r²
    radius = min(2 * RADIUS * math.sqrt(wanted / vertices), 2 * RADIUS)
    settings: dict[str, Any] = {"radius": radius, "strength": 100.0}
    if any(setting.name == "height" for setting in brush.settings):
        settings["height"] = 0.01 * radius
    ground = history.project.grounds[1].name if brush.needs_ground else ""
    start = Stroke("Ball", brush.name, (), settings, ground)
    dab: list[float] = []
    undo: list[float] = []
    touched: list[int] = []
    for origin, direction in places(REPEATS, 2):
        history.begin(start)
        if brush.grabs:
            history.sample((*origin.tolist(), *direction.tolist()))
            origin = origin + 0.05 * radius
        begun = time.perf_counter()
        change = history.sample((*origin.tolist(), *direction.tolist()))
        for _, _, rows in change.rows:
            row_ranges(rows)
        dab.append(time.perf_counter() - begun)
        remembered = history.finish() is not None
        touched.extend(rows.size for _, column, rows in change.rows if column == brush.column)
        begun = time.perf_counter()
        if remembered:
            history.undo()
            undo.append(time.perf_counter() - begun)
    return percentiles(dab[3:]), percentiles(undo[3:] or [0.0]), round(float(np.mean(touched)))


def places(count: int, seed: int) -> list[tuple[np.ndarray, np.ndarray]]:
    """Rays from outside toward the middle, spread over all directions."""
    rng = np.random.default_rng(seed)
    toward = rng.standard_normal((count, 3))
    toward /= np.linalg.norm(toward, axis=1)[:, None]
    return [(3 * RADIUS * direction, -direction) for direction in toward]


def percentiles(times: list[float]) -> tuple[float, float]:
    """p50 and p95 in milliseconds of times in seconds."""
    p50, p95 = np.percentile(np.array(times) * 1000, (50, 95))
    return float(p50), float(p95)


def both(pair: tuple[float, float]) -> dict[str, float]:
    """The pair by its names, rounded."""
    return {"p50": round(pair[0], 4), "p95": round(pair[1], 4)}
