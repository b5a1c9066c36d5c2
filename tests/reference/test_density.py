"""Pixels of triangles against their projected area, and what is never seen."""

import math
import unittest

import numpy as np

from hulmo.core.care.seen_from import seen_from
from hulmo.core.commands import AddBody, FitToViews, SetViewpoint, Stroke
from hulmo.core.errors import InvalidInput
from hulmo.core.history import History
from hulmo.core.progress import silent
from hulmo.core.project import Project

SIZE = (1920, 1080)


class DensityTest(unittest.TestCase):
    def scene(self, form: str, **values: float) -> History:
        history = History(Project())
        history.do(AddBody(form, values, "Body"))
        return history

    def test_pixels_are_projected_area(self) -> None:
        """A figure of area A square to the view at distance d takes A (h / (2 d tan(field / 2)))^2 pixels."""
        history = self.scene("sheet", size=10.0, depth=10.0, edge=0.5)
        history.do(SetViewpoint("Above", (0.0, 40.0, 1e-6), (0.0, 0.0, 0.0), 30.0))
        body = history.project.bodies[0]
        found = seen_from(body, history.project.viewpoints, SIZE, silent())
        self.assertTrue(found.seen.all())
        scale = SIZE[1] / (2 * 40.0 * math.tan(math.radians(15.0)))
        np.testing.assert_allclose(found.pixels, 0.125 * scale**2, rtol=1e-4)
        # twice as near, four times as many; and of two viewpoints the nearer counts
        history.do(SetViewpoint("Nearer", (0.0, 20.0, 1e-6), (0.0, 0.0, 0.0), 30.0))
        both = seen_from(body, history.project.viewpoints, SIZE, silent())
        middle = np.linalg.norm(body.vertices["position"][body.corners.triangles].mean(axis=1), axis=1) < 2
        np.testing.assert_allclose(both.pixels[middle], 4 * 0.125 * scale**2, rtol=1e-3)

    def test_of_a_ball_the_cap_that_faces_the_eye_is_seen_and_what_another_body_hides_is_not(self) -> None:
        history = self.scene("icosphere", radius=2.0, edge=0.1)
        history.do(SetViewpoint("East", (8.0, 0.0, 0.0), (0.0, 0.0, 0.0), 60.0))
        body = history.project.bodies[0]
        found = seen_from(body, history.project.viewpoints, SIZE, silent())
        x = body.vertices["position"][body.corners.triangles][:, :, 0]
        # seen is what lies beyond the plane x = r^2 / d
        np.testing.assert_array_equal(found.seen[x.min(axis=1) > 0.56], True)
        np.testing.assert_array_equal(found.seen[x.max(axis=1) < 0.44], False)
        history.do(
            AddBody("block", {"size": 1.0, "height": 10.0, "depth": 10.0, "edge": 1.0}, "Wall", (5.0, -5.0, 0.0))
        )
        wall = history.project.bodies[1]
        self.assertFalse(seen_from(body, history.project.viewpoints, SIZE, silent(), (wall,)).seen.any())

    def test_refining_and_thinning_out(self) -> None:
        history = self.scene("icosphere", radius=2.0, edge=0.5)
        history.do(SetViewpoint("East", (8.0, 0.0, 0.0), (0.0, 0.0, 0.0), 40.0))
        history.do(Stroke("Body", "guard", ((-2.0, 0.0, 0.0),), {"radius": 1.0, "strength": 100.0}))
        body = history.project.bodies[0]
        before, guarded = body.corners.live_count, body.vertices["position"][body.vertices["guard"][:, 0] >= 1].copy()
        history.do(FitToViews("Body", "refine", 400.0))
        found = seen_from(body, history.project.viewpoints, SIZE, silent())
        self.assertGreater(body.corners.live_count, 1.5 * before)
        self.assertLess(float((found.pixels[found.seen] > 400.0).mean()), 0.02)
        history.undo()
        self.assertEqual(body.corners.live_count, before)
        history.do(FitToViews("Body", "thin_out"))
        self.assertLess(body.corners.live_count, 0.85 * before)
        there = {tuple(row) for row in body.vertices["position"].tolist()}
        self.assertTrue(all(tuple(row) in there for row in guarded.tolist()))

    def test_nonsense_is_refused(self) -> None:
        history = self.scene("icosphere", radius=2.0, edge=1.0)
        for command, words in (
            (FitToViews("Body"), "no viewpoint"), (FitToViews("Body", "melt"), "way is"),
            (FitToViews("Body", pixels=math.nan), "pixels"), (FitToViews("Body", width=0), "16 to"),
            (FitToViews("Body", views=("Nowhere",)), "no viewpoint 'Nowhere'"),
        ):  # fmt: skip
            with self.subTest(command=command), self.assertRaisesRegex(InvalidInput, words):
                history.do(command)


if __name__ == "__main__":
    unittest.main()
