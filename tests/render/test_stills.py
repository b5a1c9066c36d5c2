"""Stills: pieces of a large picture, depth, and cameras that follow each other."""

import itertools
import math
import unittest
from unittest.mock import patch

import numpy as np
from PIL import Image

from hulmo.core.commands import SetViewpoint
from hulmo.core.errors import Cancelled, InvalidInput
from hulmo.core.progress import Progress
from hulmo.render import still as module
from hulmo.render.camera import Camera
from hulmo.render.camera_path import flight, turn
from hulmo.render.still import NOWHERE, Stills
from tests.bodies import project_with

SIZE = (300, 200)


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
