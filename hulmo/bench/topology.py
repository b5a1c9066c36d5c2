"""Operations on whole bodies, and imports, beside general-purpose mesh libraries on the same meshes."""

import pathlib
import tempfile
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.commands import AddBody, Bore, ImportBody, Recast, Reduce
from hulmo.core.history import History
from hulmo.core.project import Project


def bench_topology(say: Callable[[str], None], largest: int) -> dict[str, Any]:
    """Seconds for Recast, Reduce, Bore and imports; the library's own time for the same work stands beside it."""
    share = min(1.0, largest / 2_000_000)
    out: dict[str, Any] = {}

    def note(name: str, seconds: float, limit: float, peer: float | None = None) -> None:
        beside = "" if peer is None else f", {seconds / peer:.1f} times the library's {peer:.2f} s"
        out[name] = {"s": round(seconds, 3), "limit_s": limit, "library_s": None if peer is None else round(peer, 3)}
        say(f"  {name}: {seconds:.2f} s (limit {limit:g}){beside}")

    ball = _ball(int(250_000 * share))
    area = 4 * np.pi * 100.0**2
    wanted = float(np.sqrt(area / (0.433 * 500_000 * share)))
    say("operations on whole bodies")
    note("recast to 500 k triangles", _timed(lambda: ball.do(Recast("Ball", wanted))), 10)
    _beside_isotropic(note, int(50_000 * share))
    big = _ball(int(2_000_000 * share))
    body = big.project.bodies[0]
    points, faces = body.vertices["position"].copy(), body.corners.live_triangles().copy()
    count = int(200_000 * share)
    peer = _timed(lambda: _simplified(points, faces, count))
    note("reduce 2 M to 200 k", _timed(lambda: big.do(Reduce("Ball", count=count))), 8, peer)
    middle = _ball(int(1_000_000 * share))
    path = ((-150.0, 0.0, 0.0), (0.0, 5.0, 0.0), (150.0, 0.0, 0.0))
    note("bore through 1 M", _timed(lambda: middle.do(Bore("Ball", path, radius=10.0))), 4)
    _imports(note, int(1_000_000 * share))
    return out


def _beside_isotropic(note: Callable[..., None], triangles: int) -> None:
    # smaller than the figure with a limit, because the library is that much slower
    try:
        from gpytoolbox import remesh_botsch
    except ImportError:
        return
    ball = _ball(triangles // 2)
    body = ball.project.bodies[0]
    length = float(np.sqrt(4 * np.pi * 100.0**2 / (0.433 * triangles)))
    points, faces = body.vertices["position"].astype(float), body.corners.live_triangles().astype(int)
    peer = _timed(lambda: remesh_botsch(points, faces, 5, length))
    for how in ("surface", "volume"):
        note(f"recast to 50 k by {how}", _timed(lambda how=how: ball.prepare(Recast("Ball", length, how))), 10, peer)  # type: ignore[misc]


def _imports(note: Callable[..., None], triangles: int) -> None:
    import trimesh

    body = _ball(triangles).project.bodies[0]
    mesh = trimesh.Trimesh(body.vertices["position"], body.corners.live_triangles(), process=False)
    with tempfile.TemporaryDirectory() as folder:
        for ending, limit in (("glb", 3.0), ("ply", 2.0), ("obj", 6.0)):
            file = pathlib.Path(folder) / f"ball.{ending}"
            mesh.export(file)
            peer = _timed(lambda file=file: trimesh.load(file, process=False))  # type: ignore[misc]
            taken = _timed(lambda file=file: History(Project()).do(ImportBody(str(file))))  # type: ignore[misc]
            note(f"import 1 M from .{ending}", taken, limit, peer)


def _simplified(points: np.ndarray, faces: np.ndarray, count: int) -> None:
    import fast_simplification

    fast_simplification.simplify(points, faces, target_count=count)


def _ball(triangles: int) -> History:
    frequency = max(2, round(float(np.sqrt(triangles / 20))))
    history = History(Project())
    history.do(AddBody("icosphere", {"radius": 100.0, "edge": 100.0 * 1.1071487 / frequency}, "Ball"))
    return history


def _timed(work: Callable[[], Any]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
