"""Every format, beside a plain export by another library; and the memory that it takes."""

import os
import pathlib
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody, AddGround, LayRelief, RemoveGround
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.history import History
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.setting import Values, complete

GROUNDS, TIMES = 8, 5

FORMATS: tuple[tuple[str, dict[str, Any], str], ...] = (
    ("glb", {}, "glb"), ("glb", {"size": "compressed"}, ""), ("ply", {}, "ply"), ("obj", {}, "obj"), ("stl", {}, "stl"),
    ("usdc", {}, ""),
)  # fmt: skip
"""Endings, settings, and what a general library writes the same mesh as, without grounds."""


def bench_exports(say: Callable[[str], None], largest: int = 2_000_000) -> dict[str, Any]:
    """Seconds, times the seconds of `trimesh` for the mesh alone, which it leaves for the system to bring to disk, and memory
    beside the size of the file."""
    import trimesh

    project = _land(largest)
    body = project.bodies[0]
    out: dict[str, Any] = {"vertices": body.vertices.count, "grounds": GROUNDS}
    say(f"exports, {body.vertices.count:,} vertices with {GROUNDS} grounds:")

    def plainly(path: pathlib.Path) -> None:
        mesh = trimesh.Trimesh(body.vertices["position"], body.corners.live_triangles(), process=False)
        mesh.export(str(path))

    with tempfile.TemporaryDirectory() as folder:
        plain = 0
        for ending, asked, other in FORMATS:
            exporter, path = EXPORTERS[ending], pathlib.Path(folder) / f"land.{ending}"
            values = complete(exporter.settings, asked, "bench")
            exporter.write(project, path, values, silent())  # kernels and libraries are loaded
            theirs, beside = 0.0, path.with_name(f"plain.{other}")
            if other:
                theirs = _seconds(partial(plainly, beside), beside)
            ours = _seconds(partial(exporter.write, project, path, values, silent()), path)
            size = path.stat().st_size
            bare = path.with_name("bytes")
            floor = _seconds(partial(_flushed, bare, path.read_bytes()), bare)
            share = _memory(project, ending, path, values) / size
            name = f"{ending} {asked['size']}" if asked else ending
            text = (
                f"  {name}: {ours:.2f} s, {floor:.2f} s to write its bytes and flush them to disk, {size / 1e6:.0f} MB, "
                f"memory {share:.2f} times the file"
            )
            if asked:
                text += f", {size / plain:.2f} of the plain file"
            elif ending == "glb":
                plain = size
            if other:
                text += f"; {ours / theirs:.2f} times trimesh's mesh alone ({beside.stat().st_size / 1e6:.0f} MB)"
                out[f"{name}_over_trimesh"] = round(ours / theirs, 2)
            say(text)
            out |= {f"{name}_s": round(ours, 2), f"{name}_mb": round(size / 1e6, 1), f"{name}_memory": round(share, 2)}
    return out


def _land(triangles: int) -> Project:
    history = History(Project())
    history.do(AddBody("sheet", {"size": 100.0, "depth": 100.0, "edge": 100.0 / (triangles / 2) ** 0.5}, "Land"))
    history.do(LayRelief("Land", "noise", {"height": 8.0, "size": 20.0}))
    for ground in history.project.grounds[::-1]:  # images of shipped grounds would be part of the files
        history.do(AddGround(name=f"{ground.name} plain"))
        history.do(RemoveGround(ground.name))
    while len(history.project.grounds) < GROUNDS:
        history.do(AddGround(name=f"Ground {len(history.project.grounds)}"))
    body = history.project.bodies[0]
    # as painted ground is: of most grounds nothing, of some a share that runs out over metres, and never a round number
    rng = np.random.default_rng(0)
    x, z = body.vertices["position"][:, 0], body.vertices["position"][:, 2]
    weight = np.zeros((body.vertices.count, GROUNDS), np.float32)
    for column in range(GROUNDS):
        for _ in range(4):
            a, b, turn = rng.normal(0.0, 0.5, 3)
            weight[:, column] += np.sin(a * x + b * z + 10.0 * turn)
    weight = np.maximum(weight - 1.0, 0.0)
    weight[:, 0] += 0.01
    body.vertices.set_column(WEIGHT, weight / weight.sum(axis=1, keepdims=True))
    return history.project


def _flushed(path: pathlib.Path, data: bytes) -> None:
    with path.open("wb") as file:
        file.write(data)
        os.fsync(file.fileno())


def _seconds(work: Callable[[], object], path: pathlib.Path) -> float:
    # into a new file each time: to free an old one takes as long as to write it, whoever does it
    times = []
    for _ in range(TIMES):
        path.unlink(missing_ok=True)
        begin = time.perf_counter()
        work()
        times.append(time.perf_counter() - begin)
    return float(np.median(times))


def _memory(project: Project, ending: str, path: pathlib.Path, values: Values) -> int:
    tracemalloc.start()
    EXPORTERS[ending].write(project, path, values, silent())
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return peak
