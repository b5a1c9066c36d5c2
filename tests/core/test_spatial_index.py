"""Ray and nearest point against brute force, also while triangles move, come and go."""

import unittest

import numpy as np

from hulmo.core.commands import LayRelief, Subdivide
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import Shape
from hulmo.core.mesh.moment import NOW
from hulmo.core.mesh.spatial_index import SpatialIndex
from tests.bodies import form_body, project_with, random_surface, stroke, two_sheets


def brute_ray(position: np.ndarray, triangles: np.ndarray, origin: np.ndarray, direction: np.ndarray) -> float:
    a, b, c = (position[triangles[:, i]].astype(float) for i in range(3))
    normal = np.cross(b - a, c - a)
    along = normal @ direction
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.einsum("ij,ij->i", normal, a - origin) / along
        p = origin + t[:, None] * direction
        inside = np.ones(len(a), bool)
        for u, v in ((a, b), (b, c), (c, a)):
            inside &= np.einsum("ij,ij->i", np.cross(v - u, p - u), normal) >= -1e-9
    hit = inside & (t >= 0) & np.isfinite(t)
    return float(t[hit].min()) if hit.any() else np.inf


def brute_nearest(position: np.ndarray, triangles: np.ndarray, point: np.ndarray) -> float:
    # dense sampling is enough to bound the exact answer from above; edges and corners are exact
    best = np.inf
    for t in triangles:
        a, b, c = position[t].astype(float)
        for u, v in ((a, b), (b, c), (c, a)):
            s = np.clip((point - u) @ (v - u) / max((v - u) @ (v - u), 1e-30), 0, 1)
            best = min(best, float(np.linalg.norm(u + s * (v - u) - point)))
        n = np.cross(b - a, c - a)
        p = point - n * ((point - a) @ n) / max(n @ n, 1e-30)
        if all(np.cross(v - u, p - u) @ n >= 0 for u, v in ((a, b), (b, c), (c, a))):
            best = min(best, float(np.linalg.norm(p - point)))
    return best


class SpatialIndexTest(unittest.TestCase):
    def check(self, index: SpatialIndex, body: Body, live: np.ndarray, seed: int, count: int = 60) -> None:
        rng = np.random.default_rng(seed)
        vertex, position = body.corners.vertex, body.vertices["position"]
        triangles = body.corners.triangles[live]
        low, high = position.min(0) - 1.0, position.max(0) + 1.0
        for _ in range(count):
            origin, target = rng.uniform(low, high), rng.uniform(low, high)
            direction = (target - origin) / np.linalg.norm(target - origin)
            hit = index.ray(vertex, position, origin, direction)
            expected = brute_ray(position, triangles, origin, direction)
            self.assertAlmostEqual(np.inf if hit is None else hit.distance, expected, places=6)
            if hit is not None:
                np.testing.assert_allclose(hit.position, origin + hit.distance * direction, atol=1e-6)
        for _ in range(count // 20):
            point = rng.uniform(low, high)
            near = index.nearest(vertex, position, point)
            assert near is not None
            self.assertAlmostEqual(near.distance, brute_nearest(position, triangles, point), places=6)

    def test_against_brute_force_on_forms(self) -> None:
        for name in ("sheet", "column", "icosphere"):
            with self.subTest(form=name):
                body = form_body(
                    name,
                    **{"edge": 1.0, "size": 6.0, "depth": 6.0} if name == "sheet" else {"edge": 1.0, "radius": 4.0},
                )
                self.check(body.index, body, np.arange(body.corners.count), 1)

    def test_many_rays_meet_what_each_meets(self) -> None:
        body = form_body("icosphere", radius=2.0, edge=0.3)
        rng = np.random.default_rng(5)
        origin = rng.normal(size=(200, 3)) * 3
        way = rng.normal(size=(200, 3))
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        reach = rng.uniform(0, 8, 200)
        hit, far, share = body.index.rays(body.corners.vertex, body.vertices["position"], origin, way, reach)
        met = 0
        for i in range(200):
            one = body.index.ray(body.corners.vertex, body.vertices["position"], origin[i], way[i], float(reach[i]))
            self.assertEqual(one is None, hit[i] < 0)
            if one is not None:
                met += 1
                self.assertEqual(one.triangle, hit[i])
                np.testing.assert_allclose((one.distance, *one.weights), (far[i], *share[i]), atol=1e-12)
        self.assertGreater(met, 10)

    def test_after_moving_triangles(self) -> None:
        body = random_surface(2, 12)
        index = SpatialIndex(body.corners.vertex, body.vertices["position"])
        rng = np.random.default_rng(5)
        for turn in range(4):
            rows = np.sort(rng.choice(body.vertices.count, 20, replace=False)).astype(np.int32)
            body.vertices["position"][rows] += rng.normal(0, 1.5, (20, 3)).astype(np.float32)
            moved = np.flatnonzero(np.isin(body.corners.triangles, rows).any(axis=1)).astype(np.int32)
            index.refit(body.corners.vertex, body.vertices["position"], moved)
            self.check(index, body, np.arange(body.corners.count), turn, 40)

    def test_the_same_triangles_elsewhere(self) -> None:
        body = form_body("icosphere")
        first = body.index
        moved = (body.vertices["position"] * (1.0, 0.3, 1.4) + (5.0, 0.0, 0.0)).astype(np.float32)
        other = first.over(body.corners.vertex, moved)
        there = form_body("icosphere")
        there.vertices["position"][:] = moved
        self.check(other, there, np.arange(body.corners.count), 5)
        self.check(first, body, np.arange(body.corners.count), 6)  # as it was

    def test_both_surfaces_can_be_asked_for_while_a_stroke_goes_on(self) -> None:
        history = project_with("sheet", size=20.0, depth=20.0, edge=0.5)
        body = history.project.bodies[0]
        _ = body.index
        start = body.vertices["position"].copy()
        history.begin(stroke("raise", radius=4.0, height=2.0, strength=100.0, direction="up"))
        for x in (-3.0, 0.0, 3.0):
            change = history.sample((x, 9.0, 0.0, 0.0, -1.0, 0.0))
            self.assertTrue(change.rows)
            hit = body.ray(np.array([x, 9.0, 0.1]), np.array([0.0, -1.0, 0.0]))
            assert hit is not None
            self.assertGreater(hit.position[1], 1.9, "the surface as it is")
            then = body.index.ray(
                body.corners.vertex, body.vertices["position"], np.array([x, 9.0, 0.1]), np.array([0.0, -1.0, 0.0]),
                before=(start, NOW),
            )  # fmt: skip
            assert then is not None
            self.assertLess(abs(then.position[1]), 1e-6, "the surface as it was")
            self.assertAlmostEqual(body.index.bounds[1, 1], body.vertices["position"][:, 1].max(), places=6)
        history.finish()
        self.check(body.index, body, np.arange(body.corners.count), 3, 30)
        self.assertEqual(body.index.bounds.tolist(), [start.min(0).tolist(), body.vertices["position"].max(0).tolist()])

    def test_while_triangles_come_and_go(self) -> None:
        body = form_body("icosphere", radius=4.0, edge=0.8)
        index = SpatialIndex(body.corners.vertex, body.vertices["position"])
        rng = np.random.default_rng(9)
        live = np.ones(body.corners.count, bool)
        for turn in range(8):
            out = rng.choice(np.flatnonzero(live), live.sum() // 2, replace=False).astype(np.int32)
            index.remove(out)
            live[out] = False
            self.check(index, body, np.flatnonzero(live), 20 + turn, 24)
            # all back at once, shuffled, so that leaves overflow and are halved
            back = rng.permutation(np.flatnonzero(~live)).astype(np.int32)
            index.insert(body.corners.vertex, body.vertices["position"], back)
            live[back] = True
            self.check(index, body, np.flatnonzero(live), 40 + turn, 24)

    def test_slots_that_were_never_held_are_passed_over(self) -> None:
        body = form_body("icosphere", radius=4.0, edge=1.0)
        vertex, position = body.corners.vertex, body.vertices["position"]
        index = SpatialIndex(vertex, position)
        beyond = np.array([body.corners.count, 10_000_000], np.int32)
        for tell in (index.refit, index.drop):
            tell(vertex, position, beyond)
        index.remove(beyond)
        self.check(index, body, np.arange(body.corners.count), 6, 20)

    def test_growing_from_nothing(self) -> None:
        body = form_body("icosphere", radius=4.0, edge=0.5)
        nothing = np.full_like(body.corners.vertex, -1)
        index = SpatialIndex(nothing, body.vertices["position"])
        order = np.random.default_rng(3).permutation(body.corners.count).astype(np.int32)
        for part in np.array_split(order, 7):
            index.insert(body.corners.vertex, body.vertices["position"], part)
        self.check(index, body, order, 4)

    def test_back_faces_count_and_bad_rays_miss(self) -> None:
        body = form_body("icosphere")
        inside = body.ray(np.zeros(3), np.array([1.0, 0.2, 0.1]))
        assert inside is not None
        self.assertAlmostEqual(inside.distance, 5.0, delta=0.05)
        self.assertIsNone(body.ray(np.zeros(3), np.zeros(3)))
        self.assertIsNone(body.ray(np.array([np.nan, 0, 0]), np.array([1.0, 0, 0])))
        self.assertIsNone(body.nearest(np.array([np.inf, 0, 0])))

    def test_an_index_that_an_undo_brings_back_is_that_of_the_tables(self) -> None:
        history = project_with("icosphere", radius=3.0, edge=0.6)
        body = history.project.bodies[0]
        points = np.random.default_rng(3).uniform(-4, 4, (60, 3)).astype(np.float32)

        def away(index: SpatialIndex) -> np.ndarray:
            triangle, weight = index.nearest_many(body.corners.vertex, body.vertices["position"], points)
            on = np.einsum("ki,kij->kj", weight, body.vertices["position"][body.corners.triangles[triangle]])
            return np.linalg.norm(on - points, axis=1)

        _ = body.index
        steps = (
            stroke("raise", (0.0, 3.0, 0.0), height=0.5),
            Subdivide("Body"),
            LayRelief("Body", "noise", {"height": 0.4, "size": 2.0}),
            Subdivide("Body"),
        )
        for step in steps:
            history.do(step)
            _ = body.index
        known = []
        for go in (*[history.undo] * 4, *[history.redo] * 4, *[history.undo] * 2):
            go()
            known.append(body.known_index is not None)
            anew = SpatialIndex(body.corners.vertex, body.vertices["position"])
            np.testing.assert_allclose(away(body.index), away(anew), atol=1e-5)
        # tables come back with their index; where all has moved under a layer, it is brought up to date when it is asked for
        self.assertEqual([known[i] for i in (0, 2, 5, 7, 8)], [True] * 5)

    def test_one_triangle(self) -> None:
        body = Body.from_shape("one", Shape(np.eye(3, dtype=np.float32), np.array([[0, 1, 2]], np.int32)))
        hit = body.ray(np.zeros(3), np.ones(3))
        assert hit is not None
        self.assertAlmostEqual(hit.distance, 1 / np.sqrt(3))

    def test_regions_never_jump_through_the_air(self) -> None:
        body = two_sheets()
        hit = body.ray(np.array([0.1, 5.0, 0.1]), np.array([0.0, -1.0, 0.0]))
        assert hit is not None
        region = body.grow_region(hit.triangle, hit.position, 1.0)
        half = body.vertices.count // 2
        away = np.linalg.norm(body.vertices["position"] - hit.position, axis=1)
        self.assertEqual(region.inside.tolist(), np.flatnonzero(away[:half] < 1.0).tolist())
        self.assertTrue((away[half:] < 1.0).any(), "the other sheet must be near enough for the test to mean something")
        expected = np.flatnonzero(np.isin(body.corners.triangles, region.inside).any(axis=1))
        self.assertEqual(sorted(region.triangles.tolist()), expected.tolist())
        self.assertEqual(region.around.tolist(), np.unique(body.corners.triangles[expected]).tolist())


if __name__ == "__main__":
    unittest.main()
