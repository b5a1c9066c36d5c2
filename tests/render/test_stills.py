"""Stills: pieces of a large picture, depth, and cameras that follow each other."""

import contextlib
import itertools
import math
import pathlib
import tempfile
import unittest
from unittest.mock import patch

import numpy as np
from PIL import Image
from scipy.ndimage import binary_dilation

from hulmo.core.commands import AddProp, Fill, SetBlend, SetViewpoint, Strew
from hulmo.core.errors import Cancelled, FileProblem, InvalidInput
from hulmo.core.io.exr import read_exr, write_exr
from hulmo.core.mesh.strewn import anchors
from hulmo.core.progress import Progress
from hulmo.render import still as module
from hulmo.render.camera import Camera
from hulmo.render.camera_path import flight, turn
from hulmo.render.still import NOWHERE, Stills
from tests.bodies import project_with

SIZE = (300, 200)


def seen_ways(camera: Camera, size: tuple[int, int]) -> np.ndarray:
    """(H, W, 3) unit vectors from the eye through the middles of pixels."""
    width, height = size
    high = math.tan(math.radians(camera.field) / 2)
    x = ((np.arange(width) + 0.5) / width * 2 - 1) * high * width / height
    y = (1 - (np.arange(height) + 0.5) / height * 2) * high
    way = x[None, :, None] * camera.right + y[:, None, None] * camera.up - camera.back
    return way / np.linalg.norm(way, axis=2, keepdims=True)


def pixel_of(camera: Camera, place: np.ndarray, size: tuple[int, int]) -> tuple[int, int]:
    """Row and column that a place is seen in."""
    ways = seen_ways(camera, size)
    way = (place - camera.eye) / np.linalg.norm(place - camera.eye)
    row, column = np.unravel_index(int((ways @ way).argmax()), ways.shape[:2])
    return int(row), int(column)


class StillTest(unittest.TestCase):
    def test_pieces_make_the_same_picture(self) -> None:
        history = project_with(radius=5.0, edge=0.4)
        with Stills(history.project) as stills:
            camera = stills.camera()
            whole = stills.take(camera, SIZE)
            with patch.object(module, "PIECE", 150):
                pieces = stills.take(camera, SIZE)
            stopped = Progress(lambda share, what: stopped.stop() if share > 0.1 else None)
            with patch.object(module, "PIECE", 150), self.assertRaises(Cancelled):
                stills.take(camera, SIZE, 2, stopped)
        off = np.abs(np.asarray(whole.picture, int) - np.asarray(pieces.picture, int))
        self.assertLess(off.mean(), 1.0)
        self.assertLess((off.max(axis=2) > 16).mean(), 0.01)  # contact shading is grained by the place in a piece
        there = np.isfinite(whole.depth)
        self.assertGreater((there == np.isfinite(pieces.depth)).mean(), 0.999)
        both = there & np.isfinite(pieces.depth)
        self.assertLess(np.percentile(np.abs(whole.depth[both] - pieces.depth[both]), 99), 0.01)

    def test_depth_is_that_of_a_plane_and_of_nothing(self) -> None:
        """A plane seen from 6 m straight above lies 6 m ahead everywhere: distance along the view, by hand."""
        history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
        with Stills(history.project, "form") as stills:
            camera = Camera(np.zeros(3), 6.0, 0.0, math.radians(89.0)).clipped(stills.bounds)
            taken = stills.take(camera, SIZE, 1)
        self.assertAlmostEqual(float(taken.depth[100, 150]), 6.0, delta=0.02)
        self.assertTrue(np.isinf(taken.depth[0, 0]))
        picture, _, step = taken.depth_image()
        grey = np.asarray(picture)
        self.assertEqual((grey.dtype, int(grey[0, 0])), (np.dtype(np.uint16), NOWHERE))
        there = np.isfinite(taken.depth)
        np.testing.assert_allclose(grey[there] * step, taken.depth[there], atol=step)
        self.assertIsInstance(picture, Image.Image)

    def test_channels_are_what_the_mesh_says(self) -> None:
        """Normals of a ball by its shape, shares by its weights, light by the picture's own curve (Narkowicz 2015, sRGB),
        and the number of a prop where its place is projected by hand; read back by OpenEXR."""
        history = project_with(radius=5.0, edge=0.25)
        body, names = history.project.bodies[0], history.project.ground_names
        history.do(SetBlend("linear"))
        history.do(Fill(body.name, names[0]))
        body.vertices["weight"][:, [0, 3]] = 0.75, 0.25
        history.do(AddProp("boulder_1", "Boulder"))
        history.do(
            Strew(body.name, ((0.0, 5.0, 0.0),), {"radius": 0.4, "density": 1.0, "slope_to": 90.0}, {"Boulder": 1.0})
        )
        with Stills(history.project) as stills, tempfile.TemporaryDirectory() as folder:
            camera = Camera(np.zeros(3), 16.0, 0.5, 0.6).clipped(stills.bounds)
            taken = stills.take(camera, SIZE, 3, channels=True)
            path = pathlib.Path(folder) / "ball.exr"
            write_exr(path, taken.channels)
            known = read_exr(path, "ball", 1024)
        number = known["prop.number"]
        self.assertEqual(number.dtype, np.uint32)
        for name, values in taken.channels.items():
            np.testing.assert_array_equal(known[name], values)
        # where each pixel looks, by hand
        ways = seen_ways(camera, SIZE)
        along = ways @ -camera.eye
        inside = 25.0 - (np.sum(camera.eye**2) - along**2)
        on = (inside > 4.0) & ~binary_dilation(number > 0, iterations=2)
        self.assertGreater(int(on.sum()), 2000)
        away = along[on] - np.sqrt(inside[on])
        normal = (camera.eye + ways[on] * away[:, None]) / 5.0
        seen = np.stack([known[f"N.{axis}"][on] for axis in "XYZ"], axis=1).astype(float)
        turned = np.degrees(np.arccos(np.clip((seen * normal).sum(axis=1), -1, 1)))
        self.assertLess(float(np.median(turned)), 12.0)  # grounds have normal maps
        np.testing.assert_allclose(seen.mean(axis=0), normal.mean(axis=0), atol=0.03)
        off = np.abs(known["Z"][on] - away * (ways[on] @ -camera.back))
        self.assertLess(float(np.percentile(off, 99)), 0.05)
        share = {name: known[f"ground.{name}"][on].astype(float) for name in names}
        np.testing.assert_allclose(share[names[3]], 0.25, atol=0.01)
        np.testing.assert_allclose(share[names[0]], 0.75, atol=0.01)
        self.assertEqual((float(known["water"].max()), float(known["N.Y"][0, 0])), (0.0, 0.0))
        place = anchors(body, body.strewn)[0][0]
        self.assertEqual(int(number[tuple(pixel_of(camera, place + 0.1 * place / 5.0, SIZE))]), 1)
        self.assertEqual(set(np.unique(number)), set(range(body.strewn.count + 1)))
        light = np.stack([known[name][on] for name in "RGB"], axis=1).astype(float)
        curve = light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14)
        shown = np.where(curve <= 0.0031308, 12.92 * curve, 1.055 * np.maximum(curve, 1e-9) ** (1 / 2.4) - 0.055)
        off = np.abs(np.asarray(taken.picture, float)[on] - 255 * np.clip(shown, 0, 1))
        self.assertLess(float(np.percentile(off, 90)), 3.0)  # the picture averages after the curve

    def test_what_cannot_be_read_or_kept_is_said(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder) / "some.exr"
            rng = np.random.default_rng(5)
            write_exr(path, {"R": rng.random((40, 60)).astype(np.float16)})
            good = path.read_bytes()
            for cut in (0, 10, 100, len(good) // 2, len(good) - 3):
                path.write_bytes(good[:cut])
                with self.assertRaisesRegex(FileProblem, "some"):
                    read_exr(path, "some", 1024)
            for _ in range(40):
                bad = bytearray(good)
                for at in rng.integers(0, len(bad), 6):
                    bad[at] = rng.integers(0, 256)
                path.write_bytes(bytes(bad))
                with contextlib.suppress(FileProblem):
                    read_exr(path, "some", 1024)
            path.write_bytes(good)
            with self.assertRaisesRegex(FileProblem, "60 x 40 pixels; the longer side may be 32"):
                read_exr(path, "some", 32)
        with (
            Stills(project_with(radius=5.0, edge=1.0).project) as stills,
            self.assertRaisesRegex(InvalidInput, "channels"),
        ):
            stills.take(stills.camera(), (16384, 8192), channels=True)

    def test_turn_and_flight(self) -> None:
        history = project_with(radius=5.0, edge=1.0)
        for name, eye, field in (
            ("A", (0.0, 3.0, 20.0), 40.0),
            ("B", (20.0, 5.0, 0.0), 60.0),
            ("C", (0, 9, -15), 40.0),
        ):
            history.do(SetViewpoint(name, eye, (0.0, 0.0, 0.0), field))
        views = tuple(history.project.viewpoints)
        with Stills(history.project) as stills:
            first, bounds = stills.camera("A"), stills.bounds
        round_ = turn(first, 8)
        np.testing.assert_allclose(round_[4].eye[[0, 2]], -first.eye[[0, 2]], atol=1e-9)
        self.assertTrue(all(abs(camera.eye[1] - first.eye[1]) < 1e-9 for camera in round_))
        way = flight(views, 21, bounds)
        for step, view in zip((0, 10, 20), views, strict=True):
            np.testing.assert_allclose(way[step].eye, view.eye, atol=1e-6)
            np.testing.assert_allclose(way[step].target, view.target, atol=1e-6)
            self.assertAlmostEqual(way[step].field, view.field)
        for a, b in itertools.pairwise(way):
            self.assertLess(float(np.linalg.norm(b.eye - a.eye)), 6.0)
        with self.assertRaisesRegex(InvalidInput, "two viewpoints at least"):
            flight(views[:1], 5, bounds)
        with self.assertRaisesRegex(InvalidInput, "2 to 10,000"):
            turn(first, 1)


if __name__ == "__main__":
    unittest.main()
