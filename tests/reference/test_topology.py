"""Whole-body operations against published formulas and general-purpose libraries."""

import math
import unittest

import numpy as np
import trimesh

from hulmo.core.commands import (
    AddBody,
    Bore,
    Combine,
    Fill,
    FlipFaces,
    GuardFrom,
    JoinBodies,
    LayRelief,
    PlaceBody,
    Recast,
    Reduce,
    Subdivide,
)
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.measure import measure
from hulmo.core.progress import silent
from hulmo.core.topology.crossing import crossing
from hulmo.core.topology.loop import loop_matrix
from hulmo.core.topology.reduce import deviation
from tests.bodies import form_body, project_with, random_surface, regions, stroke


def library(body: Body) -> trimesh.Trimesh:
    return trimesh.Trimesh(body.vertices["position"], body.corners.live_triangles(), process=False)


def volume(body: Body) -> float:
    found = measure(body).volume
    assert found is not None
    return found


class LoopTest(unittest.TestCase):
    """Loop, "Smooth subdivision surfaces based on triangles" (1987)."""

    def test_weights(self) -> None:
        body = form_body("icosphere", radius=1.0, edge=0.4)
        matrix = loop_matrix(body.corners, body.vertices.count).toarray()
        np.testing.assert_allclose(matrix.sum(axis=1), 1, atol=1e-12)
        for row in range(body.vertices.count):
            around = body.corners.neighbours(row)
            n = around.size
            beta = (5 / 8 - (3 / 8 + math.cos(2 * math.pi / n) / 4) ** 2) / n
            np.testing.assert_allclose(matrix[row, around], beta, atol=1e-12)
            self.assertAlmostEqual(matrix[row, row], 1 - n * beta, places=12)
        edges = matrix[body.vertices.count :]
        self.assertTrue(((edges > 0).sum(axis=1) == 4).all())
        np.testing.assert_allclose(
            np.sort(edges, axis=1)[:, -4:], [[1 / 8, 1 / 8, 3 / 8, 3 / 8]] * len(edges), atol=1e-12
        )

    def test_against_a_mesh_library_with_borders(self) -> None:
        # trimesh's subdivide_loop uses the same rules; vertices are compared as sets of points. Where an inner edge joins
        # two border vertices (beside two corners of the sheet) the library takes that edge for a border one as well
        for body, apart in ((random_surface(5, cells=9), 4), (form_body("icosphere", radius=2.0, edge=0.7), 0)):
            points, _ = trimesh.remesh.subdivide_loop(
                body.vertices["position"].astype(float), body.corners.live_triangles(), 1
            )
            history = project_with()
            history.project.bodies = (body,)
            body.name = "Body"
            history.do(Subdivide("Body", True))
            ours = body.vertices["position"].astype(float)
            self.assertEqual(len(points), len(ours))
            nearest = np.linalg.norm(points[:, None] - ours[None], axis=2).min(axis=1)
            self.assertEqual(int((nearest > 1e-5).sum()), apart)

    def test_limit_of_a_regular_vertex(self) -> None:
        # at valence 6 the limit point is half the vertex plus half the mean of its neighbours (value from memory)
        history = project_with("sheet", size=8.0, depth=8.0, edge=1.0)
        body = history.project.bodies[0]
        rng = np.random.default_rng(2)
        body.vertices["position"][:] += rng.normal(0, 0.3, body.vertices["position"].shape).astype(np.float32)
        body.replaced()

        def regular(r: int) -> bool:
            return not body.corners.is_border(r) and body.corners.ring(r).size == 6

        row = next(
            r
            for r in range(body.vertices.count)
            if regular(r) and all(regular(int(k)) for k in body.corners.neighbours(r))
        )
        position = body.vertices["position"].astype(float)
        limit = position[row] / 2 + position[body.corners.neighbours(row)].mean(axis=0) / 2
        for _ in range(5):
            history.do(Subdivide("Body", True))
        np.testing.assert_allclose(body.vertices["position"][row], limit, atol=2e-3)

    def test_counts(self) -> None:
        for name in ("sheet", "icosphere"):
            history = project_with(name)
            before = measure(history.project.bodies[0])
            history.do(Subdivide("Body", True))
            after = measure(history.project.bodies[0])
            self.assertEqual(after.vertices, before.vertices + before.edges)
            self.assertEqual(after.triangles, 4 * before.triangles)


class BoreTest(unittest.TestCase):
    def ball(self, radius: float = 10.0, edge: float = 0.35) -> History:
        return project_with("icosphere", radius=radius, edge=edge)

    def test_genus(self) -> None:
        # a sphere with one tunnel is a torus; two tunnels that cross make a surface of genus 3
        history = self.ball()
        body = history.project.bodies[0]
        history.do(Bore("Body", ((-15.0, 0, 0), (15.0, 0, 0)), radius=2.0))
        self.assertEqual((measure(body).genus, measure(body).closed), (1, True))
        history.do(Bore("Body", ((0, -15.0, 0), (0, 15.0, 0)), radius=2.0, seed=2))
        self.assertEqual((measure(body).genus, measure(body).closed), (3, True))
        history.do(Bore("Body", ((0, 0, 15.0), (0, 0, 6.0)), radius=1.0))
        self.assertEqual(measure(body).genus, 3, "a blind passage adds no handle")

    def test_the_napkin_ring(self) -> None:
        # a ball with a straight hole through its middle, left with the height h, has the volume pi h³ / 6 (a classic of
        # calculus; the ball's radius drops out)
        for hole in (3.0, 6.0):
            history = self.ball(edge=0.25)
            history.do(Bore("Body", ((-14.0, 0, 0), (14.0, 0, 0)), radius=hole, irregularity=0.0, edge=0.25))
            height = 2 * math.sqrt(100 - hole**2)
            self.assertAlmostEqual(volume(history.project.bodies[0]) / (math.pi * height**3 / 6), 1.0, delta=0.01)


class CombineTest(unittest.TestCase):
    def test_inclusion_and_exclusion(self) -> None:
        volumes = {}
        for how in ("add", "cut", "common"):
            history = project_with("icosphere", radius=5.0, edge=0.4)
            history.do(
                AddBody("block", {"size": 6.0, "height": 6.0, "depth": 6.0, "edge": 0.5}, "Other", (3.0, 1.0, 0.5))
            )
            one, other = (volume(body) for body in history.project.bodies)
            history.do(Combine("Body", "Other", how))
            volumes[how] = volume(history.project.bodies[0])
            self.assertTrue(measure(history.project.bodies[0]).closed)
        self.assertAlmostEqual(volumes["add"] + volumes["common"], one + other, delta=5e-4 * one)  # rims are remeshed
        self.assertAlmostEqual(volumes["cut"] + volumes["common"], one, delta=5e-4 * one)


class RecastTest(unittest.TestCase):
    """Botsch and Kobbelt, "A remeshing approach to multiresolution modeling" (2004): edges of 4/5 to 4/3 of a target."""

    def test_edges_come_within_the_bounds(self) -> None:
        for start, wanted, how in ((0.9, 0.5, "surface"), (0.3, 0.6, "surface"), (0.9, 0.5, "volume")):
            history = project_with("icosphere", radius=8.0, edge=start)
            history.do(LayRelief("Body", "noise", {"height": 0.4, "size": 4.0}))
            body = history.project.bodies[0]
            before, points = volume(body), body.vertices["position"].copy()
            history.do(Recast("Body", wanted, how))
            position = body.vertices["position"].astype(float)
            triangles = body.corners.live_triangles()
            lengths = np.linalg.norm(position[triangles[:, (1, 2, 0)]] - position[triangles], axis=2)
            self.assertGreater(float(((lengths > 0.8 * wanted) & (lengths < 4 / 3 * wanted)).mean()), 0.95)
            self.assertEqual(measure(body).genus, 0)
            self.assertEqual(measure(body).thin_share, 0.0)
            self.assertAlmostEqual(volume(body) / before, 1.0, delta=0.01)
            self.assertLess(deviation(points, (body.vertices, body.corners)), 0.5 * wanted)
            np.testing.assert_allclose(
                body.vertices["position"], body.vertices["rest"] + body.vertices["relief_1"], atol=1e-5
            )
            np.testing.assert_allclose(body.vertices["weight"].sum(axis=1), 1, atol=1e-5)

    def test_balls_that_overlap_become_one_of_the_known_volume(self) -> None:
        # volume of the lens shared by two spheres: Weisstein, "Sphere-sphere intersection", MathWorld, equation 16
        large, small, apart = 5.0, 4.0, 5.0
        history = project_with("icosphere", radius=large, edge=0.3)
        history.do(AddBody("icosphere", {"radius": small, "edge": 0.3}, "Other"))
        history.do(PlaceBody("Other", (apart, 0.0, 0.0)))
        history.do(Fill("Other", history.project.grounds[2].name))
        history.do(JoinBodies("Body", "Other"))
        body = history.project.bodies[0]
        regions(body)[: body.corners.count // 2] = 3
        history.do(Recast("Body", 0.25))
        lens = np.pi * (large + small - apart) ** 2 / (12 * apart)
        lens *= apart**2 + 2 * apart * small - 3 * small**2 + 2 * apart * large + 6 * small * large - 3 * large**2
        whole = 4 / 3 * np.pi * (large**3 + small**3) - lens
        found = measure(body)
        self.assertEqual((found.parts, found.genus, found.closed), (1, 0, True))
        self.assertAlmostEqual(volume(body) / whole, 1.0, delta=0.005)
        self.assertEqual(found.thin_share, 0.0)
        far = body.vertices["position"][:, 0] > 5.5
        np.testing.assert_allclose(body.vertices["weight"][far][:, 2], 1, atol=1e-5)
        self.assertEqual(set(regions(body).tolist()), {0, 3})

    def test_what_crosses_itself_is_healed_and_hollows_stay(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.4)
        body = history.project.bodies[0]
        position = body.vertices["position"]
        position[position[:, 1] > 3] -= (0.13, 8.7, 0.07)  # the top is pushed through the bottom
        body.all_moved()
        self.assertGreater(len(crossing(body, silent())), 10)
        history.do(Recast("Body", 0.3))
        self.assertEqual(len(crossing(body, silent())), 0)
        self.assertTrue(measure(body).closed)
        hollow = project_with("icosphere", radius=5.0, edge=0.4)
        hollow.do(AddBody("icosphere", {"radius": 3.0, "edge": 0.4}, "Inner"))
        hollow.do(FlipFaces("Inner"))
        hollow.do(JoinBodies("Body", "Inner"))
        shell = volume(hollow.project.bodies[0])
        hollow.do(Recast("Body", 0.4))
        self.assertAlmostEqual(volume(hollow.project.bodies[0]) / shell, 1.0, delta=0.01)
        self.assertEqual(measure(hollow.project.bodies[0]).parts, 2)

    def test_creases_borders_and_guard_stay(self) -> None:
        history = project_with("block", size=4.0, height=4.0, depth=4.0, edge=1.0)
        history.do(Recast("Body", 0.4, "surface"))
        body = history.project.bodies[0]
        self.assertAlmostEqual(volume(body), 64.0, delta=0.5)
        corner = np.sort(np.linalg.norm(np.abs(body.vertices["position"]) - body.bounds().high, axis=1))
        self.assertLess(float(corner[0]), 1e-6)
        sheet = project_with("sheet", size=6.0, depth=6.0, edge=0.5)
        before = {
            tuple(p) for p in sheet.project.bodies[0].vertices["position"].tolist() if max(abs(p[0]), abs(p[2])) > 2.99
        }
        sheet.do(Recast("Body", 0.3))
        after = {tuple(p) for p in sheet.project.bodies[0].vertices["position"].tolist()}
        self.assertLessEqual(before, after)
        self.assertEqual(measure(sheet.project.bodies[0]).border_loops, 1)
        ball = project_with("icosphere", radius=4.0, edge=0.4)
        ball.do(GuardFrom("Body", "height", 1.0, 9.0))
        kept = {tuple(p) for p in ball.project.bodies[0].vertices["position"].tolist() if p[1] > 1.001}
        ball.do(Recast("Body", 0.8, "surface"))
        self.assertLessEqual(kept, {tuple(p) for p in ball.project.bodies[0].vertices["position"].tolist()})
        self.assertLess(ball.project.bodies[0].vertices.live_count, 1900)


class ReduceTest(unittest.TestCase):
    def test_half_is_half_and_stays_near(self) -> None:
        # common practice, no source: a reduction to 0.5 halves the triangles
        history = project_with("icosphere", radius=5.0, edge=0.2)
        body = history.project.bodies[0]
        points, count = body.vertices["position"].copy(), body.corners.live_count
        history.do(Reduce("Body", share=0.5))
        self.assertAlmostEqual(body.corners.live_count / count, 0.5, delta=0.005)
        ours = deviation(points, (body.vertices, body.corners))
        coarse = form_body("icosphere", radius=5.0, edge=0.2 * math.sqrt(2))
        floor = deviation(points, (coarse.vertices, coarse.corners))  # an even mesh of as many triangles
        self.assertLess(ours, 3 * floor)
        history.do(Reduce("Body", error=0.05))
        self.assertLessEqual(deviation(points, (body.vertices, body.corners)), 0.05 + ours)
        self.assertLess(body.corners.live_count, count / 6)

    def test_two_hundred_random_bodies_stay_manifold_and_of_their_kind(self) -> None:
        # watertightness, winding and Euler characteristic by a general-purpose mesh library
        rng = np.random.default_rng()
        for _ in range(200):
            form, edge = ("icosphere", "block", "column", "box_sphere")[rng.integers(4)], float(rng.uniform(0.7, 1.1))
            size = {"size": 7.0, "height": 6.0, "depth": 8.0} if form == "block" else {"radius": 4.0}
            history = project_with(form, edge=edge, **size)
            body = history.project.bodies[0]
            position = body.vertices["position"]
            for _ in range(2):
                at = position[rng.integers(len(position))]
                brush = ("raise", "haul", "roughen", "stamp")[rng.integers(4)]
                history.do(stroke(brush, tuple(at.tolist()), tuple((1.4 * at).tolist()), radius=3.0))
            if rng.random() < 0.5:
                history.do(Recast("Body", 0.7, "surface"))
            share = float(rng.uniform(0.05, 0.95))
            euler = library(body).euler_number
            history.do(Reduce("Body", share=share))
            found = library(body)
            said = f"{form}, share {share:.3f}"
            self.assertTrue(found.is_watertight and found.is_winding_consistent, said)
            self.assertEqual(found.euler_number, euler, said)
            self.assertEqual(np.unique(found.edges_sorted, axis=0, return_counts=True)[1].max(), 2, said)


if __name__ == "__main__":
    unittest.main()
