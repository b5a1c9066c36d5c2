"""Weights: they sum to 1 whatever is done, brushes do what they say, the palette can change."""

import pathlib
import tempfile
import unittest

import numpy as np
import pygltflib as gltf
from PIL import Image

from hulmo.core.commands import AddGround, ChangeGround, Fill, RemoveGround
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground.around import around
from hulmo.core.ground.blend import share_of
from hulmo.core.ground.ground import Blend, Ground
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.shift import shift
from hulmo.core.ground.texture_files import part_of, read_files, read_folder, read_image
from hulmo.core.ground.textures import decode, part_pixels
from hulmo.core.io.glb_document import glb_document
from hulmo.core.progress import silent
from tests.bodies import project_with, stroke


class WeightTest(unittest.TestCase):
    def test_sums_hold_after_any_sequence_of_edits(self) -> None:
        history = project_with(radius=5.0, edge=0.4)
        rng = np.random.default_rng(4)
        body = history.project.bodies[0]
        history.do(AddGround("scree"))
        for turn in range(60):
            names = [ground.name for ground in history.project.grounds]
            name = names[rng.integers(len(names))]
            toward = rng.normal(size=3)
            kind = rng.integers(10)
            if kind < 7:
                numbers = (*(-9 * toward / np.linalg.norm(toward)).tolist(), *toward.tolist())
                history.do(
                    stroke(
                        "lay" if kind < 4 else "lift", numbers, ground=name, invert=bool(kind % 2),
                        radius=float(rng.uniform(0.5, 6)), strength=float(rng.uniform(1, 100)),
                        build_up=("one_coat", "stacking", "until_reset")[turn % 3],
                    )
                )  # fmt: skip
            elif kind == 7 and len(names) > 2:
                history.do(RemoveGround(name))
            elif kind == 8 and len(names) < 8:
                history.do(AddGround("frost"))
            elif len(history.commands) > 2:
                history.undo()
            weight = body.vertices["weight"]
            self.assertEqual(weight.shape[1], len(history.project.grounds))
            self.assertTrue(((weight >= 0) & (weight <= 1)).all())
            np.testing.assert_allclose(weight.sum(axis=1), 1, atol=2e-6)
            self.assertTrue((quantise(weight).sum(axis=1, dtype=int) == 65535).all())

    def test_shift_against_a_plain_twin(self) -> None:
        rng = np.random.default_rng(1)
        weight = rng.dirichlet(np.ones(5) * 0.4, 200).astype(np.float32)
        weight[:5] = np.eye(5)
        rows = np.arange(200, dtype=np.int32)
        amount = rng.uniform(0, 1, 200).astype(np.float32)
        for sign in (1.0, -1.0):
            for ground in (0, 3):
                got = shift(weight, rows, amount, ground, sign)
                for row in range(200):
                    w = weight[row].astype(float)
                    target = min(max(w[ground] + sign * amount[row], 0), 1)
                    rest = np.delete(w, ground)
                    if rest.sum() > 1e-6:
                        rest *= (1 - target) / rest.sum()
                    else:
                        rest[0] = 1 - target
                    np.testing.assert_allclose(got[row], np.insert(rest, ground, target), atol=1e-6)

    def test_neighbours_against_a_plain_twin_borders_included(self) -> None:
        for form in ("sheet", "icosphere"):
            body = project_with(form).project.bodies[0]
            weight = np.random.default_rng(2).dirichlet(np.ones(3), body.vertices.count).astype(np.float32)
            rows = np.arange(body.vertices.count, dtype=np.int32)
            got = around(weight, body.corners, rows)
            for row in rows[::7]:
                np.testing.assert_allclose(got[row], weight[body.corners.neighbours(int(row))].mean(axis=0), atol=1e-6)

    def test_feather_softens_a_border_and_sharpen_draws_it_again(self) -> None:
        history = project_with("sheet", size=12.0, depth=12.0, edge=0.25)
        body = history.project.bodies[0]
        east = body.vertices["position"][:, 0] > 0.1
        body.vertices["weight"][east] = np.array([0, 0, 0, 1], np.float32)
        middle = np.abs(body.vertices["position"]).max(axis=1) < 1.5

        def soft() -> int:  # vertices of the middle where both grounds lie
            share = body.vertices["weight"][middle][:, 3]
            return int(((share > 0.02) & (share < 0.98)).sum())

        self.assertEqual(soft(), 0)
        along = [(0.0, 0.0, 0.4 * i) for i in range(-6, 7)]
        history.do(stroke("feather", *along, radius=2.5, strength=100.0, passes=6))
        feathered = soft()
        self.assertGreater(feathered, int(middle.sum()) // 4)
        far = np.abs(body.vertices["position"][:, 0]) > 2.8
        np.testing.assert_array_equal(body.vertices["weight"][far & east][:, 3], 1)
        for _ in range(4):
            history.do(stroke("feather", *along, invert=True, radius=2.5, strength=100.0, passes=6))
        self.assertLess(soft(), feathered // 2)
        weight = body.vertices["weight"]
        self.assertTrue(((weight >= 0) & (weight <= 1)).all())
        np.testing.assert_allclose(weight.sum(axis=1), 1, atol=2e-6)
        while len(history.commands) > 1:
            history.undo()
        self.assertEqual(soft(), 0)

    def test_quantise_against_a_plain_twin(self) -> None:
        rng = np.random.default_rng(7)
        weight = rng.dirichlet(np.ones(6) * 0.3, 300).astype(np.float32)
        weight[0], weight[1] = 0, np.nextafter(np.float32(1 / 6), 0)
        for full in (65535, 255):
            got = quantise(weight, full)
            self.assertEqual(got.shape, (300, 8))
            self.assertTrue((got.sum(axis=1, dtype=int) == full).all())
            for row in range(1, 300):
                exact = weight[row].astype(float) * full / weight[row].astype(float).sum()
                whole = np.floor(exact)
                most = np.argsort(-(exact - whole), kind="stable")[: int(full - whole.sum())]
                whole[most] += 1
                np.testing.assert_array_equal(got[row, :6], whole)
        self.assertEqual(quantise(weight)[0].tolist(), [65535] + [0] * 7)

    def test_fill_and_removal(self) -> None:
        history = project_with()
        weight = lambda: history.project.bodies[0].vertices["weight"]  # noqa: E731
        history.do(Fill("Body", "Shell sand"))
        self.assertTrue((weight()[:, 3] == 1).all())
        history.do(RemoveGround("Shell sand"))
        self.assertTrue((weight()[:, 0] == 1).all())
        history.undo()
        self.assertTrue((weight()[:, 3] == 1).all())

    def test_palette_refuses_what_cannot_be(self) -> None:
        history = project_with()
        for command, words in (
            (AddGround("no such"), "no folder, no image and no shipped"),
            (AddGround("scree", tile=float("nan")), "tile"),
            (AddGround("scree", tint="red"), "#rrggbb"),
            (AddGround("scree", name="Thrift turf"), "already"),
            (ChangeGround("Peat"), "no ground 'Peat'"),
            (ChangeGround("Thrift turf", texture="moss"), "no texture set"),
            (RemoveGround("Peat"), "no ground"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
        for _ in range(12):
            history.do(AddGround("scree"))
        with self.assertRaisesRegex(InvalidInput, "a project holds 16"):
            history.do(AddGround("scree"))
        for ground in history.project.grounds[1:]:
            history.do(RemoveGround(ground.name))
        with self.assertRaisesRegex(InvalidInput, "at least one"):
            history.do(RemoveGround(history.project.grounds[0].name))


class TextureTest(unittest.TestCase):
    def test_shipped_sets_are_complete_tile_and_stay_small(self) -> None:
        self.assertGreaterEqual(len(shipped()), 16)
        total = 0
        for name in shipped():
            maps = {part: part_pixels(Ground("x", name, 1.0), part, {}) for part in PARTS}
            for picture in maps.values():
                self.assertEqual(picture.shape[:2], (512, 512))
                values = picture.astype(float).reshape(512, 512, -1)
                inside = np.abs(np.diff(values, axis=0)).mean()
                seam = np.abs(values[0] - values[-1]).mean()
                self.assertLess(seam, 1.6 * inside + 2.0, f"{name} shows a seam")
            normal = maps["normal"].astype(float) / 127.5 - 1
            self.assertGreater(float(normal[..., 2].min()), 0.0)
            np.testing.assert_allclose(np.linalg.norm(normal, axis=2).mean(), 1.0, atol=0.02)
        from hulmo.core.ground.library import FOLDER

        total = sum(path.stat().st_size for path in FOLDER.rglob("*.*"))
        self.assertLess(total, 8_000_000)

    def test_folders_and_unreadable_images(self) -> None:
        history = project_with()
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name) / "loam"
            folder.mkdir()
            with self.assertRaisesRegex(FileProblem, "no albedo"):
                history.do(AddGround(str(folder)))
            (folder / "albedo.png").write_bytes(b"\x89PNG\r\n\x1a\n and then nothing")
            with self.assertRaisesRegex(FileProblem, r"albedo.png: cannot be read"):
                history.do(AddGround(str(folder)))
            Image.new("RGB", (32, 16), (90, 60, 30)).save(folder / "albedo.png")
            history.do(AddGround(str(folder)))
        ground = history.project.grounds[-1]
        self.assertEqual((ground.name, ground.texture), ("loam", "loam"))
        self.assertEqual(part_pixels(ground, "albedo", history.project.textures).shape, (16, 32, 3))
        self.assertEqual(part_pixels(ground, "normal", history.project.textures).tolist(), [[[128, 128, 255]]])

    def test_images_of_every_kind_become_plain_eight_bit_ones(self) -> None:
        rng = np.random.default_rng(2)
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            grey = rng.integers(0, 65536, (9, 7)).astype(np.uint16)
            Image.fromarray(grey).save(folder / "a_height.png")
            got = decode(read_image(folder / "a_height.png", "height"), "L", "")
            np.testing.assert_allclose(got, grey / 65535 * 255, atol=0.51)
            clear = Image.fromarray(rng.integers(0, 255, (8, 8, 4)).astype(np.uint8))
            clear.save(folder / "b_albedo.png")
            got = decode(read_image(folder / "b_albedo.png", "albedo"), "RGB", "")
            np.testing.assert_array_equal(got, np.asarray(clear)[:, :, :3])
            Image.fromarray(rng.integers(0, 255, (8, 8)).astype(np.uint8)).save(folder / "c_albedo.tif")
            self.assertEqual(decode(read_image(folder / "c_albedo.tif", "albedo"), "RGB", "").shape, (8, 8, 3))
            frames = [Image.new("RGB", (6, 6), colour) for colour in ((200, 0, 0), (0, 200, 0))]
            frames[0].save(folder / "d_albedo.webp", save_all=True, append_images=frames[1:], lossless=True)
            self.assertEqual(
                decode(read_image(folder / "d_albedo.webp", "albedo"), "RGB", "")[0, 0].tolist(), [200, 0, 0]
            )
            Image.new("L", (8193, 1)).save(folder / "e_height.png")
            with self.assertRaisesRegex(FileProblem, "longer side may be 8,192"):
                read_image(folder / "e_height.png", "height")
            with self.assertRaisesRegex(FileProblem, "was it moved"):
                read_image(folder / "gone.png", "height")
            (folder / "f_albedo.jpg").write_bytes((folder / "a_height.png").read_bytes()[:60])
            with self.assertRaisesRegex(FileProblem, "cannot be read as an image"):
                read_image(folder / "f_albedo.jpg", "albedo")

    def test_parts_of_a_set_are_guessed_by_name(self) -> None:
        for name, part in (
            ("wet_rock_02_basecolor_2k.png", "albedo"), ("WetRock_BaseColor.tif", "albedo"), ("rock-diff.jpg", "albedo"),
            ("rock_nor_gl_4k.png", "normal"), ("Rock_NormalGL.png", "normal"), ("rock_rough.jpg", "roughness"),
            ("rock_disp.png", "height"), ("rock_height.png", "height"), ("rock.png", None),
        ):  # fmt: skip
            self.assertEqual(part_of(name), part, name)
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            for stem in ("clay_albedo", "clay_rough", "peat_albedo", "peat_height"):
                Image.new("RGB", (4, 4)).save(folder / f"{stem}.png")
            found = read_files([folder / "clay_albedo.png"])
            self.assertEqual((found.name, set(found.images)), ("clay", {"albedo", "roughness"}))
            with self.assertRaisesRegex(FileProblem, "both .* look like the albedo"):
                read_folder(folder)

    def test_a_delivered_ground_carries_all_its_values(self) -> None:
        history = project_with(radius=3.0, edge=0.5)
        history.do(AddGround("", "Snow", colour="#fefefe"))
        history.do(
            ChangeGround(
                "Shell sand", values={"turn": 30.0, "break_up": True, "plain": ["roughness"], "roughness": 0.4}
            )
        )
        for name, side in (("Shell sand", 9.0), ("Snow", -9.0)):
            history.do(stroke("lay", (side, 0.0, 0.0, -side, 0.0, 0.0), ground=name, radius=2.0))
        history.do(stroke("tint", (0, 9, 0, 0, -1, 0), colour="#00ff00", radius=2.0, strength=100.0))
        document = gltf.GLTF2.load_from_bytes(glb_document(history.project, "mean", silent()))
        sand, snow = (
            next(g for g in document.extras["hulmo"]["grounds"] if g["name"] == n) for n in ("Shell sand", "Snow")
        )
        self.assertEqual((sand["turn"], sand["break_up"], sand["roughness_value"]), (30.0, True, 0.4))
        self.assertEqual(len(sand["mean"]["albedo"]), 3)
        self.assertEqual((snow["albedo_value"], snow["normal_value"]), ("#fefefe", "flat"))
        self.assertIn("_TINT", document.meshes[0].primitives[0].attributes.__dict__)

    def test_height_blend_by_hand(self) -> None:
        blend = Blend("height", 0.5)
        # scores 0.5 * 1.0 and 0.5 * 0.55; kept 0.25 and 0.025 of a best of 0.5
        np.testing.assert_allclose(share_of([0.5, 0.5], [1.0, 0.5], blend), [0.25 / 0.275, 0.025 / 0.275])
        self.assertEqual(share_of([1.0, 0.0], [0.0, 1.0], blend), [1.0, 0.0])
        self.assertEqual(share_of([0.3, 0.7], [0.9, 0.1], Blend("linear")), [0.3, 0.7])


if __name__ == "__main__":
    unittest.main()
