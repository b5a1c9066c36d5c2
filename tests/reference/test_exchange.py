"""Exported files against the standards' own validator and independent readers."""

import json
import pathlib
import subprocess
import tempfile
import unittest
from typing import Any

import numpy as np
import plyfile
import trimesh
from PIL import Image

from hulmo.core.colour import linear_to_srgb
from hulmo.core.commands import (
    AddBody,
    AddGround,
    ChangeBody,
    ChangeGround,
    ImportBody,
    LayRelief,
    RemoveGround,
    SetBlend,
)
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.history import History
from hulmo.core.io.blend_table import TABLE
from hulmo.core.io.blend_text import blend_glsl, light_glsl
from hulmo.core.io.delivery import mean_colours, split_at_seams
from hulmo.core.io.exporters import exporter_for
from hulmo.core.io.number_text import face_lines, lines_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.measure import measure
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.setting import complete
from tests.bodies import project_with, stroke

READER = pathlib.Path(__file__).parent / "node" / "read.mjs"


def export(history: History, path: pathlib.Path, **given: str | bool) -> None:
    exporter = exporter_for(path)
    exporter.write(history.project, path, complete(exporter.settings, given, "test"), silent())


def painted(form: str, grounds: int) -> History:
    history = project_with(form)
    while len(history.project.grounds) < grounds:
        history.do(AddGround("scree"))
    while len(history.project.grounds) > grounds:
        history.do(RemoveGround(history.project.grounds[-1].name))
    for i, ground in enumerate(history.project.grounds[1:]):
        ray = (np.cos(i) * 9, 2.0, np.sin(i) * 9, -np.cos(i), -0.2, -np.sin(i))
        history.do(stroke("lay", tuple(map(float, ray)), ground=ground.name, radius=3.0, strength=70.0))
    return history


class GlbTest(unittest.TestCase):
    """glTF 2.0 (Khronos; ISO/IEC 12113:2022): its validator from npm `gltf-validator`, two readers that are not ours."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = pathlib.Path(folder.name)
        cls.cases: dict[str, tuple[History, dict[str, str]]] = {
            "ball": (painted("icosphere", 4), {}),
            "ball_weights": (painted("icosphere", 6), {"colour": "weights"}),
            "sheet": (painted("sheet", 8), {}),
            "one": (painted("block", 1), {}),
        }
        tinted = painted("block", 16)
        tinted.do(stroke("tint", (0.0, 9.0, 0.0, 0.0, -1.0, 0.0), radius=2.0))
        tinted.do(
            ChangeGround(tinted.project.grounds[-1].name, values={"plain": ["albedo", "height"], "break_up": True})
        )
        cls.cases["tinted"] = (tinted, {})
        two = painted("disc", 5)
        two.do(AddBody("block", {"edge": 1.0}, "Rock", (10.0, 0.0, 0.0)))
        two.do(SetBlend("linear"))
        cls.cases["two"] = (two, {})
        for name, (history, given) in cls.cases.items():
            export(history, cls.folder / f"{name}.glb", **given)
        files = [str(cls.folder / f"{name}.glb") for name in cls.cases]
        done = subprocess.run(["node", str(READER), *files], capture_output=True, text=True, check=False)
        if done.returncode != 0:
            raise AssertionError(f"the glTF reader failed; ./run-tests installs it. {done.stderr}")
        lines = done.stdout.splitlines()
        cls.read: dict[str, Any] = {name: json.loads(line) for name, line in zip(cls.cases, lines, strict=True)}

    def test_the_validator_has_nothing_to_say(self) -> None:
        for name, found in self.read.items():
            self.assertEqual((found["errors"], found["warnings"]), (0, 0), name)

    def test_attributes_are_as_promised(self) -> None:
        for name, (history, _) in self.cases.items():
            grounds = len(history.project.grounds)
            for body, mesh in zip(history.project.bodies, self.read[name]["meshes"], strict=True):
                found = mesh["attributes"]
                sets = [f"_GROUND_{i}" for i in range(-(-grounds // 4))]
                tint = ["_TINT"] if "tint" in body.vertices else []
                self.assertEqual(set(found), {"POSITION", "NORMAL", "COLOR_0", "TEXCOORD_0", *sets, *tint})
                self.assertEqual(mesh["triangles"], body.corners.count)
                self.assertEqual(found["POSITION"]["count"], body.vertices.count)
                for key in sets:
                    kind = found[key]["type"], found[key]["component"], found[key]["normalized"]
                    self.assertEqual(kind, ("VEC4", 5123, True))
                weights = np.concatenate([found[key]["mean"] for key in sets])[:grounds]
                np.testing.assert_allclose(weights, body.vertices["weight"].mean(axis=0), atol=1e-4)
                if len(sets) == 1:  # normalised, one set: every vertex sums to exactly 65535 / 65535
                    self.assertEqual(
                        (round(found[sets[0]]["least"] * 65535, 6), round(found[sets[0]]["most"] * 65535, 6)),
                        (65535, 65535),
                    )

    def test_colour_is_the_mean_of_the_grounds_or_the_weights(self) -> None:
        history = self.cases["ball"][0]
        means = history.project.bodies[0].vertices["weight"] @ mean_colours(history.project.grounds, {})
        colour = self.read["ball"]["meshes"][0]["attributes"]["COLOR_0"]["mean"]
        np.testing.assert_allclose(colour, [*means.mean(axis=0), 1.0], atol=1e-4)
        found = self.read["ball_weights"]["meshes"][0]["attributes"]
        means = [*found["_GROUND_0"]["mean"], *found["_GROUND_1"]["mean"]]
        named = self.read["ball_weights"]["extras"]["hulmo"]["vertex_colour"]["weights_of"]
        names = self.cases["ball_weights"][0].project.ground_names
        most = sorted(sorted(range(6), key=lambda i: -means[i])[:4])
        self.assertEqual(named, [names[i] for i in most], "the four that most lies of")
        np.testing.assert_allclose(found["COLOR_0"]["mean"], [means[i] for i in most], atol=1e-9)

    def test_grounds_textures_and_formula_are_in_the_file(self) -> None:
        for name, (history, _) in self.cases.items():
            extras = self.read[name]["extras"]["hulmo"]
            self.assertEqual(extras["blend"]["glsl"], blend_glsl())
            self.assertEqual(extras["blend"]["mode"], history.project.blend.mode)
            for i, (ground, entry) in enumerate(zip(history.project.grounds, extras["grounds"], strict=True)):
                self.assertEqual((entry["name"], entry["tile"], entry["tint"]), (ground.name, ground.tile, ground.tint))
                self.assertEqual((entry["attribute"], entry["component"]), (f"_GROUND_{i // 4}", i % 4))
                for part in ("albedo", "normal", "roughness", "height"):
                    if part in ground.plain:
                        self.assertIn(f"{part}_value", entry)
                        continue
                    image = self.read[name]["images"][entry[part]]
                    self.assertEqual(image, [f"{ground.texture} {part}", "image/jpeg", [512, 512]])

    def test_a_second_reader_finds_the_same_surface(self) -> None:
        scene = trimesh.load(self.folder / "two.glb", process=False)
        for body in self.cases["two"][0].project.bodies:
            mesh = scene.geometry[body.name]
            np.testing.assert_array_equal(mesh.vertices.astype(np.float32), body.vertices["position"])
            np.testing.assert_array_equal(mesh.faces, body.corners.triangles)
            np.testing.assert_allclose(mesh.vertex_normals, body.vertices["normal"], atol=1e-6)
            weights = np.column_stack([mesh.vertex_attributes[f"_GROUND_{i}"] for i in range(2)]).astype(np.int64)
            self.assertEqual(np.unique(weights.sum(axis=1)).tolist(), [65535])

    def test_seams_split_only_what_differs(self) -> None:
        triangles = np.array([[0, 1, 2], [2, 1, 3]], np.int32)
        uv = np.array([[[0, 0], [1, 0], [0, 1]], [[0, 1], [1, 0], [1, 1]]], np.float32)
        self.assertIsNone(split_at_seams(triangles, 4, uv)[0])
        uv[1, 0] = (0.5, 0.5)
        rows, faces, flat = split_at_seams(triangles, 4, uv)
        assert rows is not None and flat is not None
        self.assertEqual(sorted(rows.tolist()), [0, 1, 2, 2, 3])
        np.testing.assert_array_equal(rows[faces], triangles)
        np.testing.assert_array_equal(flat[faces], uv)

    def test_the_documented_formula_is_the_shipped_one(self) -> None:
        page = (pathlib.Path(__file__).parents[2] / "docs" / "blend-formula.md").read_text(encoding="utf-8")
        for text in (blend_glsl(), light_glsl(), *(f"| `{row.key}` | {row.meaning} |" for row in TABLE)):
            self.assertIn(text.strip(), page)


class PlyTest(unittest.TestCase):
    def test_read_back_by_an_independent_library(self) -> None:
        history = painted("icosphere", 5)
        body = history.project.bodies[0]
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder) / "a.ply"
            export(history, path)
            data = plyfile.PlyData.read(str(path))
        vertex = data["vertex"]
        np.testing.assert_array_equal(np.column_stack([vertex[axis] for axis in "xyz"]), body.vertices["position"])
        np.testing.assert_allclose(
            np.column_stack([vertex[f"n{axis}"] for axis in "xyz"]), body.vertices["normal"], atol=1e-6
        )
        weights = np.column_stack([vertex[f"ground_{i}"] for i in range(5)])
        np.testing.assert_allclose(weights, body.vertices["weight"], atol=1.5 / 65535)
        np.testing.assert_array_equal(np.vstack(data["face"]["vertex_indices"]), body.corners.triangles)
        colour = linear_to_srgb(body.vertices["weight"] @ mean_colours(history.project.grounds, {})) * 255
        np.testing.assert_allclose(np.column_stack([vertex[c] for c in ("red", "green", "blue")]), colour, atol=0.6)


class LooseTest(unittest.TestCase):
    """OBJ with MTL (Wavefront) and STL (3D Systems), read by trimesh and by their own lines."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)
        self.history = painted("block", 3)
        self.history.do(AddBody("icosphere", {"radius": 2.0, "edge": 0.5}, "A ball", (1000.0, 3.0, -7.0)))

    def test_numbers_as_text_tell_every_float(self) -> None:
        rng = np.random.default_rng(8)
        bits = rng.integers(0, 1 << 32, 200_003, np.uint32).view(np.float32)
        single = np.where(np.isfinite(bits), bits, np.float32(0.1)).astype(np.float32)
        double = single.astype(np.float64) * 1.1
        for values in (single, double):
            rows = np.resize(values, (len(values) // 3, 3))
            text = b"".join(lines_of("v", rows)).decode().splitlines()
            words = [line.split(" ") for line in text]
            self.assertEqual({tuple(len(word) > 0 for word in line) for line in words}, {(True,) * 4})
            again = np.array([line[1:] for line in words], np.float64).astype(rows.dtype)
            np.testing.assert_array_equal(again, rows)
        faces = rng.integers(1, 10 ** rng.integers(1, 18, 250_000 * 6)).reshape(-1, 3, 2)
        lines = b"".join(face_lines(faces, "//")).decode().splitlines()
        wanted = ["f " + " ".join(f"{a}//{b}" for a, b in face) for face in faces[::997].tolist()]
        self.assertEqual((len(lines), lines[::997]), (len(faces), wanted))

    def test_stl_holds_every_triangle_in_its_units(self) -> None:
        bodies = self.history.project.bodies
        volume = sum(measure(body).volume for body in bodies)
        for unit, scale in (("m", 1.0), ("mm", 1000.0), ("ft", 1 / 0.3048)):
            for up in ("y", "z"):
                export(self.history, self.folder / "a.stl", unit=unit, up=up)
                mesh = trimesh.load(self.folder / "a.stl")
                self.assertEqual(len(mesh.faces), sum(body.corners.live_count for body in bodies))
                self.assertTrue(mesh.is_watertight)
                self.assertAlmostEqual(mesh.volume / scale**3 / volume, 1.0, 4)
                high = mesh.bounds[1][1 if up == "y" else 2] / scale
                self.assertAlmostEqual(high, max(b.placed(b.vertices["position"])[:, 1].max() for b in bodies), 3)

    def test_obj_keeps_places_objects_normals_and_materials(self) -> None:
        bodies = self.history.project.bodies
        export(self.history, self.folder / "a.obj")
        lines = (self.folder / "a.obj").read_text().splitlines()
        self.assertEqual([line for line in lines if line.startswith("o ")], ["o Body", "o A_ball"])
        used = {line.split()[1] for line in lines if line.startswith("usemtl")}
        listed = {line.split()[1] for line in (self.folder / "a.mtl").read_text().splitlines() if "newmtl" in line}
        self.assertEqual(listed, {ground.name.replace(" ", "_") for ground in self.history.project.grounds})
        self.assertLessEqual(used, listed)
        self.assertGreater(len(used), 1)
        mesh = trimesh.load(self.folder / "a.obj", force="mesh", process=False)
        self.assertAlmostEqual(mesh.volume / sum(measure(body).volume for body in bodies), 1.0, 5)
        places = np.array([line.split()[1:4] for line in lines if line.startswith("v ")], float)
        ball = bodies[1].placed(bodies[1].vertices["position"])
        np.testing.assert_array_equal(places[-len(ball) :].astype(np.float32), ball.astype(np.float32))
        normals = np.array([line.split()[1:4] for line in lines if line.startswith("vn ")], float)
        np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1.0, atol=1e-5)
        # back in: objects become bodies again
        again = History(Project())
        again.do(ImportBody(str(self.folder / "a.obj"), parts="bodies"))
        found = {body.name: measure(body).volume for body in again.project.bodies}
        self.assertEqual(sorted(found), ["A_ball", "Body"])
        for name, body in zip(("Body", "A_ball"), bodies, strict=True):
            self.assertAlmostEqual(found[name] / measure(body).volume, 1.0, 5)

    def test_obj_colours_come_back_where_no_material_is(self) -> None:
        export(self.history, self.folder / "a.obj", materials=False)
        self.assertFalse((self.folder / "a.mtl").exists())
        again = History(Project())
        again.do(ImportBody(str(self.folder / "a.obj"), weights="colour"))
        self.assertGreater(float(np.ptp(again.project.bodies[0].vertices["weight"][:, 0])), 0.005)


class RoundTripTest(unittest.TestCase):
    """What is delivered comes back whole."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)

    def test_weights_grounds_textures_and_tint_come_back(self) -> None:
        history = painted("icosphere", 6)
        moss = self.folder / "moss"
        moss.mkdir()
        Image.new("RGB", (8, 8), (40, 90, 30)).save(moss / "moss_albedo.png")
        history.do(AddGround(str(moss), "Moss", tile=3.0, tint="#ddeeff"))
        history.do(ChangeGround("Moss", values={"roughness": 0.4, "plain": ["normal", "roughness", "height"]}))
        history.do(stroke("lay", (0.0, 0.0, 9.0, 0.0, 0.0, -1.0), ground="Moss", radius=3.0))
        history.do(stroke("tint", (0.0, 9.0, 0.0, 0.0, -1.0, 0.0), radius=2.0))
        body, project = history.project.bodies[0], history.project
        for ending in ("glb", "ply"):
            export(history, self.folder / f"a.{ending}")
            back = History(Project())
            back.do(ImportBody(str(self.folder / f"a.{ending}"), "Back"))
            came = back.project.bodies[0]
            at = {tuple(place): i for i, place in enumerate(came.vertices["position"])}
            rows = np.array([at[tuple(place)] for place in body.vertices["position"]])
            for column, ground in enumerate(project.grounds):
                mine = body.vertices["weight"][:, column]
                if not mine.any():
                    continue
                place = back.project.ground_named(ground.name, "test")
                np.testing.assert_allclose(came.vertices["weight"][rows, place], mine, atol=2e-5)
                other = back.project.grounds[place]
                if ending == "glb":
                    if ground.name == "Moss":
                        self.assertEqual(dict(back.project.textures[other.texture]), dict(project.textures["moss"]))
                        other = type(other)(
                            **{**{f: getattr(other, f) for f in other.__struct_fields__}, "texture": "moss"}
                        )
                    self.assertEqual(other, ground)
            np.testing.assert_allclose(came.vertices["tint"][rows], body.vertices["tint"], atol=1e-6)
            np.testing.assert_allclose(came.vertices["hand"].sum(axis=1), 1.0, atol=1e-6)
            back.undo()
            self.assertEqual(len(back.project.grounds), 4)

    def test_only_what_is_used_and_shown_is_delivered(self) -> None:
        history = painted("icosphere", 4)
        history.do(AddGround("scree"))
        history.do(AddBody("block", {}, "Rock", (20.0, 0.0, 0.0)))
        history.do(ChangeBody("Rock", shown=False))
        export(history, self.folder / "a.glb", colour="weights")
        document = trimesh.load(self.folder / "a.glb", process=False)
        self.assertEqual(list(document.geometry), ["Body"])
        data = (self.folder / "a.glb").read_bytes()
        found = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
        names = [entry["name"] for entry in found["extras"]["hulmo"]["grounds"]]
        self.assertEqual(names, list(history.project.ground_names[:4]), "nothing lies of the fifth")
        self.assertEqual(found["extras"]["hulmo"]["vertex_colour"], {"weights_of": names})
        pictured = {texture["source"] for texture in found["textures"]}
        self.assertEqual(pictured, set(range(len(found["images"]))), "every image is a texture")
        wanted = {
            entry[key]["index"]
            for entry in found["materials"]
            for entry, key in (
                (entry.get("pbrMetallicRoughness", {}), "baseColorTexture"),
                (entry.get("pbrMetallicRoughness", {}), "metallicRoughnessTexture"),
                (entry, "normalTexture"), (entry, "occlusionTexture"),
            )
            if key in entry
        }  # fmt: skip
        self.assertEqual(wanted, pictured, "every texture is a material's")

    def test_parts_become_bodies_or_regions(self) -> None:
        # trimesh writes the scenes: objects in an OBJ file, nodes in a GLB file
        scene = trimesh.Scene()
        sizes = {"Rock": 1.0, "Bush": 2.0, "Post": 3.0}
        for i, (name, size) in enumerate(sizes.items()):
            scene.add_geometry(trimesh.creation.box((size, size, size)).apply_translation((10.0 * i, 0, 0)), name, name)
        for ending in ("obj", "glb"):
            file = self.folder / f"parts.{ending}"
            scene.export(file)
            history = History(Project())
            history.do(ImportBody(str(file), parts="bodies"))
            found = {body.name: measure(body) for body in history.project.bodies}
            self.assertEqual(sorted(found), sorted(sizes))
            for name, size in sizes.items():
                self.assertAlmostEqual(found[name].volume, size**3, 4)
            history.undo()
            self.assertEqual(history.project.bodies, ())
            history.do(ImportBody(str(file), parts="regions"))
            (body,) = history.project.bodies
            regions = body.corners.slots["region"][:, 0, 0]
            self.assertEqual(sorted(np.unique(regions).tolist()), [1.0, 2.0, 3.0])
            for region in (1, 2, 3):  # each is one box
                rows = np.unique(body.corners.triangles[regions == region])
                extent = np.ptp(body.vertices["position"][rows], axis=0)
                np.testing.assert_allclose(extent, extent[0], rtol=1e-6)
            history.undo()
            history.do(ImportBody(str(file)))
            self.assertEqual(len(history.project.bodies), 1)
            self.assertNotIn("region", history.project.bodies[0].corners.slots)
        with self.assertRaises(InvalidInput):
            history.do(ImportBody(str(file), parts="many"))

    def test_a_file_of_two_pieces_with_transforms_and_a_buffer_beside_it(self) -> None:
        # recomputed by an independent reader
        scene = trimesh.Scene()
        for i, form in enumerate((trimesh.creation.box((1, 2, 3)), trimesh.creation.icosphere(2))):
            turn = trimesh.transformations.rotation_matrix(0.4 + i, (1, 2, 3), (5, 6, 7))
            turn[:3, :3] *= -1.0 if i else 2.0
            scene.add_geometry(form, transform=turn)
        for name, data in trimesh.exchange.gltf.export_gltf(scene).items():
            (self.folder / name).write_bytes(data)
        history = History(Project())
        history.do(ImportBody(str(self.folder / "model.gltf")))
        mine = trimesh.Trimesh(*_mesh_of(history.project.bodies[0]), process=False)
        other = scene.to_geometry()
        np.testing.assert_allclose(mine.bounds, other.bounds, atol=1e-5)
        self.assertAlmostEqual(mine.area, other.area, places=3)
        self.assertGreater(mine.volume, 0)
        next(self.folder.glob("*.bin")).unlink()
        with self.assertRaisesRegex(FileProblem, "has to lie beside it"):
            history.do(ImportBody(str(self.folder / "model.gltf")))


class ThisWayUpTest(unittest.TestCase):
    """Which way an image lies: a picture of an F through every importer, exporter and the relief by UV.

    glTF 2.0, 3.8: texture coordinates begin at the upper left corner of an image. OBJ and PLY: at the lower left (common
    practice, no source; so does trimesh).
    """

    SIDE = 64

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)
        pixels = np.zeros((self.SIDE, self.SIDE), np.uint8)
        pixels[8:56, 12:22] = pixels[8:18, 12:52] = pixels[28:38, 12:40] = 255
        self.letter = pixels
        Image.fromarray(pixels).save(self.folder / "f.png")

    def read(self, position: np.ndarray, uv: np.ndarray, lower_left: bool) -> np.ndarray:
        """Grey of the picture at (N, 3) places over a sheet 8 m wide, seen from above with north up, as (32, 32)."""
        column = np.clip((uv[:, 0] * self.SIDE).astype(int), 0, self.SIDE - 1)
        line = np.clip(((1 - uv[:, 1] if lower_left else uv[:, 1]) * self.SIDE).astype(int), 0, self.SIDE - 1)
        seen = np.zeros((32, 32))
        x = np.clip(((position[:, 0] / 8 + 0.5) * 32).astype(int), 0, 31)
        z = np.clip(((position[:, 2] / 8 + 0.5) * 32).astype(int), 0, 31)
        seen[z, x] = self.letter[line, column]
        return seen

    def same(self, seen: np.ndarray) -> None:
        expected = self.letter.reshape(32, 2, 32, 2).mean(axis=(1, 3))
        self.assertGreater(float(np.corrcoef(seen.ravel(), expected.ravel())[0, 1]), 0.9)

    def test_through_relief_exporters_and_importers(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.125)
        body = history.project.bodies[0]
        flat = body.vertices["position"].copy()
        history.do(
            LayRelief(
                "Body", "image", {"image": str(self.folder / "f.png"), "mapping": "uv", "height": 1.0, "flat": 0.0}
            )
        )
        height = body.vertices["position"][:, 1]
        seen = np.zeros((32, 32))
        seen[
            np.clip(((flat[:, 2] / 8 + 0.5) * 32).astype(int), 0, 31),
            np.clip(((flat[:, 0] / 8 + 0.5) * 32).astype(int), 0, 31),
        ] = height
        self.same(seen)
        history.undo()
        export(history, self.folder / "a.glb")
        export(history, self.folder / "a.ply")
        data = plyfile.PlyData.read(str(self.folder / "a.ply"))["vertex"]
        place = np.column_stack([data[axis] for axis in "xyz"])
        self.same(self.read(place, np.column_stack((data["s"], data["t"])), True))
        other = trimesh.load(self.folder / "a.glb", process=False, force="mesh")  # it turns them to the lower left
        self.same(self.read(other.vertices, other.visual.uv, True))
        other.export(self.folder / "b.obj")
        other.export(self.folder / "b.glb")
        for name in ("a.glb", "a.ply", "b.obj", "b.glb"):
            back = History(Project())
            back.do(ImportBody(str(self.folder / name)))
            again = back.project.bodies[0]
            uv = again.corners.uv
            assert uv is not None, name
            corner = again.vertices["position"][again.corners.triangles].reshape(-1, 3)
            self.same(self.read(corner, uv.reshape(-1, 2), False))


def _mesh_of(body: Body) -> tuple[np.ndarray, np.ndarray]:
    return body.vertices["position"].astype(float) + body.origin, body.corners.live_triangles()


if __name__ == "__main__":
    unittest.main()
