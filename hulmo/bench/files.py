"""Making, saving and opening a body of a million vertices."""

import pathlib
import tempfile
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import FORMS
from hulmo.core.project import Project
from hulmo.core.setting import complete

GIVEN = {"radius": 100.0, "edge": 100 * 1.1071487 / 316}


def bench_files(say: Callable[[str], None], bandwidth: float) -> dict[str, Any]:
    """Seconds for each step; the floor of a file is its size written to and read from the same disk as plain bytes."""
    results: dict[str, Any] = {}
    form = FORMS["icosphere"]
    seconds, _ = _timed(lambda: Body.from_shape("Ball", form.build(complete(form.settings, GIVEN, "bench"))))
    results["base_form_s"] = round(seconds, 3)
    say(f"base form of 1 M vertices, with connectivity and normals: {seconds:.2f} s (limit 1)")
    history = History(Project())
    seconds, _ = _timed(lambda: history.do(AddBody("icosphere", GIVEN, "Ball")))
    results["add_body_s"] = round(seconds, 3)
    say(f"the same as a command, with weights and spatial index: {seconds:.2f} s")
    with tempfile.TemporaryDirectory() as folder:
        path = pathlib.Path(folder) / "ball.hulmo"
        save, _ = _timed(lambda: save_project(history.project, path))
        load, _ = _timed(lambda: open_project(path))
        floor_write, floor_read = _plain(pathlib.Path(folder) / "plain", path.stat().st_size)
        results["save_s"], results["save_floor_s"] = round(save, 3), round(floor_write, 3)
        results["open_s"], results["open_floor_s"] = round(load, 3), round(floor_read, 3)
        say(f"save 1 M vertices: {save:.2f} s (limit 2; the same bytes plainly {floor_write:.2f} s)")
        say(f"open 1 M vertices: {load:.2f} s (limit 2; the same bytes plainly {floor_read:.2f} s)")
    return results


def _plain(path: pathlib.Path, size: int) -> tuple[float, float]:
    data = np.zeros(size, np.uint8).tobytes()
    write, _ = _timed(lambda: path.write_bytes(data))
    read, _ = _timed(path.read_bytes)
    return write, read


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = work()
    return time.perf_counter() - start, result
