"""Levels of detail and patches, beside the library's own time for the same counts."""

import pathlib
import tempfile
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody, LayRelief, Stroke
from hulmo.core.deliver.levels import levels_of
from hulmo.core.deliver.patches import patches_of, taken_apart
from hulmo.core.deliver.profile import Profile
from hulmo.core.deliver.write import deliver_to
from hulmo.core.history import History
from hulmo.core.progress import silent
from hulmo.core.project import Project

SHARES = (0.5, 0.25, 0.1)

AGAIN = 5
"""Strokes after each of which all is delivered again."""


def bench_deliver(say: Callable[[str], None], largest: int = 500_000) -> dict[str, Any]:
    """Seconds, and times the seconds of `fast_simplification` in the same run."""
    import fast_simplification

    size, edge = 100.0, 100.0 / (largest / 2) ** 0.5
    history = History(Project())
    history.do(AddBody("sheet", {"size": size, "depth": size, "edge": edge}, "Land"))
    history.do(LayRelief("Land", "noise", {"height": 8.0, "size": 20.0}))
    body = history.project.bodies[0]
    count = body.corners.live_count
    triangles = body.corners.live_triangles()
    begin = time.perf_counter()
    for share in SHARES:
        fast_simplification.simplify(body.vertices["position"], triangles, target_count=round(share * count))
    own = time.perf_counter() - begin
    begin = time.perf_counter()
    levels = levels_of(body, SHARES, False, silent())
    taken = time.perf_counter() - begin
    say(
        f"deliver, {len(levels)} levels from {count:,} triangles with errors from both sides: {taken:.1f} s, "
        f"{taken / own:.1f} times the library's own {own:.1f} s"
    )
    begin = time.perf_counter()
    patches = taken_apart(patches_of(body, 25.0, False, silent()), 0.0, False, silent())
    cut = time.perf_counter() - begin
    begin = time.perf_counter()
    for patch in patches:
        levels_of(patch.body, SHARES, True, silent())
    made = time.perf_counter() - begin
    say(f"  {len(patches)} patches: cut in {cut:.1f} s; their levels with borders kept in {made:.1f} s")
    profile = Profile("Bench", files="many", patch=size / 8, levels=SHARES, names="plain")
    with tempfile.TemporaryDirectory() as name:
        folder = pathlib.Path(name)
        begin = time.perf_counter()
        deliver_to(history.project, profile, folder, silent())
        whole = time.perf_counter() - begin
        again = []
        for turn in range(AGAIN):
            history.do(Stroke("Land", "raise", ((2.0 + turn, 0.0, -3.0),), {"radius": 1.5, "grow": "off"}))
            begin = time.perf_counter()
            deliver_to(history.project, profile, folder, silent())
            again.append(time.perf_counter() - begin)
    share = float(np.median(again)) / whole
    say(f"  64 patches with four levels delivered: {whole:.1f} s; again after one stroke: {100 * share:.1f} % of that")
    return {
        "delivered_s": round(whole, 2), "again_share": round(share, 4),
        "triangles": count, "levels_s": round(taken, 2), "levels_over_library": round(taken / own, 2),
        "patches": len(patches), "patches_cut_s": round(cut, 2), "patches_levels_s": round(made, 2),
    }  # fmt: skip
