"""Outlines cut into large bodies, and points of tracks moved."""

import importlib
import math
import time
from collections.abc import Callable
from typing import Any

import msgspec
import numpy as np

from hulmo.core.commands import AddBody, AddLine, ChangeLine, LinePoint
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.objects.line import CUT, is_line, line_of
from hulmo.core.project import Project
from hulmo.demo import demo_file

LENGTH = 300.0
TOLERANCE = 0.01


def bench_lines(say: Callable[[str], None], largest: int = 1_000_000) -> dict[str, Any]:
    """Seconds to cut an outline of 300 m into a body, beside a copy of its tables and, where Shewchuk's Triangle is
    installed, that library's constrained triangulation of the same line and the same vertices; and to move a point of the
    demo's foot track, which carries edges, relief and ground."""
    side = round((largest / 2) ** 0.5)
    radius = LENGTH / (2 * math.pi)
    history = History(Project())
    size = 2.3 * radius
    history.do(AddBody("sheet", {"size": size, "depth": size, "edge": size / side}, "Land"))
    body = history.project.bodies[0]
    body.index  # noqa: B018 - as it is when somebody works
    begin = time.perf_counter()
    body.vertices.copy(), body.corners.copy()
    floor = time.perf_counter() - begin
    turn = np.linspace(0, 2 * math.pi, 64, endpoint=False)
    points = tuple(LinePoint((radius * math.cos(a), 0.0, -radius * math.sin(a))) for a in turn.tolist())
    small = History(Project())  # kernels are loaded
    small.do(AddBody("sheet", {"size": 20.0, "depth": 20.0, "edge": 1.0}, "Land"))
    few = tuple(LinePoint((p.at[0] / 10, 0.0, p.at[2] / 10)) for p in points)
    small.do(AddLine("outline", "Land", few, "", {"cut": True, "tolerance": TOLERANCE}))
    triangles = body.corners.count
    begin = time.perf_counter()
    history.do(AddLine("outline", "Land", points, "", {"cut": True, "tolerance": TOLERANCE}))
    cut = time.perf_counter() - begin
    angle = float(shapes_of(body.vertices["position"], body.corners.live_triangles())[0].min())
    out: dict[str, Any] = {
        "triangles": triangles, "cut_s": round(cut, 3), "cut_over_floor": round(cut / floor, 1),
        "smallest_angle": round(angle, 1),
    }  # fmt: skip
    say(
        f"lines, an outline of {LENGTH:g} m cut into {triangles:,} triangles within {1000 * TOLERANCE:g} mm: {cut:.2f} s, "
        f"{cut / floor:.0f} times one copy of the tables; smallest angle {angle:.1f} degrees"
    )
    out |= _other_library(history, say)
    out |= _moved(say)
    return out


def _other_library(history: History, say: Callable[[str], None]) -> dict[str, Any]:
    try:
        library = importlib.import_module("triangle")
    except ImportError:
        say("  (no other library is installed to hold it against)")
        return {}
    body = history.project.bodies[0]
    marked = body.corners.slots[CUT][:, :, 0] > 0
    slot, corner = np.nonzero(marked)
    corners = body.corners.triangles
    ends = np.stack((corners[slot, (corner + 1) % 3], corners[slot, (corner + 2) % 3]), axis=1)
    ends = np.unique(np.sort(ends, axis=1), axis=0)
    flat = body.vertices["position"][:, (0, 2)].astype(np.float64)
    begin = time.perf_counter()
    made = library.triangulate({"vertices": flat, "segments": ends}, "p")
    taken = time.perf_counter() - begin
    place = np.column_stack((made["vertices"][:, 0], np.zeros(len(made["vertices"])), made["vertices"][:, 1]))
    angle = float(shapes_of(place, made["triangles"].astype(np.int32))[0].min())
    say(f"  Triangle, the same vertices and line triangulated anew: {taken:.2f} s, smallest angle {angle:.1f} degrees")
    return {"triangle_s": round(taken, 3), "triangle_smallest_angle": round(angle, 1)}


def _moved(say: Callable[[str], None]) -> dict[str, Any]:
    history = History(open_project(demo_file("tern-skerry")))
    entry = next(entry for entry in history.project.objects if is_line(entry))
    body = history.project.bodies[0]
    body.index  # noqa: B018
    line, origin = line_of(entry), np.array(body.origin)
    points = [LinePoint(tuple((np.array(place.at) + origin).tolist()), place.corner) for place in line.points]
    begin = time.perf_counter()
    body.vertices.copy(), body.corners.copy()
    floor = time.perf_counter() - begin
    times = []
    for step in (0.2, 0.4, 0.3):
        x, y, z = points[5].at
        moved = [*points[:5], msgspec.structs.replace(points[5], at=(x + step, y, z)), *points[6:]]
        begin = time.perf_counter()
        history.do(ChangeLine(entry.name, tuple(moved)))
        times.append(time.perf_counter() - begin)
        history.undo()
    taken = float(np.median(times))
    say(
        f"  a point of {entry.name} on Tern Skerry moved: {taken:.2f} s, {taken / floor:.0f} times one copy of the tables"
    )
    return {"move_s": round(taken, 3), "move_over_floor": round(taken / floor, 1)}
