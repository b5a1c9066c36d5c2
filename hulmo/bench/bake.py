"""Baking, beside what bounds it."""

import importlib
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.bake.bake import bake
from hulmo.core.commands import AddBody, LayUv
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project
from hulmo.core.mesh.rays import Rays
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.demo import demo_file

SIZE = 2048

RAYS = 200_000


def bench_bake(say: Callable[[str], None], largest: int = 1_000_000) -> dict[str, Any]:
    """Seconds to bake base colour, normal and roughness of the demo, beside a copy of the images; a box projection beside one
    copy of what it writes; and rays a second, beside a library made for them where `embreex` is installed."""
    history = History(open_project(demo_file("tern-skerry")))
    body = history.project.bodies[0]
    history.do(LayUv(body.name, "box"))
    begin = time.perf_counter()
    baked = bake(history.project, body, ["base_colour", "normal", "roughness"], SIZE, silent())
    taken = time.perf_counter() - begin
    begin = time.perf_counter()
    for image in baked.images.values():
        image.copy()
    floor = time.perf_counter() - begin
    say(
        f"bake, colour, normal and roughness of Tern Skerry at {SIZE}: {taken:.1f} s for {baked.reached:,} texels, "
        f"{taken / floor:.0f} times a copy of the images; {baked.filled:,} of {baked.reached:,} filled"
    )
    out: dict[str, Any] = {"bake_s": round(taken, 2), "texels": baked.reached, "filled": baked.filled}
    return out | _laid(say, largest) | _rays(say)


def _laid(say: Callable[[str], None], largest: int) -> dict[str, Any]:
    history = History(Project())
    side = round((largest / 2) ** 0.5)
    history.do(AddBody("sheet", {"size": 100.0, "depth": 100.0, "edge": 100.0 / side}, "Land"))
    history.do(LayUv("Land", "above"))
    begin = time.perf_counter()
    history.do(LayUv("Land", "box", unit=1.0))
    taken = time.perf_counter() - begin
    uv = history.project.bodies[0].corners.slots["uv"]
    begin = time.perf_counter()
    uv.copy()
    floor = time.perf_counter() - begin
    triangles = history.project.bodies[0].corners.count
    say(f"  a box projection of {triangles:,} triangles: {taken:.2f} s, {taken / floor:.0f} times a copy of the UV")
    return {"box_s": round(taken, 3)}


def _rays(say: Callable[[str], None]) -> dict[str, Any]:
    body = open_project(demo_file("tern-skerry")).bodies[0]
    rng = np.random.default_rng(1)
    rows = rng.integers(0, body.vertices.count, RAYS)
    normal = body.vertices["normal"][rows].astype(np.float64)
    origin = body.vertices["position"][rows] + 0.05 * normal
    way = normal + rng.normal(size=normal.shape)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    begin = time.perf_counter()
    rays = Rays(body)
    made = time.perf_counter() - begin
    rays.first_hits(origin[:100], way[:100], 1e4)
    rays.openness(origin[:100], normal[:100], 64, 1e4)
    begin = time.perf_counter()
    triangle, _, _ = rays.first_hits(origin, way, 1e4)
    own = RAYS / (time.perf_counter() - begin)
    begin = time.perf_counter()
    rays.openness(origin, normal, 64, 1e4)
    shade = 64 * RAYS / (time.perf_counter() - begin)
    say(f"  rays: made ready in {made:.2f} s; {shade / 1e6:.1f} million a second for occlusion")
    out: dict[str, Any] = {"rays_s": round(own), "occlusion_rays_s": round(shade)}
    try:
        trimesh, embree = importlib.import_module("trimesh"), importlib.import_module("trimesh.ray.ray_pyembree")
    except ImportError:
        say(f"  first hits: {own / 1e6:.2f} million a second (no other library is installed to hold it against)")
        return out
    mesh = trimesh.Trimesh(body.vertices["position"], body.corners.triangles, process=False)
    peer = embree.RayMeshIntersector(mesh)
    peer.intersects_first(origin[:100], way[:100])
    begin = time.perf_counter()
    found = peer.intersects_first(origin, way)
    other = RAYS / (time.perf_counter() - begin)
    same = float((found == triangle).mean())
    say(
        f"  first hits: {own / 1e6:.2f} million a second, {own / other:.2f} times trimesh's {other / 1e6:.2f} with the same "
        f"library; the same triangle for {same:.2%}"
    )
    return out | {"embree_rays_s": round(other), "rays_over_embree": round(own / other, 2), "same": round(same, 4)}
