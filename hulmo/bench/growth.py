"""Dabs of a growing mesh on bodies of several sizes, beside isotropic remeshing by a general-purpose library."""

import math
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.bench.strokes import RADIUS, both, percentiles, places, sphere
from hulmo.core.commands import Stroke
from hulmo.core.mesh.corner_table import TRIANGLES

PIECE = 5_000
SIZES = (100_000, 2_000_000)
WANTED = (("finer", 0.7, 4), ("coarser", 1.3, 1))
"""Name, wanted edge as a share of the mean edge, and how many triangles become of one: the piece is counted at its finest."""
REPEATS = 40


def bench_growth(say: Callable[[str], None], largest: int) -> list[dict[str, Any]]:
    """One Raise dab with a growing mesh that remakes about 5,000 triangles, at places spread over the whole body.

    Finer: every edge in the piece is split, flips and easing follow. Coarser: most edges are too short and are joined.
    """
    say("growing mesh")
    results: list[dict[str, Any]] = []
    for size in (entry for entry in SIZES if entry <= largest):
        history = sphere(size)
        body = history.project.bodies[0]
        triangles = body.corners.live_count
        mean = math.sqrt(4 * math.pi * RADIUS**2 / triangles / (math.sqrt(3) / 4))
        for name, share, becomes in WANTED:
            radius = 2 * RADIUS * math.sqrt(PIECE / becomes / triangles)
            settings = {"radius": radius, "height": 0.01 * radius, "grow": "both", "edge": share * mean}
            times, undo, changed = [], [], []
            for origin, direction in places(REPEATS, 4):
                history.begin(Stroke("Ball", "raise", (), settings))
                begun = time.perf_counter()
                change = history.sample((*origin.tolist(), *direction.tolist()))
                times.append(time.perf_counter() - begun)
                changed += [rows.size for _, column, rows in change.rows if column == TRIANGLES]
                history.finish()
                begun = time.perf_counter()
                history.undo()
                undo.append(time.perf_counter() - begun)
            dab = percentiles(times[3:])
            first = next((entry for entry in results if entry["name"] == name), None)
            results.append(
                {
                    "name": name,
                    "triangles": triangles,
                    "remeshed": round(float(np.mean(changed))),
                    "dab_ms": both(dab),
                    "undo_ms": both(percentiles(undo)),
                    "limit_ms": 30,
                    "over_smallest_body": 1.0 if first is None else round(dab[0] / first["dab_ms"]["p50"], 2),
                }
            )
            say(
                f"  {name}, {results[-1]['remeshed']:,} triangles remade on {triangles:,}: p50 {dab[0]:.1f} ms, p95 "
                f"{dab[1]:.1f} ms (limit 30), {results[-1]['over_smallest_body']} times the cost on the smallest body"
            )
    return results
