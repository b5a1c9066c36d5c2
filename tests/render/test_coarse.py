"""Coarser copies: what stands for what, by SciPy beside ours; pictures without cracks that follow the surface."""

import unittest

import numpy as np
from scipy.spatial import cKDTree

from hulmo.core.commands import AddBody, LayRelief
from hulmo.core.history import History
from hulmo.core.mesh.vertex_clusters import VertexClusters
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.part import Part
from hulmo.render.passes.shot import WHOLE, Shot
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets
from tests.bodies import stroke

SMALL = (90, 74)


class ClustersTest(unittest.TestCase):
    def test_the_one_nearest_to_the_middle_of_a_cell(self) -> None:
        rng = np.random.default_rng(4)
        at = rng.uniform(-3.0, 9.0, (20_000, 3)).astype(np.float32)
        low, size = np.full(3, -3.0), 0.9
        rows = rng.permutation(20_000).astype(np.int32)[:15_000]
        clusters = VertexClusters(at, low, size)
        for some in np.array_split(rows, 7):  # the table of cells grows on the way
            clusters.add(some)
        cell = np.floor((at.astype(np.float64) - low) / size)
        middle = low + (cell + 0.5) * size
        for row, stands in zip(rows[:400], clusters.standing_for(rows[:400]), strict=True):
            mates = rows[(cell[rows] == cell[row]).all(axis=1)]
            nearest = mates[cKDTree(at[mates].astype(np.float64)).query(middle[row])[1]]
            self.assertEqual(stands, nearest)


class CoarseTest(unittest.TestCase):
    def setUp(self) -> None:
        self.context = headless_context()
        self.history = History(Project())
        self.history.do(AddBody("icosphere", {"radius": 10.0, "edge": 0.08}, "Body"))
        self.history.do(LayRelief("Body", "noise", {"size": 4.0, "height": 0.8}))
        self.renderer = Renderer(self.context, self.history.project)
        self.camera = Camera.framing(self.renderer.bounds())

    def tearDown(self) -> None:
        self.context.release()

    def picture(self, size: tuple[int, int], coarse: bool) -> tuple[np.ndarray, np.ndarray, dict[int, int]]:
        # pixels, which of them the surface covers, and triangles drawn by copy
        targets = Targets(self.context, size)
        self.renderer.picture(targets, self.camera, "lit", coarse=coarse)
        shape = size[1], size[0]
        pixels = np.frombuffer(targets.result_texture.read(), np.uint8).reshape(*shape, -1)[..., :3].astype(int)
        covered = np.frombuffer(targets.depth_texture.read(), np.float32).reshape(shape) < 1.0
        view = self.renderer.view(self.camera, "lit")
        shot = Shot(self.renderer._stage, view, targets, Part.whole(size), WHOLE, size, coarse=coarse)
        portions = shot.portions(shot.bodies[0])
        counts = {copy: int(portions.count[portions.copy == copy].sum()) for copy in set(portions.copy.tolist())}
        targets.release()
        return pixels, covered, counts

    def check(self, size: tuple[int, int], most: float) -> dict[int, int]:
        fine, covered, _ = self.picture(size, False)
        coarse, also, counts = self.picture(size, True)
        # no pixel that is not at the outline is bare in one and covered in the other: there are no cracks
        inner = covered.copy()
        for axis in (0, 1):
            for way in (-1, 1):
                inner &= np.roll(covered, way, axis) & np.roll(covered, 2 * way, axis)
        self.assertTrue(also[inner].all())
        self.assertLess(np.count_nonzero(also != covered), 0.15 * np.count_nonzero(covered))
        self.assertLess(np.abs(fine - coarse)[inner].mean(), most)
        return counts

    def test_small_pictures_are_drawn_of_copies(self) -> None:
        total = self.history.project.bodies[0].corners.live_count
        self.assertLess(sum(self.check(SMALL, 12.0).values()), total / 3)
        # a large picture is drawn of the body as it is: the same to the bit
        fine, _, _ = self.picture((1200, 1000), False)
        same, _, counts = self.picture((1200, 1000), True)
        np.testing.assert_array_equal(fine, same)
        self.assertEqual(counts.keys(), {0})

    def test_near_ground_is_drawn_finer_than_what_lies_far_off(self) -> None:
        history = History(Project())
        history.do(AddBody("sheet", {"size": 240.0, "depth": 240.0, "edge": 0.45}, "Body"))
        history.do(LayRelief("Body", "noise", {"size": 30.0, "height": 2.0}))
        self.history, self.renderer = history, Renderer(self.context, history.project)
        self.camera = Camera(np.array([0.0, 2.0, 90.0]), 12.0, 3.1, 0.2).clipped(self.renderer.bounds())
        counts = self.check(SMALL, 16.0)
        self.assertGreater(len(counts), 2)
        self.assertIn(0, counts)

    def test_copies_move_with_the_surface_and_go_with_the_triangles(self) -> None:
        self.picture(SMALL, True)
        self.history.subscribe(self.renderer.follow)
        self.history.do(stroke("raise", (0.0, 0.0, 14.0), (4.0, 3.0, 10.0), radius=4.0, strength=100.0))
        self.assertNotIn(0, self.check(SMALL, 12.0))
        self.history.do(stroke("refine", (0.0, 0.0, 14.0), (3.0, 3.0, 10.0), radius=1.5))
        self.assertEqual(self.check(SMALL, 12.0).keys(), {0})  # until they are made anew
        for _ in self.renderer.made_ready():
            pass
        self.assertNotIn(0, self.check(SMALL, 12.0))
        self.history.undo()  # the table becomes shorter again
        self.check(SMALL, 12.0)
        for _ in self.renderer.made_ready():
            pass
        self.assertNotIn(0, self.check(SMALL, 12.0))


if __name__ == "__main__":
    unittest.main()
