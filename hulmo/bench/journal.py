"""What keeping the journal costs the thread that the window lives in, on a body of a million vertices."""

import pathlib
import tempfile
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.bench.files import GIVEN
from hulmo.core.commands import AddBody, Stroke
from hulmo.core.history import History
from hulmo.core.io.project_file import save_project
from hulmo.core.journal import Journal
from hulmo.core.project import Project

STEPS = 300

ROUNDS = 7

LIMIT = 20.0
"""Milliseconds that the window may wait for it."""


def bench_journal(say: Callable[[str], None]) -> dict[str, Any]:
    """Milliseconds, the longest of each kind; the floor of a snapshot is what saving in the same thread would take."""
    history = History(Project())
    history.do(AddBody("icosphere", GIVEN, "Ball"))
    project = history.project
    samples = tuple((*row, 0.7) for row in np.random.default_rng(0).normal(0, 50, (200, 3)).round(3).tolist())
    step = Stroke("Ball", "raise", samples)
    longest: dict[str, float] = {}

    def timed(kind: str, work: Callable[[], Any]) -> None:
        start = time.perf_counter()
        work()
        longest[kind] = max(longest.get(kind, 0.0), 1000 * (time.perf_counter() - start))

    with tempfile.TemporaryDirectory() as folder:
        home = pathlib.Path(folder)
        file = home / "ball.hulmo"
        checked, plain = _saves(project, file)
        journal = Journal(home / "journal", say)
        timed("begin", lambda: journal.restart(file, file))
        for done in range(STEPS):
            timed("step", lambda: journal.note(step))
            if done % 100 == 50:
                timed("snapshot", lambda: journal.snapshot(project))
            timed("poll", journal.poll)
            time.sleep(0.005)
        journal.wait()
        timed("saved", lambda: journal.saved(file))
        timed("begin", lambda: journal.restart(file, file))
        journal.close()
    for kind, value in longest.items():
        say(
            f"journal, {kind}: {value:.1f} ms at the most (limit {LIMIT:g}; saving there would take {1000 * plain:,.0f})"
        )
    say(f"saving 1 M vertices with all checks: {checked / plain:.2f} times a save without any (limit 1.1)")
    return {
        **{f"{kind}_ms": round(value, 2) for kind, value in longest.items()},
        "save_ms": round(1000 * plain, 1),
        "checked_save_ratio": round(checked / plain, 3),
    }


def _saves(project: Project, file: pathlib.Path) -> tuple[float, float]:
    # seconds of a whole save with all checks, and of one without any; in turns, since the machine does other things as well
    checked: list[float] = []
    plain: list[float] = []
    for _ in range(ROUNDS):
        for checks, seconds in ((True, checked), (False, plain)):
            start = time.perf_counter()
            save_project(project, file, checks=checks)
            seconds.append(time.perf_counter() - start)
    return min(checked), min(plain)
