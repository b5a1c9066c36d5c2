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

from hulmo.core.colour import linear_to_srgb
from hulmo.core.commands import AddBody, AddGround, ChangeGround, RemoveGround, SetBlend
from hulmo.core.history import History
from hulmo.core.io.blend_text import blend_glsl
from hulmo.core.io.delivery import mean_colours, split_at_seams
from hulmo.core.io.exporters import exporter_for
from hulmo.core.progress import silent
from hulmo.core.setting import complete
from tests.bodies import project_with, stroke

READER = pathlib.Path(__file__).parent / "node" / "read.mjs"


def export(history: History, path: pathlib.Path, **given: str) -> None:
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
                uv = ["TEXCOORD_0"] if body.corners.uv is not None else []
                tint = ["_TINT"] if "tint" in body.vertices else []
                self.assertEqual(set(found), {"POSITION", "NORMAL", "COLOR_0", *sets, *uv, *tint})
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
        means = history.project.bodies[0].vertices["weight"] @ mean_colours(history.project)
        colour = self.read["ball"]["meshes"][0]["attributes"]["COLOR_0"]["mean"]
        np.testing.assert_allclose(colour, [*means.mean(axis=0), 1.0], atol=1e-4)
        found = self.read["ball_weights"]["meshes"][0]["attributes"]
        np.testing.assert_allclose(found["COLOR_0"]["mean"], found["_GROUND_0"]["mean"], atol=1e-9)

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
        page = pathlib.Path(__file__).parents[2] / "docs" / "blend-formula.md"
        self.assertIn(blend_glsl().strip(), page.read_text(encoding="utf-8"))


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
        colour = linear_to_srgb(body.vertices["weight"] @ mean_colours(history.project)) * 255
        np.testing.assert_allclose(np.column_stack([vertex[c] for c in ("red", "green", "blue")]), colour, atol=0.6)


if __name__ == "__main__":
    unittest.main()
