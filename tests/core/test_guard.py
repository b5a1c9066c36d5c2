"""The guard: nothing gets past it, and it can be shaped as a whole."""

import unittest

import numpy as np

from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import ChangeGuard, Fill, GuardFrom, LayRelief, Stroke, Subdivide
from hulmo.core.errors import InvalidInput
from hulmo.core.relief import RELIEFS
from tests.bodies import project_with, snapshot, stroke


class GuardTest(unittest.TestCase):
    def setUp(self) -> None:
        self.history = project_with("icosphere", radius=4.0, edge=0.3)
        self.body = self.history.project.bodies[0]
        self.history.do(LayRelief("Body", "noise", {"size": 1.5, "height": 0.5}, "Bumps"))
        self.history.do(stroke("guard", (0.0, 9, 0, 0, -1, 0), radius=2.0, strength=100.0, core=50.0))
        self.guard = self.body.vertices["guard"][:, 0].copy()

    def test_it_is_painted_and_freed_by_the_brush(self) -> None:
        self.assertEqual(float(self.guard.max()), 1.0)
        self.assertTrue(((self.guard > 0) & (self.guard < 1)).any())
        self.history.do(stroke("guard", (0.0, 9, 0, 0, -1, 0), invert=True, radius=3.0, strength=100.0, core=90.0))
        self.assertEqual(float(self.body.vertices["guard"].max()), 0.0)

    def test_every_brush_and_every_relief_respects_it(self) -> None:
        whole = self.guard == 1
        samples = [(0.3 * i, 9, 1.5, 0, -1, 0) for i in range(-2, 6)]
        for brush in BRUSHES.values():
            if brush.name == "guard" or brush.remeshes:
                continue
            if brush.name in ("feather", "give_back"):  # a border to work on, paint that no rule would give
                self.body.vertices["weight"][::2] = np.eye(4, dtype=np.float32)[1]
            before, weight = self.body.vertices["position"].copy(), self.body.vertices["weight"].copy()
            ground = self.history.project.grounds[0 if brush.name == "lift" else 1].name if brush.needs_ground else ""
            self.history.do(stroke(brush.name, *samples, ground=ground, radius=2.5, strength=100.0))
            column, was = ("position", before) if brush.shapes else ("weight", weight)
            if brush.name == "tint":
                column, was = "tint", np.zeros((weight.shape[0], 4), np.float32)
            change = np.abs(self.body.vertices[column] - was).max(axis=1)
            np.testing.assert_array_equal(change[whole], 0, brush.name)
            self.assertGreater(float(change[self.guard < 0.2].max()), 1e-3, brush.name)
            self.history.undo()
        for relief in RELIEFS.values():
            settings = {"height": 0.5} if relief.name in ("noise", "image", "jitter") else {}
            self.history.do(LayRelief("Body", relief.name, settings))
            offsets = np.abs(self.body.vertices[self.body.layers[-1].column]).max(axis=1)
            np.testing.assert_array_equal(offsets[whole], 0, relief.name)
            self.assertGreater(float(offsets[self.guard == 0].max()), 1e-3, relief.name)
            self.history.undo()
        self.history.do(Fill("Body", self.history.project.grounds[2].name))
        np.testing.assert_allclose(self.body.vertices["weight"][:, 2], 1 - self.guard, atol=1e-6)
        np.testing.assert_allclose(self.body.vertices["weight"].sum(axis=1), 1, atol=1e-6)

    def test_half_a_guard_lets_half_through(self) -> None:
        self.history.do(ChangeGuard("Body", "clear"))
        self.history.do(stroke("guard", (0.0, 9, 0, 0, -1, 0), radius=20.0, strength=50.0, core=95.0))
        np.testing.assert_allclose(self.body.vertices["guard"], 0.5)
        self.history.do(LayRelief("Body", "noise", {"height": 0.4, "size": 2.0}, "Half"))
        half = self.body.vertices["relief_2"].copy()
        self.history.undo()
        self.history.do(ChangeGuard("Body", "clear"))
        self.history.do(LayRelief("Body", "noise", {"height": 0.4, "size": 2.0}, "Whole"))
        np.testing.assert_allclose(half, self.body.vertices["relief_2"] / 2, atol=1e-6)

    def test_it_is_inverted_grown_shrunk_softened_and_cleared(self) -> None:
        do = self.history.do
        do(GuardFrom("Body", "height", 2.0, 9.0))
        hard = self.body.vertices["guard"][:, 0].copy()
        np.testing.assert_array_equal(hard, self.body.vertices["position"][:, 1] >= 2.0)
        do(ChangeGuard("Body", "invert"))
        np.testing.assert_array_equal(self.body.vertices["guard"][:, 0], 1 - hard)
        do(ChangeGuard("Body", "invert"))
        do(ChangeGuard("Body", "grow", 2))
        grown = self.body.vertices["guard"][:, 0].copy()
        self.assertGreater(grown.sum(), hard.sum())
        np.testing.assert_array_equal(grown[hard == 1], 1)
        triangles = self.body.corners.live_triangles()
        do(ChangeGuard("Body", "shrink"))
        shrunk = self.body.vertices["guard"][:, 0].copy()
        for row in np.flatnonzero((grown == 1) & (shrunk == 0)):
            around = np.unique(triangles[(triangles == row).any(axis=1)])
            self.assertEqual(float(grown[around].min()), 0.0)
        do(ChangeGuard("Body", "soften", 3))
        soft = self.body.vertices["guard"][:, 0]
        self.assertGreater(int(((soft > 0.05) & (soft < 0.95)).sum()), 100)
        do(ChangeGuard("Body", "clear"))
        self.assertNotIn("guard", self.body.vertices)
        self.history.undo()
        self.assertTrue((self.body.vertices["guard"][:, 0] == soft).all())

    def test_it_is_made_from_slope_height_ridges_hollows_and_grounds(self) -> None:
        do, vertices = self.history.do, self.body.vertices
        do(GuardFrom("Body", "slope", 40.0, 80.0, 10.0))
        slope = np.degrees(np.arccos(np.clip(vertices["normal"][:, 1], -1, 1)))
        wanted = np.clip(1 - np.maximum(40 - slope, slope - 80) / 10, 0, 1)
        np.testing.assert_allclose(vertices["guard"][:, 0], wanted, atol=1e-5)
        for source in ("ridge", "hollow"):
            do(GuardFrom("Body", source, 1 / 2.0))
            self.assertTrue(0 < vertices["guard"].mean() < 0.5, source)
        do(stroke("lay", (9.0, 0, 0, -1, 0, 0), ground="Shell sand", radius=2.0, strength=80.0))
        do(GuardFrom("Body", "ground", ground="Shell sand"))
        np.testing.assert_array_equal(vertices["guard"][:, 0], vertices["weight"][:, 3])
        do(GuardFrom("Body", "height", 3.0, 9.0, add=True))
        self.assertTrue((vertices["guard"][vertices["position"][:, 1] > 3.0] == 1).all())
        self.assertGreater(float(vertices["guard"][vertices["position"][:, 1] < 1.0].max()), 0.7)
        before = snapshot(self.body)
        for command, words in (
            (GuardFrom("Body", "moon"), "source is 'moon'"),
            (GuardFrom("Body", "slope", 50.0, 10.0), "low not above high"),
            (GuardFrom("Body", "ground", ground="Snow"), "no ground 'Snow'"),
            (ChangeGuard("Body", "twist"), "way is 'twist'"),
            (ChangeGuard("Body", "grow", 0), "between 1 and 100"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                do(command)
        self.assertEqual(snapshot(self.body), before)

    def test_it_is_carried_by_subdivision(self) -> None:
        self.history.do(Subdivide("Body"))
        guard = self.history.project.bodies[0].vertices["guard"][:, 0]
        np.testing.assert_array_equal(guard[: self.guard.size], self.guard)
        self.assertEqual(float(guard[self.guard.size :].max()), 1.0)

    def test_a_stroke_that_is_all_guarded_is_not_remembered(self) -> None:
        self.history.do(ChangeGuard("Body", "all"))
        self.history.begin(Stroke("Body", "raise", ()))
        self.history.sample((0.0, 9, 0, 0, -1, 0))
        self.assertIsNone(self.history.finish())


if __name__ == "__main__":
    unittest.main()
