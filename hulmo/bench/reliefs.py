"""Whole-surface relief and relief layers on a body of a million vertices."""

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from pyfastnoiselite import pyfastnoiselite as library

from hulmo.core.commands import AddBody, ChangeLayer, LayRelief
from hulmo.core.history import History
from hulmo.core.project import Project

VERTICES = 1_000_000
REPEATS = 5
WORK: tuple[tuple[str, str, dict[str, Any]], ...] = (
    ("noise, 6 octaves", "noise", {"octaves": 6}),
    ("image, all sides", "image", {"image": "ripple"}),
    ("terraces", "terraces", {}),
    ("jitter", "jitter", {}),
    ("slump, 40 passes", "slump", {"passes": 40}),
)


def bench_reliefs(say: Callable[[str], None], bandwidth: float, vertices: int = VERTICES) -> dict[str, Any]:
    """Seconds to lay each relief, normals included, and milliseconds to change a layer's strength.

    The floor of noise is the noise library itself on the same points; that of the others is reading and writing positions,
    normals and offsets once.
    """
    side = round(vertices**0.5) - 1
    history = History(Project())
    history.do(AddBody("sheet", {"size": side * 0.1, "depth": side * 0.1, "edge": 0.1}, "Land"))
    body = history.project.bodies[0]
    count = body.vertices.count
    say(f"relief over {count:,} vertices")
    once = count * 4 * 9 * 2 / bandwidth
    library_time = _noise_floor(np.ascontiguousarray(body.vertices["position"].T))
    out: dict[str, Any] = {"vertices": count}
    for label, relief, settings in WORK:
        times = []
        for _ in range(REPEATS if relief != "slump" else 1):
            start = time.perf_counter()
            history.do(LayRelief("Land", relief, settings))
            times.append(time.perf_counter() - start)
            history.undo()
        taken = float(np.median(times))
        floor = library_time if relief == "noise" else once
        out[relief] = {"s": round(taken, 4), "floor_s": round(floor, 4), "over_floor": round(taken / floor, 1)}
        say(f"  {label}: {taken:.2f} s, {taken / floor:.1f} times its floor of {floor:.3f} s")
    history.do(LayRelief("Land", "noise", {}, "Noise"))
    times = []
    for i in range(20):
        start = time.perf_counter()
        history.do(ChangeLayer("Land", "Noise", strength=0.5 + 0.05 * i))
        times.append(1000 * (time.perf_counter() - start))
    p50, p95 = (float(value) for value in np.percentile(times, (50, 95)))
    out["strength_ms"] = {"p50": round(p50, 2), "p95": round(p95, 2), "over_floor": round(p50 / (1000 * once), 1)}
    say(f"  a layer's strength: p50 {p50:.0f} ms, p95 {p95:.0f} ms, {p50 / (1000 * once):.1f} times its floor")
    return out


def _noise_floor(points: np.ndarray) -> float:
    noise = library.FastNoiseLite(seed=1)
    noise.noise_type = library.NoiseType.NoiseType_OpenSimplex2
    noise.fractal_type = library.FractalType.FractalType_FBm
    noise.fractal_octaves = 6
    noise.frequency = 0.125
    start = time.perf_counter()
    noise.gen_from_coords(points)
    return time.perf_counter() - start
