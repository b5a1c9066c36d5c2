"""Waters, props, lamps and cameras in a GLB: the standard's validator, and a reading by hand of every instance."""

import json
import math
import pathlib
import struct
import subprocess
import tempfile
import unittest
from typing import Any

import numpy as np

from hulmo.core.commands import AddObject, AddWater, SetLight, SetViewpoint, Strew
from hulmo.core.history import History
from hulmo.core.io.exporters import exporter_for
from hulmo.core.io.importer import read_mesh
from hulmo.core.mesh.strewn import frames
from hulmo.core.progress import silent
from hulmo.core.setting import complete
from tests.bodies import project_with
from tests.reference.test_exchange import READER

WIDE = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}


def dressed() -> History:
    history = project_with("sheet")
    name = history.project.bodies[0].name
    history.do(Strew(name, ((0.0, 0.0, 0.0),), {"radius": 4.0, "density": 0.6}, {"Shrub": 1.0, "Boulder 3": 1.0}))
    history.do(AddWater("level_water", level=-0.3, values={"size": 30.0}))
    history.do(AddObject("lamp", at=(1.0, 2.0, 3.0), values={"lumens": 1000.0, "reach": 8.0, "colour": "#ff8000"}))
    history.do(SetLight(bearing=90.0, altitude=30.0))
    history.do(SetViewpoint("From the east", (10.0, 4.0, 2.0), (0.0, 1.0, 0.0), 50.0))
    return history


def export(history: History, path: pathlib.Path, **given: str) -> dict[str, Any]:
    exporter = exporter_for(path)
    exporter.write(history.project, path, complete(exporter.settings, given, "test"), silent())
    data = path.read_bytes()
    length = struct.unpack_from("<I", data, 12)[0]
    document: dict[str, Any] = json.loads(data[20 : 20 + length])
    document["binary"] = data[28 + length :]
    return document


def values(document: dict[str, Any], index: int) -> np.ndarray:
    accessor = document["accessors"][index]
    view = document["bufferViews"][accessor["bufferView"]]
    kind = {5123: np.uint16, 5125: np.uint32, 5126: np.float32}[accessor["componentType"]]
    wide = WIDE[accessor["type"]]
    return np.frombuffer(document["binary"], kind, accessor["count"] * wide, view.get("byteOffset", 0)).reshape(
        -1, wide
    )


def turned(way: np.ndarray) -> np.ndarray:
    x, y, z, w = way
    return np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ])  # fmt: skip


class DressDeliveryTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = pathlib.Path(folder.name)
        cls.history = dressed()
        cls.documents = {name: export(cls.history, cls.folder / f"{name}.glb", props=name)
                         for name in ("instances", "nodes", "none")}  # fmt: skip

    def test_the_validator_has_nothing_to_say(self) -> None:
        files = [str(self.folder / f"{name}.glb") for name in self.documents]
        done = subprocess.run(["node", str(READER), *files], capture_output=True, text=True, check=True)
        for line in done.stdout.splitlines():
            found = json.loads(line)
            self.assertEqual((found["errors"], found["warnings"]), (0, 0))

    def test_every_instance_stands_where_it_is_drawn(self) -> None:
        body = self.history.project.bodies[0]
        pivot, matrix = frames(body, body.strewn)
        for name in ("instances", "nodes"):
            document, found = self.documents[name], []
            for node in document["nodes"]:
                mesh = document["meshes"][node["mesh"]] if "mesh" in node else {}
                if "hulmo_prop" not in mesh.get("extras", {}):
                    continue
                where = np.array(node.get("translation", (0, 0, 0)))
                if name == "nodes":
                    found.append((where, turned(node["rotation"]) * node["scale"][0]))
                    continue
                parts = node["extensions"]["EXT_mesh_gpu_instancing"]["attributes"]
                for at, way, size in zip(
                    *(values(document, parts[key]) for key in ("TRANSLATION", "ROTATION", "SCALE")), strict=True
                ):
                    found.append((where + at, turned(way.astype(float)) * size[0]))
            self.assertEqual(len(found), body.strewn.count)
            for at, way in found:
                near = int(np.argmin(np.linalg.norm(body.placed(pivot) - at, axis=1)))
                np.testing.assert_allclose(body.placed(pivot)[near], at, atol=1e-4)
                np.testing.assert_allclose(matrix[near], way, atol=1e-4)

    def test_lamp_sun_and_camera_by_hand(self) -> None:
        """KHR_lights_punctual: candela of a point light is lumens over 4 pi; lights and cameras look along -Z."""
        document = self.documents["instances"]
        lights = document["extensions"]["KHR_lights_punctual"]["lights"]
        lamp = next(light for light in lights if light["type"] == "point")
        self.assertAlmostEqual(lamp["intensity"], 1000.0 / (4 * math.pi), places=3)
        self.assertEqual(lamp["range"], 8.0)
        np.testing.assert_allclose(lamp["color"], (1.0, ((128 / 255 + 0.055) / 1.055) ** 2.4, 0.0), atol=1e-6)
        sun = next(node for node in document["nodes"] if node["name"] == "Sun")
        np.testing.assert_allclose(
            turned(np.array(sun["rotation"])) @ (0, 0, -1),
            (-math.cos(math.radians(30)), -math.sin(math.radians(30)), 0), atol=1e-6,
        )  # fmt: skip
        camera = next(node for node in document["nodes"] if node["name"] == "From the east")
        way = np.array((-10.0, -3.0, -2.0))
        np.testing.assert_allclose(
            turned(np.array(camera["rotation"])) @ (0, 0, -1), way / np.linalg.norm(way), atol=1e-6
        )
        self.assertAlmostEqual(
            document["cameras"][camera["camera"]]["perspective"]["yfov"], math.radians(50.0), places=6
        )

    def test_water_carries_depth_and_shore_and_nothing_of_it_comes_back_as_ground(self) -> None:
        document = self.documents["instances"]
        mesh = next(mesh for mesh in document["meshes"] if "hulmo_water" in mesh.get("extras", {}))
        attributes = mesh["primitives"][0]["attributes"]
        depth = values(document, attributes["_DEPTH"])
        self.assertGreater(float(depth.max()), 0.05)
        self.assertIn("_SHORE", attributes)
        self.assertEqual(document["materials"][mesh["primitives"][0]["material"]]["alphaMode"], "BLEND")
        read = read_mesh(self.folder / "instances.glb", silent())
        self.assertEqual(read.shape.triangles.shape[0], self.history.project.bodies[0].corners.count)
        alone = self.documents["none"]
        self.assertEqual(len(alone["meshes"]), 1)
        self.assertNotIn("cameras", alone)

    def test_the_note_beside_a_ply_says_the_same(self) -> None:
        path = self.folder / "scene.ply"
        exporter = exporter_for(path)
        exporter.write(self.history.project, path, complete(exporter.settings, {}, "test"), silent())
        note = json.loads((self.folder / "scene.dress.json").read_text())
        body = self.history.project.bodies[0]
        pivot, matrix = frames(body, body.strewn)
        count = 0
        for group in note["props"]:
            for at, way, size in zip(group["place"], group["turn"], group["size"], strict=True):
                near = int(np.argmin(np.linalg.norm(body.placed(pivot) - at, axis=1)))
                np.testing.assert_allclose(matrix[near], turned(np.array(way)) * size, atol=1e-5)
                count += 1
        self.assertEqual(count, body.strewn.count)
        self.assertAlmostEqual(note["lamps"][0]["light"][0], 1000.0 / (4 * math.pi), places=6)
        self.assertEqual(note["viewpoints"][0]["field"], 50.0)
        self.assertAlmostEqual(note["waters"][0]["level"], -0.3, places=6)
        np.testing.assert_allclose(note["sun"]["toward"], (math.cos(math.radians(30)), 0.5, 0.0), atol=1e-6)
        bare = self.folder / "bare.ply"
        exporter.write(self.history.project, bare, complete(exporter.settings, {"dress": False}, "test"), silent())
        self.assertFalse((self.folder / "bare.dress.json").exists())


if __name__ == "__main__":
    unittest.main()
