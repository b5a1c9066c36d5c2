"""Skies from pictures: closed forms, files by other libraries, damage."""

import contextlib
import json
import pathlib
import struct
import tempfile
import unittest

import numpy as np
import OpenEXR
import tifffile
from PIL import Image

from hulmo.core.commands import AddBody, SetLight, SetSky, SunFromSky
from hulmo.core.dress.sky_picture import directions, harmonics, sky_picture
from hulmo.core.errors import HulmoError
from hulmo.core.history import History
from hulmo.core.io.glb_document import glb_document
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.io.sky_file import read_sky
from hulmo.core.progress import silent
from hulmo.core.project import Project


def rgbe(light: np.ndarray, packed: bool) -> bytes:
    """A picture as Ward's format says (Graphics Gems II, 1991; value from memory), runs written one value at a time."""
    height, width = light.shape[:2]
    most = light.max(axis=2)
    mantissa, exponent = np.frexp(np.maximum(most, 1e-30))
    codes = np.zeros((height, width, 4), np.uint8)
    codes[..., :3] = np.clip(light * (mantissa * 256 / np.maximum(most, 1e-30))[..., None], 0, 255)
    codes[..., 3] = np.where(most > 1e-30, exponent + 128, 0)
    out = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n" + f"-Y {height} +X {width}\n".encode()
    for row in codes:
        if not packed:
            out += row.tobytes()
            continue
        out += struct.pack(">BBH", 2, 2, width)
        for part in range(4):
            values, at = row[:, part], 0
            while at < width:
                run = 1
                while at + run < width and run < 127 and values[at + run] == values[at]:
                    run += 1
                if run > 3:
                    out += bytes((128 + run, int(values[at])))
                else:
                    out += bytes((run, *values[at : at + run].tolist()))
                at += run
    return out


class LightTest(unittest.TestCase):
    def test_a_constant_and_a_cosine_sky(self) -> None:
        """E / pi is 1 for a sky of 1 everywhere; a sky of max(0, n.s) gives on a surface that faces s the integral of the
        squared cosine over pi: 2 / 3 (closed form)."""
        self.assertLess(
            float(np.abs(sky_picture("one", np.ones((64, 128, 3), np.float32), "t").falls(np.eye(3)) - 1).max()), 2e-3
        )
        way, solid = directions(128)
        self.assertAlmostEqual(float(solid.sum() * 256), 4 * np.pi, places=9)
        for toward in np.array([[0.0, 1.0, 0.0], [0.6, 0.0, -0.8], [0.36, 0.48, 0.8]]):
            image = np.repeat(np.maximum(way @ toward, 0.0)[..., None], 3, axis=2).astype(np.float32)
            sky = sky_picture("cosine", image, "t")
            self.assertAlmostEqual(float(sky.falls(toward[None])[0, 0]), 2 / 3, delta=0.01)

    def test_nine_numbers_are_the_integral_to_within_a_few_percent(self) -> None:
        """Against the sum over all pixels; Ramamoorthi and Hanrahan 2001 give a mean error under 3 % of the brightest."""
        rng = np.random.default_rng(3)
        way, solid = directions(48)
        light = np.full(way.shape[:2], 0.2)
        for _ in range(6):
            toward = rng.normal(size=3)
            toward /= np.linalg.norm(toward)
            light += rng.random() * 8 * np.exp(-(1 - way @ toward) * rng.uniform(3, 300))
        sky = sky_picture("some", np.repeat(light[..., None], 3, axis=2).astype(np.float32), "t")
        normal = rng.normal(size=(200, 3))
        normal /= np.linalg.norm(normal, axis=1, keepdims=True)
        cosine = np.maximum(np.einsum("ni,hwi->nhw", normal, way), 0)
        exact = (cosine * (light * solid[:, None])).sum(axis=(1, 2)) / np.pi
        self.assertLess(float(np.abs(sky.falls(normal)[:, 0] - exact).mean() / exact.max()), 0.03)

    def test_the_sun_is_found_where_it_was_put(self) -> None:
        way, _ = directions(180)
        for bearing, altitude in ((0.0, 40.0), (90.0, 5.0), (200.0, 70.0), (359.0, 20.0)):
            b, a = np.radians((bearing, altitude))
            toward = np.array([np.cos(a) * np.sin(b), np.sin(a), -np.cos(a) * np.cos(b)])
            light = 0.3 + 900 * np.exp(-(1 - way @ toward) * 20000)
            found = sky_picture("sun", np.repeat(light[..., None], 3, axis=2).astype(np.float32), "t").sun()
            self.assertAlmostEqual((found[0] - bearing + 180) % 360 - 180, 0.0, delta=0.7)
            self.assertAlmostEqual(found[1], altitude, delta=0.5)


class FileTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        rng = np.random.default_rng(7)
        self.light = (rng.random((24, 48, 3)) ** 4 * 30).astype(np.float32)
        self.light[3:9] = (0.5, 0.25, 2.0)

    def test_every_format_gives_the_same_light(self) -> None:
        light, folder = self.light, self.folder
        for name, packed in (("flat", False), ("packed", True)):
            (folder / f"{name}.hdr").write_bytes(rgbe(light, packed))
            found = read_sky(folder / f"{name}.hdr", "t").light.astype(float)
            self.assertLess(float((np.abs(found - light) / light.max(axis=2, keepdims=True)).max()), 1 / 128)
        with OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": light}) as file:
            file.write(str(folder / "a.exr"))
        np.testing.assert_allclose(read_sky(folder / "a.exr", "t").light, light, rtol=1e-3, atol=1e-3)
        codes = np.random.default_rng(1).integers(0, 256, (24, 48, 3)).astype(np.uint8)
        value = codes / 255.0
        wanted = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
        Image.fromarray(codes).save(folder / "a.png")
        np.testing.assert_allclose(read_sky(folder / "a.png", "t").light, wanted, atol=1e-3)
        tifffile.imwrite(folder / "deep.tif", codes.astype(np.uint16) * 257)
        np.testing.assert_allclose(read_sky(folder / "deep.tif", "t").light, wanted, atol=1e-3)

    def test_what_is_no_sky_is_refused_and_changes_nothing(self) -> None:
        history, folder = History(Project()), self.folder
        good = rgbe(self.light, True)
        with OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": self.light}) as file:
            file.write(str(folder / "good.exr"))
        exr = (folder / "good.exr").read_bytes()
        Image.fromarray(np.zeros((24, 40, 3), np.uint8)).save(folder / "square.png")
        Image.fromarray(np.zeros((24, 48, 3), np.uint8)).save(folder / "black.png")
        for name, data in (
            ("cut.hdr", good[: len(good) // 2]), ("cut.exr", exr[: len(exr) // 2]), ("none.hdr", b""), ("text.exr", b"sky"),
            ("huge.hdr", b"#?RADIANCE\n\n-Y 9000 +X 18000\n"), ("claims.hdr", b"#?RADIANCE\n\n-Y 8000 +X 16000\n"),
            ("down.hdr", b"#?RADIANCE\n\n+Y 8 +X 16\n" + bytes(512)),
        ):  # fmt: skip
            (folder / name).write_bytes(data)
        for name, words in (
            ("cut.hdr", "ends in row|cut off"), ("cut.exr", "damaged"), ("none.hdr", "no RGBE"), ("text.exr", "no EXR"),
            ("square.png", "twice as wide"), ("black.png", "black all over"), ("gone.hdr", "No such file"),
            ("huge.hdr", "may be 16,384"), ("claims.hdr", "pixels in|made smaller|make it smaller"), ("down.hdr", "no size"),
            ("sky.txt", "is one of"),
        ):  # fmt: skip
            with self.subTest(name=name), self.assertRaisesRegex(HulmoError, words):
                history.do(SetSky(str(folder / name)))
        bad = self.light.copy()
        bad[2, 2] = np.nan
        with OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": bad}) as file:
            file.write(str(folder / "nan.exr"))
        with self.assertRaisesRegex(HulmoError, "no light"):
            history.do(SetSky(str(folder / "nan.exr")))
        with self.assertRaisesRegex(HulmoError, "from a picture first"):
            history.do(SunFromSky())
        self.assertIsNone(history.project.sky)
        self.assertFalse(history.commands)

    def test_damaged_files_are_read_or_refused(self) -> None:
        rng = np.random.default_rng(11)
        good = rgbe(self.light, True)
        for _ in range(300):
            data = bytearray(good)
            for at in rng.integers(0, len(data), rng.integers(1, 8)):
                data[at] = rng.integers(0, 256)
            path = self.folder / "bad.hdr"
            path.write_bytes(bytes(data[: rng.integers(1, len(data) + 1)]))
            with contextlib.suppress(HulmoError):
                read_sky(path, "t")

    def test_it_is_kept_in_the_project_and_comes_and_goes_with_undo(self) -> None:
        history = History(Project())
        (self.folder / "a.hdr").write_bytes(rgbe(self.light, True))
        history.do(SetSky(str(self.folder / "a.hdr")))
        history.do(SetLight(sky_turn=120.0))
        history.do(SunFromSky())
        sky = history.project.sky
        assert sky is not None
        self.assertAlmostEqual(history.project.light.bearing, (sky.sun()[0] + 120.0) % 360.0)
        save_project(history.project, self.folder / "p.hulmo")
        again = open_project(self.folder / "p.hulmo")
        assert again.sky is not None
        np.testing.assert_array_equal(again.sky.light, sky.light)
        self.assertEqual((again.sky.name, again.light), ("a", history.project.light))
        history.do(AddBody("sheet", {"edge": 1.0}, "Land"))
        data = glb_document(history.project, "mean", silent())
        told = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])["extras"]["hulmo"]["light"][
            "sky_parts"
        ]
        way = np.array([[0.6, 0.0, -0.8]])
        c, s = np.cos(np.radians(120.0)), np.sin(np.radians(120.0))
        back = way @ np.array([[c, 0, -s], [0, 1, 0], [s, 0, c]])  # counter-clockwise seen from above
        np.testing.assert_allclose(harmonics(way) @ np.array(told), harmonics(back) @ sky.parts, atol=1e-4)
        for _ in range(4):
            history.undo()
        self.assertIsNone(history.project.sky)
        history.redo()
        self.assertIs(history.project.sky, sky)


if __name__ == "__main__":
    unittest.main()
