"""Deliveries by profile: levels against sampled distances of another library, patches byte by byte from the files alone,
limits and readiness against sums by hand."""

import base64
import contextlib
import io
import json
import os
import pathlib
import subprocess
import tempfile
import unittest
import urllib.parse
from unittest import mock

import igl
import msgspec
import numpy as np
import pygltflib
import trimesh
from PIL import Image

from hulmo.cli import main
from hulmo.core.commands import (
    AddBody,
    AddLine,
    LayRelief,
    LayUv,
    LinePoint,
    LockBorder,
    SetLight,
    Strew,
    Stroke,
    Waive,
)  # fmt: skip
from hulmo.core.deliver.kept import seal_of
from hulmo.core.deliver.levels import levels_of
from hulmo.core.deliver.limits import at_vertex, on_body
from hulmo.core.deliver.patches import patches_of, taken_apart
from hulmo.core.deliver.profile import Profile, checked, read_profile, shipped_profiles
from hulmo.core.deliver.write import deliver_to
from hulmo.core.errors import HulmoError
from hulmo.core.ground.textures import part_pixels
from hulmo.core.history import History
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.io.read_gltf import read_gltf
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.ready import findings
from hulmo.core.ready.handover import hand_over
from hulmo.core.setting import complete
from hulmo.core.topology.two_sided import two_sided
from hulmo.receive.glb import Glb
from hulmo.render.context import headless_context

READER = pathlib.Path(__file__).with_name("node") / "read.mjs"


def land(size: float = 40.0, edge: float = 1.0) -> History:
    history = History(Project())
    history.do(AddBody("sheet", {"size": size, "depth": size, "edge": edge}, "Land", (3.0, 0.0, -5.0)))
    history.do(LayRelief("Land", "noise", {"height": 6.0, "size": 15.0}))
    for i, name in enumerate(history.project.ground_names[1:]):
        history.do(
            Stroke("Land", "lay", ((8.0 * i - 8.0, 0.0, 4.0 * i - 6.0),), {"radius": 9.0, "strength": 60.0}, name)
        )
    history.do(Stroke("Land", "tint", ((5.0, 0.0, 0.0),), {"radius": 8.0, "colour": "#aa5533"}))
    return history


def corners_of(path: pathlib.Path) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Positions, all attributes as bytes, and triangles of a file, by pygltflib alone."""
    document = pygltflib.GLTF2().load(str(path))
    blob = document.binary_blob()
    primitive = document.meshes[0].primitives[0]

    def values(number: int) -> np.ndarray:
        accessor = document.accessors[number]
        view = document.bufferViews[accessor.bufferView]
        kind = {5126: "<f4", 5123: "<u2", 5125: "<u4"}[accessor.componentType]
        wide = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}[accessor.type]
        start = (view.byteOffset or 0) + (accessor.byteOffset or 0)
        return np.frombuffer(blob, kind, accessor.count * wide, start).reshape(-1, wide)

    names = {name: at for name, at in vars(primitive.attributes).items() if at is not None}
    place = values(names["POSITION"])
    kept = [at for name, at in sorted(names.items()) if name != "TEXCOORD_0"]
    told = [values(at).copy().view(np.uint8).reshape(len(place), -1) for at in kept]
    return place, np.concatenate(told, axis=1), values(primitive.indices).reshape(-1, 3)


def rim_edges(triangles: np.ndarray) -> np.ndarray:
    edges = np.sort(triangles[:, ((0, 1), (1, 2), (2, 0))].reshape(-1, 2), axis=1)
    edges, uses = np.unique(edges, axis=0, return_counts=True)
    return edges[uses == 1]


def rim(triangles: np.ndarray) -> np.ndarray:
    return np.unique(rim_edges(triangles))


def mesh_of(body: Body) -> trimesh.Trimesh:
    return trimesh.Trimesh(body.vertices["position"], body.corners.live_triangles(), process=False)


def apart(points: np.ndarray, mesh: trimesh.Trimesh) -> float:
    """The furthest of some points from a mesh."""
    vertices, faces = np.asarray(mesh.vertices, float), np.asarray(mesh.faces, np.int64)
    return float(np.sqrt(igl.point_mesh_squared_distance(np.ascontiguousarray(points), vertices, faces)[0].max()))


class DeliverTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_no_point_lies_further_off_than_is_written(self) -> None:
        """Hausdorff distance sampled by trimesh and libigl: never above what is written, and not far below it."""
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.5}, "Ball"))
        history.do(LayRelief("Ball", "noise", {"height": 1.0, "size": 3.0}))
        found = levels_of(history.project.bodies[0], (0.5, 0.2, 0.05), False, silent())
        self.assertEqual(len(found), 4)
        meshes = [mesh_of(level.body) for level in found]
        for level, mesh in zip(found[1:], meshes[1:], strict=True):
            sampled = 0.0
            for one, other in ((meshes[0], mesh), (mesh, meshes[0])):
                points, _ = trimesh.sample.sample_surface(one, 20_000, seed=4)
                points = np.concatenate((points, one.vertices))
                sampled = max(sampled, apart(points, other))
            self.assertLessEqual(sampled, level.error * (1 + 1e-6))
            self.assertGreater(sampled, 0.8 * level.error)
        self.assertEqual(sorted(level.error for level in found), [level.error for level in found])
        # two spheres about one middle: the difference of their radii (closed form, for fine ones)
        for radius in (5.0, 5.5):
            history.do(AddBody("icosphere", {"radius": radius, "edge": 0.25}, f"R{radius}"))
        self.assertAlmostEqual(two_sided(history.project.bodies[1], history.project.bodies[2]), 0.5, delta=0.06)
        # a metre is that many pixels of a picture (pinhole camera)
        level = found[1]
        away = level.switch(1080, 50.0, 2.0)
        self.assertAlmostEqual(level.error / away * 540 / np.tan(np.radians(25.0)), 2.0, places=6)

    def test_levels_by_distance_and_count_in_one_file(self) -> None:
        """A pixel at a distance by the pinhole camera; nodes of MSFT_lod by pygltflib, and by the standard's validator."""
        history = land(edge=0.6)
        profile = checked(Profile("P", levels=(450.0, 2000.0), levels_by="distance", pixels=2.0), "test")
        done = deliver_to(history.project, profile, self.folder, silent())
        levels = done.pieces[0].levels
        self.assertEqual(len(levels), 3)
        full = mesh_of(levels[0].body)
        for level, distance in zip(levels[1:], profile.levels, strict=True):
            allowed = 2.0 * 2 * distance * np.tan(np.radians(25.0)) / 1080
            mesh = mesh_of(level.body)
            off = max(apart(full.vertices, mesh), apart(mesh.vertices, full))
            self.assertLessEqual(off, allowed)
            self.assertGreater(level.error, 0.4 * allowed)  # no finer than it has to be
        document = pygltflib.GLTF2().load(str(self.folder / done.files[0]))
        self.assertEqual([node.mesh for node in document.nodes], [0, 1, 2, None])  # and the sun
        self.assertEqual(document.scenes[0].nodes, [0, 3])
        self.assertEqual(document.nodes[0].extensions["MSFT_lod"]["ids"], [1, 2])
        shares = document.nodes[0].extras["MSFT_screencoverage"]
        self.assertEqual((len(shares), shares[-1], shares), (3, 0.0, sorted(shares, reverse=True)))
        counts = [document.accessors[mesh.primitives[0].indices].count // 3 for mesh in document.meshes]
        self.assertEqual(counts, [level.body.corners.live_count for level in levels])
        found = subprocess.run(
            ["node", READER, self.folder / done.files[0]], capture_output=True, text=True, check=True, cwd=READER.parent
        )
        report = json.loads(found.stdout.splitlines()[0])
        self.assertEqual((report["errors"], report["warnings"]), (0, 0))
        for level, count in enumerate(counts):  # the receiver draws the level that is asked for
            parts = Glb((self.folder / done.files[0]).read_bytes(), "one", None, level).parts()
            self.assertEqual([len(part.triangles) for part in parts], [count])
        self.assertEqual(
            sum(part.triangles.shape[0] for part in read_gltf(self.folder / done.files[0]).parts), counts[0]
        )
        by_count = checked(Profile("P", files="many", levels=(1500.0, 300.0), levels_by="triangles"), "test")
        done = deliver_to(history.project, by_count, self.folder, silent())
        for level, wanted in zip(done.pieces[0].levels[1:], by_count.levels, strict=True):
            self.assertAlmostEqual(level.body.corners.live_count, wanted, delta=0.1 * wanted)

    def test_patches_along_outlines_and_of_so_many_triangles(self) -> None:
        history = History(Project())
        history.do(AddBody("sheet", {"size": 40.0, "depth": 40.0, "edge": 0.8}, "Land"))
        turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        for name, radius in (("Pond", 9.0), ("Isle", 4.0)):
            points = tuple(LinePoint((float(radius * np.cos(a)), 0.0, float(-radius * np.sin(a)))) for a in turn)
            history.do(AddLine("outline", "Land", points, name, {"cut": True, "tolerance": 0.02}))
        profile = checked(Profile("P", files="many", along_outlines=True, levels=(0.4,)), "test")
        deliver_to(history.project, profile, self.folder, silent())
        told = json.loads((self.folder / "manifest.json").read_text())
        near = {piece["name"]: piece["neighbours"] for piece in told["pieces"]}
        pond, isle, rest = "Land.Pond", "Land.Isle", "Land.outside"
        self.assertEqual(near, {rest: [pond], pond: [isle, rest], isle: [pond]})
        flat, rims = {}, {}
        for piece in told["pieces"]:
            for level in piece["levels"]:
                place, told_bytes, triangles = corners_of(self.folder / f"{level['name']}.glb")
                on = rim(triangles)
                rims[piece["name"], level["level"]] = {(place[i].tobytes(), told_bytes[i].tobytes()) for i in on}
                if not level["level"]:
                    flat[piece["name"]] = trimesh.Trimesh(place, triangles, process=False).area
        # by the area of a circle
        self.assertAlmostEqual(flat[isle], np.pi * 4.0**2, delta=0.02 * np.pi * 16)
        self.assertAlmostEqual(flat[pond], np.pi * (9.0**2 - 4.0**2), delta=0.02 * np.pi * 65)
        self.assertEqual(rims[isle, 0], rims[isle, 1])
        self.assertLess(rims[isle, 1], rims[pond, 0])
        self.assertEqual(rims[pond, 0], rims[pond, 1])
        self.assertEqual(rims[pond, 1] - rims[isle, 0], rims[rest, 1] & rims[pond, 1])
        profile = checked(Profile("P", files="many", patch_triangles=500), "test")
        done = deliver_to(history.project, profile, self.folder, silent())
        mean = np.mean([piece.levels[0].body.corners.live_count for piece in done.pieces])
        self.assertTrue(350 < mean < 800, mean)

    def test_after_a_stroke_only_what_it_touched_is_made_again(self) -> None:
        """Against the same delivery made from nothing, file by file."""
        history = land()
        for settings in ({"size": "plain"}, {}):
            profile = checked(
                Profile("P", format="glb" if settings else "usda", files="many", patch=12.0, levels=(0.4,),
                        settings=settings, collision=60, splat=32, skirt=0.5, borders=0.0 if settings else 0.3), "test",
            )  # fmt: skip
            here, fresh = self.folder / profile.format, self.folder / f"{profile.format} fresh"
            here.mkdir()
            fresh.mkdir()
            deliver_to(history.project, profile, here, silent())
            lay = {path.name: path.stat().st_ino for path in here.iterdir() if path.suffix == f".{profile.format}"}
            again = deliver_to(history.project, profile, here, silent())
            self.assertTrue(all(piece.kept is not None for piece in again.pieces))
            whole = {name: number for name, number in lay.items() if "assembly" not in name}
            self.assertEqual(whole, {name: (here / name).stat().st_ino for name in whole}, "the very same files")
            history.do(Stroke("Land", "raise", ((6.0, 0.0, 2.0),), {"radius": 1.5, "strength": 80.0}))
            damaged = next(piece.name for piece in again.pieces if piece.cell == (0, -1))
            (here / f"{damaged}.level1.{profile.format}").write_bytes(b"not what it was")
            done = deliver_to(history.project, profile, here, silent())
            anew = {piece.name for piece in done.pieces if piece.kept is None}
            self.assertIn(damaged, anew)
            self.assertLessEqual(len(anew), 3)
            whole = deliver_to(history.project, profile, fresh, silent())
            self.assertEqual(sorted(done.files), sorted(whole.files))
            for name in whole.files:
                self.assertEqual((here / name).read_bytes(), (fresh / name).read_bytes(), name)
            # another light is in every file of glTF, another ground has other columns
            history.do(SetLight(altitude=20.0 if settings else 25.0))
            done = deliver_to(history.project, profile, here, silent())
            self.assertTrue(all(piece.kept is None for piece in done.pieces))

    def test_delivered_again_is_what_it_would_be_anew_whatever_was_done(self) -> None:
        """Against the same delivery made from nothing: grids of columns and of cubes, two bodies, limits, growing meshes."""
        rng = np.random.default_rng(4)
        stood = 0
        for turn in range(4):
            history = History(Project())
            history.do(AddBody("sheet", {"size": 20.0, "depth": 16.0, "edge": 0.6}, "Land"))
            history.do(AddBody("icosphere", {"radius": 4.0, "edge": 0.6}, "Rock", (3.0, 1.0, 0.0)))
            for body in ("Land", "Rock"):
                history.do(LayRelief(body, "noise", {"height": 1.0, "size": 4.0, "seed": turn}))
            profile = checked(
                Profile("P", files="many", patch=float(rng.uniform(2.5, 7.0)), volume=turn % 2 == 1, names="plain",
                        levels=(300.0,) if turn == 3 else (), levels_by="triangles" if turn == 3 else "share",
                        most_grounds=2 if turn == 2 else 0), "test",
            )  # fmt: skip
            here = self.folder / f"{turn}"
            here.mkdir()
            deliver_to(history.project, profile, here, silent())
            for step in range(3):
                body = history.project.bodies[step % 2]
                row = rng.choice(np.flatnonzero(body.corners.first_corner >= 0))
                at = tuple(body.placed(body.vertices["position"][row].astype(np.float64)).tolist())
                brush, ground = (("raise", ""), ("smooth", ""), ("lay", history.project.ground_names[turn % 2]))[step]
                history.do(Stroke(body.name, brush, (at,), {"radius": float(rng.uniform(0.4, 1.5))}, ground))
                if step == 1:
                    told = json.loads((here / "manifest.json").read_text())
                    told["pieces"][0]["neighbours"] = ["nobody"]  # altered by hand: it is not believed
                    told["pieces"][1]["levels"] = None
                    told["pieces"][1]["seal"] = seal_of(told["pieces"][1])
                    (here / "manifest.json").write_text(json.dumps(told))
                done = deliver_to(history.project, profile, here, silent())
                stood += sum(not piece.levels for piece in done.pieces)
                fresh = self.folder / f"{turn} {step}"
                fresh.mkdir()
                whole = deliver_to(history.project, profile, fresh, silent())
                self.assertEqual(done.files, whole.files)
                for name in whole.files:
                    self.assertEqual((here / name).read_bytes(), (fresh / name).read_bytes(), f"{turn} {step} {name}")
        self.assertGreater(stood, 50)

    def test_patches_match_at_all_levels_by_the_files_alone(self) -> None:
        history = land()
        profile = checked(Profile("P", files="many", patch=12.0, levels=(0.5, 0.2), names="plain"), "test")
        done = deliver_to(history.project, profile, self.folder, silent())
        told = json.loads((self.folder / "manifest.json").read_text())
        pieces = {piece["name"]: piece for piece in told["pieces"]}
        self.assertEqual(
            len(pieces), 20
        )  # from -17 to 23 and from -25 to 15 m: 4 x 5 cells of 12 m... as many as there are
        full = history.project.bodies[0]
        area = sum(self.area(self.folder / f"{name}.glb") for name in pieces)
        whole = mesh_of(full).area
        self.assertAlmostEqual(area, whole, delta=1e-4 * whole)
        files = {}
        for name, piece in pieces.items():
            for level in piece["levels"]:
                place, told_bytes, triangles = corners_of(self.folder / f"{level['name']}.glb")
                self.assertEqual(len(triangles), level["triangles"])
                on = rim(triangles)
                files[name, level["level"]] = {place[i].tobytes(): told_bytes[i].tobytes() for i in on}
        shared = 0
        for (name, _), mine in files.items():
            for other in pieces[name]["neighbours"]:
                for level in range(3):
                    theirs = files.get((other, level), {})
                    both = set(mine) & set(theirs)
                    shared += len(both)
                    self.assertTrue(all(mine[at] == theirs[at] for at in both), f"{name} beside {other}")
        self.assertGreater(shared, 4000)
        # nothing of a rim has gone at any level, so no gap opens between different ones
        for name in pieces:
            for level in (1, 2):
                if (name, level) in files:
                    self.assertEqual(set(files[name, 0]), set(files[name, level]), name)
        self.assertEqual(sorted(done.files), sorted(path.name for path in self.folder.iterdir()))
        # delivered again after a stroke: other files lie as they were
        before = {path.name: path.read_bytes() for path in self.folder.glob("*.glb")}
        history.do(Stroke("Land", "raise", ((0.0, 0.0, -1.0),), {"radius": 1.5, "height": 0.5, "grow": "off"}))
        deliver_to(history.project, profile, self.folder, silent())
        after = {path.name: path.read_bytes() for path in self.folder.glob("*.glb")}
        changed = [name for name in after if after[name] != before.get(name)]
        self.assertTrue(changed)
        self.assertLess(len(changed), 0.35 * len(after))

    def test_borders_are_simplified_once_for_both_sides_and_all_levels(self) -> None:
        history, off = land(), 0.6
        whole, thin = self.folder / "whole", self.folder / "thin"
        for folder, borders in ((whole, 0.0), (thin, off)):
            folder.mkdir()
            profile = Profile("P", files="many", patch=12.0, levels=(0.4, 0.1), names="plain", borders=borders)
            deliver_to(history.project, checked(profile, "test"), folder, silent())
        told = json.loads((thin / "manifest.json").read_text())
        rims, uses, count = {}, dict[frozenset[bytes], int](), [0, 0]
        old = [corners_of(path) for path in whole.glob("*.glb") if ".level" not in path.name]
        ends, lines = np.concatenate([place[rim(triangles)] for place, _, triangles in old]), []
        count[0] = len(ends)
        for piece in told["pieces"]:
            full, _, corners = corners_of(whole / f"{piece['name']}.glb")
            before = trimesh.Trimesh(full, corners, process=False)
            for level in piece["levels"]:
                place, told_bytes, triangles = corners_of(thin / f"{level['name']}.glb")
                edges = rim_edges(triangles)
                rims[piece["name"], level["level"]] = {
                    (place[i].tobytes(), told_bytes[i].tobytes()) for i in rim(triangles)
                }
                mesh = trimesh.Trimesh(place, triangles, process=False)
                points, _ = trimesh.sample.sample_surface(mesh, 2000, seed=1)
                self.assertLessEqual(apart(points, before), level["error"] + 1e-5)
                points, _ = trimesh.sample.sample_surface(before, 2000, seed=1)
                self.assertLessEqual(apart(points, mesh), level["error"] + 1e-5)
                if level["level"]:
                    continue
                count[1] += len(rim(triangles))
                lines.append(place[edges])
                for edge in place[edges]:
                    both = frozenset(end.tobytes() for end in edge)
                    uses[both] = uses.get(both, 0) + 1
        for (name, number), mine in rims.items():
            self.assertEqual(mine, rims[name, 0], f"{name} at {number}")
        self.assertLess(count[1], 0.75 * count[0], count)
        # what lies along one patch alone lies along the sheet's own rim
        single = [np.frombuffer(b"".join(edge), np.float32).reshape(2, 3) for edge, n in uses.items() if n == 1]
        outer = np.abs(np.array(single).mean(axis=1)[:, (0, 2)] - (3.0, -5.0)).max(axis=1)
        self.assertGreater(outer.min(), 20.0 - 2 * off)
        self.assertEqual(set(uses.values()), {1, 2})
        # every place of the old lines lies within what was allowed of the new ones
        segments = np.concatenate(lines).astype(float)
        along = segments[:, 1] - segments[:, 0]
        for place in ends.astype(float):
            share = np.clip(((place - segments[:, 0]) * along).sum(axis=1) / (along**2).sum(axis=1), 0, 1)
            near = np.linalg.norm(segments[:, 0] + share[:, None] * along - place, axis=1).min()
            self.assertLess(near, 1.5 * off)
        with self.assertRaisesRegex(HulmoError, "borders is -1"):
            checked(Profile("P", borders=-1.0), "test")

    def test_the_six_sides_of_a_moon_match(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.5}, "Moon", (2.0, 30.0, -4.0)))
        history.do(LayRelief("Moon", "noise", {"height": 0.8}))
        history.do(Stroke("Moon", "lay", ((2.0, 35.0, -4.0),), {"radius": 6.0}, history.project.ground_names[2]))
        profile = checked(Profile("P", files="many", six_sides=True, levels=(0.4,)), "test")
        deliver_to(history.project, profile, self.folder, silent())
        rims: dict[tuple[str, int], dict[bytes, bytes]] = {}
        pieces = json.loads((self.folder / "manifest.json").read_text())["pieces"]
        sides = ("west", "east", "bottom", "top", "north", "south")
        self.assertEqual({piece["name"] for piece in pieces}, {f"Moon.{side}" for side in sides})
        for piece in pieces:
            self.assertEqual(len(piece["neighbours"]), 4)
            for level in piece["levels"]:
                place, told, triangles = corners_of(self.folder / f"{level['name']}.glb")
                rims[piece["name"], level["level"]] = {place[i].tobytes(): told[i].tobytes() for i in rim(triangles)}
        areas = sum(self.area(self.folder / f"{piece['name']}.glb") for piece in pieces)
        self.assertAlmostEqual(areas / mesh_of(history.project.bodies[0]).area, 1.0, places=4)
        for piece in pieces:
            for level in (0, 1):
                mine = rims[piece["name"], level]
                near = [rims[name, other] for name in piece["neighbours"] for other in (0, 1)]
                met = {at for theirs in near for at in theirs if at in mine and theirs[at] == mine[at]}
                self.assertEqual(met, set(mine), "every border vertex is that of a neighbour, to the bit")

    def area(self, path: pathlib.Path) -> float:
        place, _, triangles = corners_of(path)
        return float(trimesh.Trimesh(place, triangles, process=False).area)

    def test_every_shipped_profile_delivers_what_the_validator_takes(self) -> None:
        """glTF 2.0: the standard body's validator."""
        history = land(20.0)
        history.do(LayUv("Land", "above"))
        history.do(Strew("Land", ((0.0, 0.0, -5.0),), {"radius": 4.0}, {"Boulder 1": 1.0}))
        for name in shipped_profiles():
            profile = read_profile(name)
            folder = self.folder / name
            folder.mkdir()
            done = deliver_to(history.project, profile, folder, silent())
            self.assertIn("manifest.json", done.files)
            for file in [file for file in done.files if file.endswith(".glb")][:3]:
                run = subprocess.run(
                    ["node", str(READER), str(folder / file)], capture_output=True, text=True, check=True
                )
                found = json.loads(run.stdout)
                self.assertEqual((found["errors"], found["warnings"]), (0, 0), file)
            if profile.collision:
                self.assertTrue(any("collision" in file for file in done.files))

    def test_a_hand_over_shows_itself_in_a_browser_without_a_network(self) -> None:
        """It holds the very files, asks for nothing from elsewhere, and its shaders are GLSL ES 3.00 (WebGL 2); drawn in
        a real browser by hand."""
        history = land(20.0)
        profile = checked(Profile("P <b>", files="many", levels=(0.3,)), "test")
        done = hand_over(history.project, profile, self.folder, silent())
        self.assertEqual(
            set(done.files), {"Land.glb", "Land.level1.glb", "manifest.json", "readiness.json", "index.html"}
        )
        text = (self.folder / "index.html").read_text()
        self.assertNotIn("P <b>", text)
        for strange in ("http:", "https:", "src=", "@import", "fetch("):
            self.assertNotIn(strange, text)
        held = json.loads(text.split('type="application/json">')[1].split("</script>")[0])
        self.assertEqual([base64.b64decode(entry) for entry in held], [(self.folder / "Land.glb").read_bytes()])
        head = text.split('const HEAD = "')[1].split('";')[0].replace("\\n", "\n")
        shaders = Glb((self.folder / "Land.glb").read_bytes(), "Land.glb").shaders
        context = headless_context()
        try:
            vertex, fragment = (shaders[name].replace("#version 330 core\n", head) for name in ("vertex", "fragment"))
            context.program(vertex_shader=vertex, fragment_shader=fragment).release()
        finally:
            context.release()
        self.assertTrue(json.loads((self.folder / "readiness.json").read_text())["ready"])

    def test_limits_leave_the_largest_shares(self) -> None:
        weight = np.array([[0.4, 0.3, 0.2, 0.1], [0.0, 0.0, 0.5, 0.5], [1.0, 0.0, 0.0, 0.0]], np.float32)
        np.testing.assert_allclose(
            at_vertex(weight, 2), [[4 / 7, 3 / 7, 0, 0], [0, 0, 0.5, 0.5], [1, 0, 0, 0]], atol=1e-6
        )
        np.testing.assert_array_equal(at_vertex(weight, 0), weight)
        history = land()
        body = history.project.bodies[0]
        shares = body.vertices["weight"]
        corner = body.vertices["position"][body.corners.live_triangles()].astype(float)
        size = np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1)
        cover = (shares[body.corners.live_triangles()].mean(axis=1) * size[:, None]).sum(axis=0)
        kept = np.sort(np.argsort(-cover)[:2])
        found = on_body(body, shares, 2)
        self.assertEqual(np.flatnonzero(found.max(axis=0) > 0).tolist(), kept.tolist())
        np.testing.assert_allclose(found.sum(axis=1), 1.0, atol=1e-6)

    def test_images_are_made_as_small_as_the_target_takes(self) -> None:
        history = land()
        profile = Profile("P", format="gltf", texture=100, settings={"props": "none"})
        deliver_to(history.project, profile, self.folder, silent())
        document = json.loads((self.folder / "Untitled.gltf").read_text())
        grounds = document["extras"]["hulmo"]["grounds"]
        self.assertEqual([ground["name"] for ground in grounds], list(history.project.ground_names))
        for ground, was in zip(grounds, history.project.grounds, strict=True):
            for part in ("albedo", "normal", "roughness", "height"):
                if part not in ground:
                    continue
                name = document["images"][document["textures"][ground[part]]["source"]]["uri"]
                with Image.open(self.folder / urllib.parse.unquote(name)) as picture:
                    self.assertEqual(max(picture.size), 100, name)
                    small = np.asarray(picture, float) / 255
                large = part_pixels(was, part, history.project.textures) / 255.0
                if part == "albedo":  # the mean light stays (IEC 61966-2-1)
                    small, large = (
                        np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4) for v in (small, large)
                    )
                if part == "normal":
                    np.testing.assert_allclose(np.linalg.norm(2 * small - 1, axis=2), 1.0, atol=0.02)
                    small, large = small[..., :2], large[..., :2]  # they are made unit vectors again
                np.testing.assert_allclose(small.mean(axis=(0, 1)), large.mean(axis=(0, 1)), atol=0.02, err_msg=name)

    def test_images_of_shares_hold_those_of_the_vertices(self) -> None:
        history = land(12.0)
        for laid in (False, True):
            history.do(LayUv("Land", "box")) if laid else history.project.bodies[0].corners.slots.drop("uv")
            profile = Profile("P", files="many", splat=256, settings={"props": "none"})
            deliver_to(history.project, profile, self.folder, silent())
            told = json.loads((self.folder / "manifest.json").read_text())["pieces"][0]["shares"]
            pictures = [np.asarray(Image.open(self.folder / name)) for name in told["files"]]
            image = np.concatenate(pictures, axis=2).astype(int)
            np.testing.assert_array_equal(image.sum(axis=2), 255)
            body = history.project.bodies[0]
            triangles = body.corners.live_triangles()
            if laid:
                self.assertEqual(told["by"], "uv")
                spot = body.corners.slots["uv"].reshape(-1, 2)
                rows = triangles.reshape(-1)
            else:
                west, north, side = told["box"]
                rows = np.unique(triangles)
                place = body.vertices["position"][rows] + body.origin
                spot = (place[:, (0, 2)] - (west, north)) / side
            at = np.clip((spot * 256).astype(int), 0, 255)
            away = np.abs(
                image[at[:, 1], at[:, 0], : len(history.project.grounds)] - 255 * body.vertices["weight"][rows]
            )
            self.assertGreater((away.max(axis=1) <= 1.0).mean(), 0.9 if laid else 0.999)

    def test_a_skirt_hangs_from_every_border_and_changes_nothing_above(self) -> None:
        history = land(20.0)
        for skirt in (0.0, 1.5):
            profile = checked(Profile("P", files="many", patch=10.0, levels=(0.4,), skirt=skirt), "test")
            (self.folder / str(skirt)).mkdir()
            deliver_to(history.project, profile, self.folder / str(skirt), silent())
        for piece in json.loads((self.folder / "1.5" / "manifest.json").read_text())["pieces"]:
            for level in piece["levels"]:
                place, told, triangles = corners_of(self.folder / "1.5" / f"{level['name']}.glb")
                plain, had, before = corners_of(self.folder / "0.0" / f"{level['name']}.glb")
                edges = len(rim(before))  # as many edges as vertices, for its border is one loop
                self.assertEqual(len(triangles), len(before) + 2 * edges)
                whole = {p.tobytes() + t.tobytes() for p, t in zip(place, told, strict=True)}
                self.assertTrue({p.tobytes() + t.tobytes() for p, t in zip(plain, had, strict=True)} <= whole)
                hem = place[rim(triangles)]
                top = plain[rim(before)] - (0.0, 1.5, 0.0)
                np.testing.assert_allclose(hem[np.lexsort(hem.T)], top[np.lexsort(top.T)], atol=1e-5)

    def test_convex_parts_are_convex_and_cover_the_body(self) -> None:
        history = History(Project())
        history.do(AddBody("icosphere", {"radius": 3.0, "edge": 0.5}, "Ball"))
        history.do(LayRelief("Ball", "noise", {"height": 1.5, "size": 2.0}))
        history.do(AddBody("sheet", {"size": 6.0, "depth": 6.0, "edge": 1.0}, "Flat", (20.0, 0.0, 0.0)))
        profile = checked(Profile("P", format="stl", files="many", collision=100_000, convex=8), "test")
        done = deliver_to(history.project, profile, self.folder, silent())
        told = {p["name"]: p["collision"] for p in json.loads((self.folder / "manifest.json").read_text())["pieces"]}
        self.assertTrue(1 < len(told["Ball"]) <= 8)
        for body in history.project.bodies:
            planes = []
            for entry in told[body.name]:
                part = trimesh.load(self.folder / f"{entry['name']}.stl", process=True)
                self.assertIn(f"{entry['name']}.stl", done.files)
                self.assertEqual(len(part.faces), entry["triangles"])
                self.assertTrue(part.is_watertight and part.volume > 0 and part.is_convex, entry["name"])
                planes.append((part.face_normals, np.einsum("ij,ij->i", part.face_normals, part.triangles[:, 0])))
            solid = next(piece for piece in done.pieces if piece.name == body.name).levels[0].body
            place = solid.placed(solid.vertices["position"]).astype(float)
            away = np.min([(place @ normal.T - far).max(axis=1) for normal, far in planes], axis=0)
            self.assertLess(float(away.max()), 1e-4, "every place lies in a part")

    def test_left_handed_files_by_hand_computed_corners(self) -> None:
        history = History(Project())
        history.do(AddBody("block", {"size": 2.0, "height": 4.0, "depth": 6.0, "edge": 2.0}, "Block", (1.0, 0.0, -3.0)))
        # east 0 to 2, up 0 to 4, north 0 to 6 (-Z in this program)
        for up, hand, low, high in (
            ("y", "right", (0, 0, -6), (2, 4, 0)), ("y", "left", (0, 0, 0), (2, 4, 6)),
            ("z", "right", (0, 0, 0), (2, 6, 4)), ("z", "left", (0, -6, 0), (2, 0, 4)),
        ):  # fmt: skip
            for ending in ("obj", "stl", "ply"):
                exporter, path = EXPORTERS[ending], self.folder / f"block.{ending}"
                exporter.write(
                    history.project, path, complete(exporter.settings, {"up": up, "hand": hand}, "P"), silent()
                )
                mesh = trimesh.load(path, force="mesh", process=True)
                np.testing.assert_allclose(mesh.bounds, (low, high), atol=1e-5, err_msg=f"{up} {hand} {ending}")
                self.assertAlmostEqual(mesh.volume, 48.0, places=3)  # faces look outward

    def test_what_goes_wrong_is_found_cured_or_waived(self) -> None:
        history = land(20.0)
        history.do(AddBody("icosphere", {"radius": 2.0, "edge": 0.5}, "A rock/1", (2e6, 0.0, 0.0)))
        history.do(AddBody("icosphere", {"radius": 2.0, "edge": 0.5}, "A rock:1"))
        history.do(LayUv("Land", "above", unit=0.5))
        profile = checked(Profile("P", triangles=900, most_at_vertex=1, vertices=100, texture=16, format="obj"), "test")
        found, _ = findings(history.project, profile, silent())
        kinds = {(entry.check, entry.body) for entry in found}
        for wanted in (
            ("budget triangles", ""), ("budget vertices", "Land"), ("budget grounds", "Land"), ("uv outside", "Land"),
            ("textures large", ""), ("place far", "A rock/1"), ("names clash", "A rock:1"),
        ):  # fmt: skip
            self.assertIn(wanted, kinds)
        self.assertTrue(all(entry.advice for entry in found))
        self.assertEqual([entry.fails for entry in found], sorted((entry.fails for entry in found), reverse=True))
        cure = next(entry.cure for entry in found if entry.check == "budget triangles")
        assert cure is not None
        history.do(cure)
        left, _ = findings(history.project, profile, silent())
        self.assertNotIn("budget triangles", {entry.check for entry in left}, "it cures what it is of")
        history.do(Waive("uv outside", "Land", "tiles on purpose"))
        save_project(history.project, self.folder / "p.hulmo")
        again = open_project(self.folder / "p.hulmo")
        self.assertEqual(again.waivers, history.project.waivers)
        found, waived = findings(again, profile, silent())
        self.assertNotIn(("uv outside", "Land"), {(entry.check, entry.body) for entry in found})
        self.assertIn(("uv outside", "Land"), {(entry.check, entry.body) for entry in waived})
        history.undo()
        self.assertEqual(history.project.waivers, ())
        with self.assertRaisesRegex(HulmoError, "not waived"):
            history.do(Waive("uv outside", "Land"))
        (self.folder / "own.json").write_bytes(msgspec.json.encode(profile))
        with contextlib.redirect_stdout(io.StringIO()) as out:
            words = ["check", str(self.folder / "p.hulmo"), "--json", "--profile", str(self.folder / "own.json")]
            self.assertEqual(main(words), 1)
        said = json.loads(out.getvalue())
        self.assertFalse(said["ready"])
        self.assertEqual(said["waived"][0]["reason"], "tiles on purpose")

    def test_bad_profiles_and_folders(self) -> None:
        history = land(10.0)
        for change, words in (
            ({"format": "fbx"}, "format"), ({"levels": (0.2, 0.5), "files": "many"}, "levels"), ({"patch": -1.0}, "patch"),
            ({"levels": (0.5,), "format": "obj"}, "files"), ({"levels_by": "luck"}, "levels_by"),
            ({"levels": (40.0, 20.0), "levels_by": "distance"}, "rising"),
            ({"levels": (90.5,), "levels_by": "triangles"}, "whole"),
            ({"patch_triangles": 7, "files": "many"}, "patch_triangles"),
            ({"patch": 4.0, "along_outlines": True, "files": "many"}, "one at a time"),
            ({"settings": {"hue": 1}}, "hue"), ({"pixels": float("nan")}, "pixels"),
            ({"most_at_vertex": 99}, "most_at_vertex"), ({"names": "loud"}, "names"),
        ):  # fmt: skip
            with self.subTest(change), self.assertRaisesRegex(HulmoError, words):
                checked(msgspec.structs.replace(Profile("P"), **change), "test")  # type: ignore[arg-type]
        (self.folder / "p.json").write_text('{"name": 3}')
        for name in ("p.json", "none.json"):
            with self.assertRaisesRegex(HulmoError, name):
                read_profile(str(self.folder / name))
        with self.assertRaisesRegex(HulmoError, "would be"):
            patches_of(history.project.bodies[0], 0.02, False, silent())
        with self.assertRaisesRegex(HulmoError, "no such folder"):
            deliver_to(history.project, Profile("P"), self.folder / "gone", silent())
        (self.folder / "Untitled.glb").write_bytes(b"mine")
        with self.assertRaisesRegex(HulmoError, "in the way"):
            deliver_to(history.project, Profile("P"), self.folder, silent())
        self.assertEqual((self.folder / "Untitled.glb").read_bytes(), b"mine")
        self.assertEqual(list(self.folder.glob(".hulmo-*")), [], "nothing half-written")

    def test_a_delivery_that_is_killed_is_gone_on_with_and_nothing_of_others_is_lost(self) -> None:
        history = land(10.0)
        profile = checked(Profile("P", files="many", levels=(0.5, 0.2)), "test")
        replace, left = pathlib.Path.replace, [2]

        def killed(path: pathlib.Path, target: pathlib.Path) -> pathlib.Path:
            left[0] -= 1
            if left[0] < 0:
                raise KeyboardInterrupt
            return replace(path, target)

        with mock.patch.object(pathlib.Path, "replace", killed), self.assertRaises(KeyboardInterrupt):
            hand_over(history.project, profile, self.folder, silent())
        self.assertTrue((self.folder / "Land.glb").exists(), "it was in the middle")
        left = self.folder / ".hulmo-left.part"  # of a process that was killed long ago
        left.mkdir()
        os.utime(left, (0, 0))
        done = hand_over(history.project, profile, self.folder, silent())
        self.assertEqual(sorted(done.files), sorted(path.name for path in self.folder.iterdir()))
        self.assertNotIn("unfinished", json.loads((self.folder / "manifest.json").read_text()))
        deliver_to(history.project, Profile("P"), self.folder, silent())
        self.assertEqual({path.name for path in self.folder.iterdir()}, {"Untitled.glb", "manifest.json"})
        for name, text in (("index.html", "mine"), ("manifest.json", "{}")):
            path = self.folder / name
            path.write_text(text)
            with self.assertRaisesRegex(HulmoError, f"{name}: is in the way"):
                hand_over(history.project, profile, self.folder, silent())
            self.assertEqual(path.read_text(), text)

    def test_a_locked_border_and_uv_of_pieces_that_touch_in_a_point_are_kept(self) -> None:
        history = land(10.0)
        history.do(LockBorder("Land"))
        deliver_to(history.project, Profile("P", files="many", levels=(0.3,)), self.folder, silent())
        rims = []
        for name in ("Land", "Land.level1"):
            place, told, triangles = corners_of(self.folder / f"{name}.glb")
            rims.append({place[i].tobytes() + told[i].tobytes() for i in rim(triangles)})
        self.assertEqual(*rims)
        # a saddle that stands on its side: where it is cut through its middle two parts of a patch touch in that point
        v, u = (part.reshape(-1).astype(float) for part in np.mgrid[-4:5, -4:5])
        place = np.stack((u * u - v * v, u, v), axis=1).astype(np.float32)
        square = (np.arange(72).reshape(8, 9)[:, :8]).reshape(-1)
        triangles = np.concatenate((square[:, None] + (0, 1, 10), square[:, None] + (0, 10, 9))).astype(np.int32)
        slots = SlotTable(len(triangles))
        slots.set("corner", "uv", place[triangles][..., 1:] / 10)
        table = VertexTable(len(place))
        table.set_column("position", place)
        body = Body("Saddle", table, CornerTable.from_triangles(triangles, len(place), slots))
        body.replaced()
        found = taken_apart(patches_of(body, 100.0, False, silent()), 0.0, False, silent())
        self.assertEqual(len(found), 4)
        for patch in found:
            corner = patch.body.vertices["position"][patch.body.corners.triangles]
            np.testing.assert_allclose(patch.body.corners.slots["uv"], corner[..., 1:] / 10, atol=1e-6)


if __name__ == "__main__":
    unittest.main()
