"""Whole-surface reliefs: limits, masks, images of all kinds, and what is refused."""

import pathlib
import tempfile
import unittest

import numpy as np
import png
from PIL import Image

from hulmo.core.commands import LayRelief, LockBorder, RelayRelief
from hulmo.core.errors import Cancelled, FileProblem, HulmoError, InvalidInput
from hulmo.core.grey_image import read_grey, sample_grey, shipped_images
from hulmo.core.presets import STARTER, preset_of, read_presets, with_preset, write_presets
from hulmo.core.progress import Progress
from hulmo.core.relief import image as image_relief
from tests.bodies import project_with, snapshot, stroke


class LimitTest(unittest.TestCase):
    def test_slope_and_height_limits_mask_and_border_lock(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.3)
        body = history.project.bodies[0]
        normal, position = body.vertices["normal"].copy(), body.vertices["position"].copy()
        slope = np.degrees(np.arccos(np.clip(normal[:, 1], -1, 1)))
        history.do(LayRelief("Body", "noise", {"slope_low": 30.0, "slope_high": 80.0, "soft": 0.0, "height": 1.0}))
        laid = np.linalg.norm(body.vertices["relief_1"], axis=1)
        np.testing.assert_array_equal(laid[(slope < 30) | (slope > 80)], 0)
        self.assertGreater(float(laid.max()), 0.3)
        history.undo()
        history.do(LayRelief("Body", "noise", {"height_low": 1.0, "height_high": 3.0, "soft": 10.0, "height": 1.0}))
        laid = np.linalg.norm(body.vertices["relief_1"], axis=1)
        np.testing.assert_array_equal(laid[(position[:, 1] < 0.0) | (position[:, 1] > 4.0)], 0)
        faded = laid[(position[:, 1] > 0.3) & (position[:, 1] < 0.7)]
        self.assertTrue(0 < faded.mean() < 0.8 * laid[(position[:, 1] > 1) & (position[:, 1] < 3)].mean())
        history.undo()
        history.do(stroke("lay", (0.0, 9, 0, 0, -1, 0), ground="Shell sand", radius=2.0, strength=100.0))
        history.do(LayRelief("Body", "jitter", {"height": 0.5}, only_on="Shell sand"))
        laid = np.linalg.norm(body.vertices["relief_1"], axis=1)
        np.testing.assert_array_equal(laid[body.vertices["weight"][:, 3] == 0], 0)
        sheet = project_with("sheet", size=6.0, depth=6.0, edge=0.3)
        sheet.do(LockBorder("Body"))
        sheet.do(LayRelief("Body", "noise", {"height": 1.0}))
        open_body = sheet.project.bodies[0]
        edge = np.array([open_body.corners.is_border(row) for row in range(open_body.vertices.count)])
        np.testing.assert_array_equal(open_body.vertices["relief_1"][edge], 0)

    def test_a_seed_repeats_and_another_differs(self) -> None:
        for relief, settings in (("noise", {}), ("jitter", {}), ("terraces", {"irregularity": 80.0, "step": 0.5})):
            laid = []
            for seed in (3, 3, 4):
                history = project_with("icosphere", radius=3.0, edge=0.4)
                history.do(LayRelief("Body", relief, {"seed": seed, **settings}))
                laid.append(history.project.bodies[0].vertices["relief_1"].tobytes())
            self.assertEqual(laid[0], laid[1])
            self.assertNotEqual(laid[0], laid[2])

    def test_terraces_have_flat_treads_at_even_heights(self) -> None:
        history = project_with("sheet", size=10.0, depth=10.0, edge=0.1)
        body = history.project.bodies[0]
        body.vertices["position"][:, 1] = 0.5 * body.vertices["position"][:, 0]
        body.replaced()
        history.do(LayRelief("Body", "terraces", {"step": 1.0, "sharpness": 80.0, "irregularity": 0.0}))
        height = body.vertices["position"][:, 1]
        inner = np.abs(body.vertices["position"][:, 0]) < 4.4
        offset = height[inner] - np.round(height[inner])
        # a tread keeps a fifth of the slope over its 80 %, so it lies within 0.16 of its level
        self.assertGreater(float((np.abs(offset) < 0.17).mean()), 0.7)
        self.assertLess(float(np.abs(height - 0.5 * body.vertices["position"][:, 0]).max()), 1.0)

    def test_stopping_changes_nothing(self) -> None:
        history = project_with("icosphere", radius=3.0, edge=0.3)
        before = snapshot(history.project.bodies[0])
        for relief in ("noise", "slump", "image"):
            progress = Progress()
            progress.stop()
            with self.assertRaises(Cancelled):
                history.do(LayRelief("Body", relief), progress)
            self.assertEqual(snapshot(history.project.bodies[0]), before)


class ImageTest(unittest.TestCase):
    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.folder = pathlib.Path(self._folder.name)
        self.addCleanup(self._folder.cleanup)

    def file(self, name: str, picture: Image.Image, **options: object) -> str:
        path = self.folder / name
        picture.save(path, **options)
        return str(path)

    def test_eight_and_sixteen_bits_png_tiff_and_jpeg_read_alike(self) -> None:
        ramp = np.linspace(0, 1, 64)[None, :].repeat(32, 0)
        eight = Image.fromarray(np.round(ramp * 255).astype(np.uint8))
        sixteen = Image.fromarray(np.round(ramp * 65535).astype(np.uint16))
        colour = Image.merge("RGB", (eight, eight.transpose(Image.Transpose.FLIP_LEFT_RIGHT), eight))
        for name, picture, channel, wanted, within in (
            ("a.png", eight, "grey", ramp, 1 / 255),
            ("b.png", sixteen, "grey", ramp, 1 / 65535),
            ("c.tif", sixteen, "grey", ramp, 1 / 65535),
            ("d.tiff", eight, "grey", ramp, 1 / 255),
            ("e.jpg", eight, "grey", ramp, 4 / 255),
            ("f.png", colour, "green", ramp[:, ::-1], 1 / 255),
            ("g.png", Image.merge("RGBA", (*colour.split(), eight)), "alpha", ramp, 1 / 255),
            ("h.tif", Image.fromarray(ramp.astype(np.float32)), "grey", ramp, 1e-6),
            ("i.png", sixteen, "red", ramp, 1 / 65535),
            ("j.png", eight, "blue", ramp, 1 / 255),
            ("k.tif", Image.fromarray(np.round(ramp * (2**31 - 1)).astype(np.int32)), "grey", ramp, 1e-6),
        ):
            with self.subTest(name):
                grey = read_grey(self.file(name, picture), channel)
                self.assertEqual(grey.shape, (32, 64))
                np.testing.assert_allclose(grey, wanted, atol=within)
        # 16 bits a colour, written by another library
        wide = np.round(np.stack((ramp, ramp[:, ::-1], 0 * ramp), axis=2) * 65535).astype(np.uint16)
        with (self.folder / "wide.png").open("wb") as file:
            png.Writer(64, 32, bitdepth=16, greyscale=False).write(file, wide.reshape(32, -1).tolist())
        for channel, wanted in (("red", ramp), ("green", ramp[:, ::-1])):
            grey = read_grey(str(self.folder / "wide.png"), channel)
            np.testing.assert_allclose(grey, wanted, atol=1 / 65535)
        self.assertEqual(shipped_images(), ["crack", "crater", "grain", "gully", "pit", "ripple", "shard", "spatter"])

    def test_sampling_repeats_or_ends_at_the_edge(self) -> None:
        grey = np.array([[0, 1], [0.5, 0.25]], np.float32)
        u, v = np.array([0.25, 0.75, 0.5, 1.25, -0.25, 5.0]), np.array([0.25, 0.25, 0.5, 0.25, 0.25, 0.25])
        np.testing.assert_allclose(sample_grey(grey, u, v, wrap=True)[:5], [0, 1, 0.4375, 0, 1], atol=1e-6)
        np.testing.assert_allclose(sample_grey(grey, u, v, wrap=False), [0, 1, 0.4375, 1, 0, 1], atol=1e-6)

    def test_mappings(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.1)
        body = history.project.bodies[0]
        ramp = np.tile(np.round(np.linspace(0, 1, 256) * 65535).astype(np.uint16), (256, 1))
        name = self.file("ramp.png", Image.fromarray(ramp))
        position = body.vertices["position"].copy()
        laid = {}
        for mapping, settings in (("above", {"tile": 8.0}), ("sides", {"tile": 8.0}), ("above_once", {}), ("uv", {})):
            given = {"image": name, "mapping": mapping, "height": 2.0, **settings}
            history.do(LayRelief("Body", "image", given))
            laid[mapping] = body.vertices["relief_1"][:, 1].copy()
            history.undo()
        np.testing.assert_allclose(laid["sides"], laid["above"], atol=1e-5)
        inner = np.abs(position[:, 0]) < 3.9
        np.testing.assert_allclose(laid["above_once"][inner], (position[inner, 0] / 8 + 0.5) * 2, atol=0.02)
        np.testing.assert_allclose(laid["uv"][inner], laid["above_once"][inner], atol=0.02)
        # an image tiles as the ground it is told to follow
        history.do(LayRelief("Body", "image", {"image": name, "height": 2.0}, tile_as="Shell sand"))
        tile = history.project.grounds[3].tile
        with_tile = body.vertices["relief_1"].copy()
        history.do(LayRelief("Body", "image", {"image": name, "height": 2.0, "tile": tile}))
        np.testing.assert_allclose(with_tile[inner], with_tile[inner])
        self.assertGreater(np.abs(with_tile[:, 1] - laid["above"]).max(), 0.5)

    def test_axis_shifts_are_those_of_the_blend_formula(self) -> None:
        text = (pathlib.Path(image_relief.__file__).parents[2] / "assets/shaders/blend.glsl").read_text()
        x, y, z = (f"vec2({u}, {v})" for u, v in image_relief.AXIS_SHIFT)
        self.assertIn(f"AXIS_SHIFT[3] = vec2[3]({x}, {y}, {z})", text)

    def test_what_is_no_usable_image_is_refused_and_nothing_changes(self) -> None:
        (self.folder / "text.png").write_text("no image")
        data = pathlib.Path(self.file("whole.png", Image.new("L", (64, 64), 90))).read_bytes()
        (self.folder / "half.png").write_bytes(data[: len(data) // 2])
        wide = self.file("wide.png", Image.new("1", (30_000, 4)))
        nan = self.file("nan.tif", Image.fromarray(np.full((4, 4), np.nan, np.float32)))
        history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
        before = snapshot(history.project.bodies[0])
        for name, channel, kind, words in (
            (
                str(self.folder / "text.png"),
                "grey",
                FileProblem,
                "cannot be read as an image|no image that can be read",
            ),
            (
                str(self.folder / "half.png"),
                "grey",
                FileProblem,
                "cannot be read as an image|no image that can be read",
            ),
            (
                self.file("dot.png", Image.new("L", (1, 1))),
                "grey",
                FileProblem,
                "1 x 1 pixels; a relief needs at least 2",
            ),
            (wide, "grey", FileProblem, "30,000 x 4 pixels; the longer side may be 16,384"),
            (nan, "grey", FileProblem, "not finite"),
            (str(self.folder / "gone.png"), "grey", FileProblem, "no such image file .* one of crack"),
            (str(self.folder), "grey", FileProblem, "cannot be read"),
            (self.file("plain.png", Image.new("L", (8, 8))), "alpha", InvalidInput, "no alpha channel"),
            ("", "grey", InvalidInput, "must name a shipped image"),
        ):
            with self.subTest(name), self.assertRaisesRegex(kind, words):
                history.do(LayRelief("Body", "image", {"image": name, "channel": channel}))
            if channel == "grey":
                with self.assertRaises(HulmoError):
                    history.do(stroke("stamp", (0.0, 9, 0, 0, -1, 0), image=name))
        for command, words in (
            (LayRelief("Body", "fog"), "no relief 'fog'"),
            (LayRelief("Body", "noise", {"height": float("nan")}), "height must be a number"),
            (LayRelief("Body", "noise", {"octaves": 40}), "between 1 and 8"),
            (LayRelief("Body", "noise", only_on="Snow"), "no ground 'Snow'"),
            (LayRelief("None such", "noise"), "no body 'None such'"),
            (RelayRelief("Body", "x"), "no relief layer 'x'"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
        self.assertEqual(snapshot(history.project.bodies[0]), before)
        ball = project_with("icosphere", radius=2.0, edge=0.5)
        with self.assertRaisesRegex(InvalidInput, "has no UV; choose another mapping"):
            ball.do(LayRelief("Body", "image", {"mapping": "uv"}))

    def test_a_layer_follows_its_image(self) -> None:
        history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
        body = history.project.bodies[0]
        name = self.file("h.png", Image.new("L", (8, 8), 255))
        history.do(LayRelief("Body", "image", {"image": name, "height": 1.0}, "H"))
        self.file("h.png", Image.new("L", (8, 8), 51))
        history.do(RelayRelief("Body", "H"))
        np.testing.assert_allclose(body.vertices["relief_1"][:, 1], 0.2, atol=1e-6)


class PresetTest(unittest.TestCase):
    def test_they_are_kept_handed_on_and_refused_when_damaged(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            file = pathlib.Path(name) / "deep" / "presets.json"
            values = {**read_presets(STARTER)[0].values(), "radius": 7.5}
            mine = preset_of("  Mine ", "raise", values)
            self.assertEqual(mine.settings["radius"], 7.5)
            self.assertNotIn("spacing", mine.settings, "what is as at first is left out")
            write_presets(file, with_preset([mine], preset_of("Mine", "raise", {**values, "radius": 2.0})))
            (back,) = read_presets(file)
            self.assertEqual(back.values()["radius"], 2.0)
            for text, words in (
                ("{", "holds no brush presets, or is damaged"),
                ('{"hulmo_presets": 1, "presets": [{"name": "a", "brush": "zap"}]}', "no brush 'zap'"),
                (
                    '{"hulmo_presets": 1, "presets": [{"name": "a", "brush": "raise", "settings": {"radius": -3}}]}',
                    "radius is -3",
                ),
                ("[" * 90_000, "holds no brush presets"),
            ):
                file.write_text(text)
                with self.assertRaisesRegex(FileProblem, words):
                    read_presets(file)
            with self.assertRaisesRegex(InvalidInput, "needs a name"):
                preset_of(" ", "raise", values)
            with self.assertRaisesRegex(FileProblem, "cannot be read"):
                read_presets(file.parent / "none.json")


if __name__ == "__main__":
    unittest.main()
