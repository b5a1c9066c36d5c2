"""glTF in 16 bits and compressed: the standard's validator, and the reference decoder of EXT_meshopt_compression (npm
`meshoptimizer`, read through `@gltf-transform`), which must find the very bytes that our readers find."""

import hashlib
import json
import pathlib
import subprocess
import tempfile
import unittest

import numpy as np
from scipy.spatial import KDTree

from hulmo.core.deliver.profile import Profile, checked
from hulmo.core.deliver.write import deliver_to
from hulmo.core.errors import HulmoError, InvalidInput
from hulmo.core.history import History
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.io.glb_document import glb_document
from hulmo.core.io.read_gltf import read_gltf
from hulmo.core.progress import silent
from hulmo.core.setting import complete
from hulmo.receive.glb import Glb
from tests.reference.test_deliver import READER, land

SIZES = ("plain", "quantised", "compressed")


class PackingTest(unittest.TestCase):
    history: History

    @classmethod
    def setUpClass(cls) -> None:
        cls.history = land()
        held = tempfile.TemporaryDirectory()
        cls.addClassCleanup(held.cleanup)
        cls.folder = pathlib.Path(held.name)
        for size in SIZES:
            for ending in ("glb", "gltf"):
                exporter = EXPORTERS[ending]
                values = complete(exporter.settings, {"size": size}, size)
                exporter.write(cls.history.project, cls.folder / f"{size}.{ending}", values, silent())

    def read_by_node(self, *files: pathlib.Path) -> list[dict]:
        done = subprocess.run(["node", str(READER), *map(str, files)], capture_output=True, text=True, check=True)
        return [json.loads(line) for line in done.stdout.splitlines() if line.startswith("{")]

    def test_the_reference_decoder_finds_the_same_bytes(self) -> None:
        found = self.read_by_node(*(self.folder / f"{size}.glb" for size in SIZES))
        for size, told in zip(SIZES, found, strict=True):
            self.assertEqual((told["errors"], told["warnings"]), (0, 0), size)
            file = Glb((self.folder / f"{size}.glb").read_bytes(), size)
            primitive = file.document["meshes"][0]["primitives"][0]
            names = told["meshes"][0]["attributes"]
            self.assertEqual(names.keys(), primitive["attributes"].keys())
            for name, entry in names.items():
                accessor = file.document["accessors"][primitive["attributes"][name]]
                view = file.view(accessor["bufferView"])
                wide = entry["count"] * {"VEC2": 2, "VEC3": 3, "VEC4": 4}[entry["type"]]
                each = {5122: 2, 5123: 2, 5126: 4}[entry["component"]]
                rows = np.frombuffer(view, np.uint8).reshape(entry["count"], -1)
                tight = rows[:, : wide * each // entry["count"]].tobytes()
                self.assertEqual(hashlib.sha256(tight).hexdigest(), entry["bytes"], f"{size}: {name}")
        compressed, plain = ((self.folder / f"{size}.bin").stat().st_size for size in ("compressed", "plain"))
        self.assertLess(3 * compressed, plain)

    def test_it_comes_back_as_it_went_but_for_the_grid(self) -> None:
        plain = read_gltf(self.folder / "plain.glb").parts[0]
        grid = 2.0**-10  # 20 m to each side in 32,767 steps, by hand: 0.0006 m, and the power of two above
        for name in ("quantised.glb", "quantised.gltf", "compressed.glb", "compressed.gltf"):
            part = read_gltf(self.folder / name).parts[0]
            away, row = KDTree(plain.position).query(part.position)
            np.testing.assert_array_equal(np.sort(row), np.arange(len(plain.position)), name)
            self.assertLessEqual(away.max(), grid / 2 * 3**0.5 + 1e-9)
            steps = (part.position - (3.0, 0.0, -5.0)) / grid
            np.testing.assert_array_equal(steps, np.rint(steps), name)
            np.testing.assert_array_equal(part.weights, plain.weights[row])
            np.testing.assert_array_equal(np.rint(part.weights.astype(float) * 65535).sum(axis=1), 65535)
            np.testing.assert_array_equal(part.tint, plain.tint[row])
            corners = {tuple(sorted(triangle)) for triangle in row[part.triangles].tolist()}
            self.assertEqual(corners, {tuple(sorted(triangle)) for triangle in plain.triangles.tolist()}, name)

    def test_patches_and_levels_meet_on_one_grid(self) -> None:
        settings = {"size": "compressed", "grid": 0.002}
        profile = checked(
            Profile("patches", format="gltf", files="many", patch=16.0, levels=(0.4,), settings=settings), "test"
        )
        with self.assertRaisesRegex(InvalidInput, "grid"):
            checked(Profile("no grid", files="many", patch=16.0, settings={"size": "compressed"}), "test")
        with tempfile.TemporaryDirectory() as folder:
            done = deliver_to(self.history.project, profile, pathlib.Path(folder), silent())
            images = [name for name in done.files if not name.endswith((".gltf", ".bin", ".json"))]
            self.assertEqual({name.split("/")[0] for name in images}, {"textures"})
            told = json.loads((self.folder / "plain.gltf").read_text())
            self.assertEqual(len(images), len(told["images"]))
            places = {}
            for name in done.files:
                if name.endswith(".gltf"):
                    position = read_gltf(pathlib.Path(folder) / name).parts[0].position
                    places[name] = {tuple(row) for row in position.tolist()}
            count = 0
            for piece in json.loads((pathlib.Path(folder) / "manifest.json").read_text())["pieces"]:
                for near in piece["neighbours"]:
                    fine = places[f"{piece['name']}.gltf"] & places[f"{near}.gltf"]
                    count += len(fine)
                    coarse = places[f"{piece['levels'][-1]['name']}.gltf"]
                    self.assertEqual(fine, coarse & places[f"{near}.gltf"])
            self.assertGreater(count, 100)

    def test_too_fine_a_grid_is_refused_with_the_one_that_fits(self) -> None:
        for size, grid in (("quantised", 0.0001), ("compressed", 1e-6)):
            with self.assertRaisesRegex(InvalidInput, "ask for .* mm"):
                glb_document(self.history.project, "mean", silent(), size=size, grid=grid)

    def test_damaged_ones_are_refused_or_read(self) -> None:
        data = bytearray((self.folder / "compressed.glb").read_bytes())
        rng, said = np.random.default_rng(3), 0
        begin = 28 + int.from_bytes(data[12:16], "little")
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder) / "damaged.glb"
            for _ in range(60):
                hurt = bytearray(data)
                for at in rng.integers(begin, begin + 20_000, 3).tolist():
                    hurt[at] = int(rng.integers(256))
                path.write_bytes(hurt)
                for read in (lambda: read_gltf(path), lambda: Glb(path.read_bytes(), "damaged").parts()):
                    try:
                        read()
                    except HulmoError as error:
                        said += 1
                        self.assertRegex(str(error), "damaged|not there|not finite")
        self.assertGreater(said, 5)


if __name__ == "__main__":
    unittest.main()
