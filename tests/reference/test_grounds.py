"""Grounds, rules and paint against closed forms, published formulas, libraries and facts of the trade."""

import unittest

import msgspec
import numpy as np
import potpourri3d

from hulmo.core.commands import Choose, SetRules, SetWeight
from hulmo.core.ground.blend import axis_weights, hashed, joined, pieces, varied
from hulmo.core.ground.evaluate import evaluate, rule_share
from hulmo.core.ground.measures import MEASURES, Asked
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.geodesic import geodesic
from hulmo.core.mesh.shelter import shelter
from hulmo.core.progress import silent
from hulmo.core.setting import complete
from tests.bodies import form_body, project_with, stroke


def measured(body: Body, name: str, **settings: float) -> np.ndarray:
    measure = MEASURES[name]
    rows = np.arange(body.vertices.count, dtype=np.int32)
    return measure.of(Asked(body, rows, complete(measure.settings, settings, name)))


def revolved(profile: np.ndarray, around: int) -> Body:
    """A surface turned about +Y from (K, 2) radius and height, from the axis outward; its normals point up or inward."""
    turn = np.linspace(0, 2 * np.pi, around, endpoint=False)
    rings = profile[1:]
    position = [np.array([[0.0, profile[0, 1], 0.0]])]
    position += [np.column_stack((r * np.cos(turn), np.full(around, y), r * np.sin(turn))) for r, y in rings]
    faces = [(0, 1 + (i + 1) % around, 1 + i) for i in range(around)]
    for ring in range(len(rings) - 1):
        for i in range(around):
            a, b = 1 + ring * around + i, 1 + ring * around + (i + 1) % around
            faces += [(a, b, a + around), (b, b + around, a + around)]
    return Body.from_shape("turned", Shape(np.concatenate(position).astype(np.float32), np.array(faces, np.int32)))


def area_share(body: Body, weight: np.ndarray) -> float:
    """Share of the surface's area that a weight covers, a third of each triangle for each corner."""
    triangles = body.corners.live_triangles()
    a, b, c = (body.vertices["position"][triangles[:, i]].astype(np.float64) for i in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    return float((area * weight[triangles].mean(axis=1)).sum() / area.sum())


class RuleReferenceTest(unittest.TestCase):
    def test_share_of_a_sphere_under_a_slope_limit(self) -> None:
        # Archimedes: the area of a cap goes with its height, so (1 - cos a) / 2 of a sphere is flatter than a
        body = form_body("icosphere", radius=10.0, edge=0.3)
        for limit in (20.0, 45.0, 90.0, 130.0):
            body.rules = (Rule("A", (Condition("slope", {}, None, limit),)),)
            share = area_share(body, evaluate(body, ("B", "A"))[:, 1])
            self.assertAlmostEqual(share, (1 - np.cos(np.radians(limit))) / 2, delta=0.006)
        # the same for heights: a zone between two heights has its height over the diameter
        body.rules = (Rule("A", (Condition("height", {}, -2.0, 5.0),)),)
        self.assertAlmostEqual(area_share(body, evaluate(body, ("B", "A"))[:, 1]), 7.0 / 20.0, delta=0.006)
        body.rules = (Rule("A", (Condition("facing", {"bearing": 30.0, "altitude": 10.0}, None, 60.0),)),)
        self.assertAlmostEqual(area_share(body, evaluate(body, ("B", "A"))[:, 1]), 0.25, delta=0.006)

    def test_conditions_in_groups_are_sets_in_brackets(self) -> None:
        # unions and intersections of NumPy over the same limits: (high or steep) and (east or not low) or (north)
        body = form_body("icosphere")
        place, normal = (body.vertices[name].astype(float) for name in ("position", "normal"))
        slope = np.degrees(np.arccos(np.clip(normal[:, 1], -1, 1)))
        high, steep, low = place[:, 1] >= 2.0, slope >= 100.0, place[:, 1] >= -1.0
        given = (
            Condition("height", {}, low=2.0),
            Condition("slope", {}, low=100.0, join="or"),
            Condition("height", {}, low=-1.0, join="and_group"),
            Condition("slope", {}, high=50.0, join="or", inverted=True),
            Condition("height", {}, high=-4.5, join="or_group"),
        )
        wanted = ((high | steep) & (low | ~(slope <= 50.0))) | (place[:, 1] <= -4.5)
        rows = np.arange(body.vertices.count, dtype=np.int32)
        found = rule_share(Rule("A", given), body, ("A",), rows, None, silent())
        np.testing.assert_array_equal(found > 0.5, wanted)
        flat = tuple(msgspec.structs.replace(one, join=one.join.removesuffix("_group")) for one in given)
        chained = rule_share(Rule("A", flat), body, ("A",), rows, None, silent())
        self.assertGreater(int((found != chained).sum()), 50)  # brackets matter

    def test_slope_of_a_cone_and_bend_of_sphere_cylinder_and_saddle(self) -> None:
        # a cone of height h over radius r is everywhere as steep as atan(h / r)
        radius = np.linspace(0, 4, 41)
        cone = revolved(np.column_stack((radius, 3.0 - 0.75 * radius)), 96)
        away = np.linalg.norm(cone.vertices["position"][:, [0, 2]], axis=1)
        slopes = measured(cone, "slope")[(away > 0.5) & (away < 3.8)]
        np.testing.assert_allclose(slopes, np.degrees(np.arctan(0.75)), atol=0.3)
        # mean curvature: 1 / R on a sphere, whatever the scale
        sphere = form_body("icosphere", radius=8.0, edge=0.25)
        for scale in (1.0, 3.0, 6.0):
            np.testing.assert_allclose(measured(sphere, "bend", scale=scale), 100 * scale / 8.0, rtol=0.03)
        # 1 / (2 R) on a cylinder's side
        turn = np.linspace(0, 2 * np.pi, 120, endpoint=False)
        y = np.linspace(-10, 10, 81)
        grid = np.stack(np.meshgrid(turn, y, indexing="xy"), -1).reshape(-1, 2)
        position = np.column_stack((5 * np.cos(grid[:, 0]), grid[:, 1], 5 * np.sin(grid[:, 0])))
        faces = []
        for row in range(80):
            for i in range(120):
                a, b = row * 120 + i, row * 120 + (i + 1) % 120
                faces += [(a, a + 120, b), (b, a + 120, b + 120)]
        side = Body.from_shape("side", Shape(position.astype(np.float32), np.array(faces, np.int32)))
        middle = np.abs(position[:, 1]) < 5
        np.testing.assert_allclose(measured(side, "bend", scale=2.0)[middle], 100 * 2.0 / 10.0, rtol=0.03)
        # y = (x^2 - z^2) / 8 is a saddle: mean curvature 0 in the middle, principal curvatures 1/4 and -1/4
        saddle = form_body("sheet", size=12.0, depth=12.0, edge=0.1)
        at = saddle.vertices["position"]
        at[:, 1] = (at[:, 0] ** 2 - at[:, 2] ** 2) / 8
        saddle.replaced()
        centre = int(np.argmin(np.linalg.norm(at, axis=1)))
        self.assertAlmostEqual(float(measured(saddle, "bend", scale=0.35)[centre]), 0.0, delta=0.5)

    def test_shelter_at_the_bottom_of_a_hemispherical_pit(self) -> None:
        # from the bottom of a bowl that is a half sphere sunk in a plain, the rim stands 45 degrees high all around; the
        # cosine-weighted share of the sky within the cone of half angle 45 degrees is sin^2 45 = 1/2
        angle = np.linspace(0, np.pi / 2, 40)
        bowl = np.column_stack((2 * np.sin(angle), -2 * np.cos(angle)))
        plain = np.column_stack((np.linspace(2.2, 12, 20), np.zeros(20)))
        body = revolved(np.concatenate((bowl, plain)), 96)
        hidden = shelter(body, 1000.0, silent(), rays=256)
        self.assertAlmostEqual(float(hidden[0]), 0.5, delta=0.03)
        away = np.linalg.norm(body.vertices["position"][:, [0, 2]], axis=1)
        np.testing.assert_allclose(hidden[(away > 5) & (away < 11)], 0.0, atol=1e-6)
        # anywhere in a spherical bowl the view factor to the opening is the same, 1/2 for a half sphere (radiative heat
        # transfer: the view factor between parts of one sphere is their share of its area); value from memory
        inside = (away < 1.85) & (body.vertices["position"][:, 1] < -0.5)
        self.assertAlmostEqual(float(hidden[inside].mean()), 0.5, delta=0.03)

    def test_distance_over_plane_and_sphere_and_against_a_library(self) -> None:
        sheet = form_body("sheet", size=10.0, depth=10.0, edge=0.2)
        position = sheet.vertices["position"].astype(np.float64)
        start = int(np.argmin(np.linalg.norm(position, axis=1)))
        away = geodesic(sheet.vertices["position"], sheet.corners, np.array([start], np.int32))
        np.testing.assert_allclose(away, np.linalg.norm(position - position[start], axis=1), atol=1e-3)
        ball = form_body("icosphere", radius=10.0, edge=0.4)
        at = ball.vertices["position"].astype(np.float64)
        away = geodesic(ball.vertices["position"], ball.corners, np.array([7], np.int32))
        arc = 10.0 * np.arccos(np.clip(at @ at[7] / 100.0, -1, 1))
        near = arc < 25.0
        np.testing.assert_allclose(away[near], arc[near], rtol=0.005, atol=0.01)
        # fast marching by a general-purpose geometry library (potpourri3d over geometry-central)
        hills = form_body("sheet", size=10.0, depth=10.0, edge=0.15)
        at = hills.vertices["position"]
        at[:, 1] = 0.6 * np.sin(1.3 * at[:, 0]) * np.cos(1.1 * at[:, 2])
        start = at.shape[0] // 2
        ours = geodesic(at, hills.corners, np.array([start], np.int32))
        solver = potpourri3d.MeshFastMarchingDistanceSolver(at.astype(np.float64), hills.corners.live_triangles())
        exact = solver.compute_distance([[(start, [])]])
        far = exact > 0.5
        self.assertLess(float(np.abs(ours[far] / exact[far] - 1).mean()), 0.05)


class PaintReferenceTest(unittest.TestCase):
    """Facts of the trade: common practice, no source."""

    def test_two_coats_of_ten_percent_make_twenty(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.25)
        body = history.project.bodies[0]
        centre = int(np.argmin(np.linalg.norm(body.vertices["position"], axis=1)))
        for coats in (1, 2):
            history.do(
                stroke("lay", (0.0, 5, 0, 0, -1, 0), ground="Shell sand", radius=2.0, strength=10.0, falloff="flat")
            )
            self.assertAlmostEqual(float(body.vertices[WEIGHT][centre, 3]), 0.1 * coats, places=5)

    def test_a_feathered_brush_is_full_in_the_middle_and_nothing_at_its_rim(self) -> None:
        history = project_with("sheet", size=8.0, depth=8.0, edge=0.1)
        body = history.project.bodies[0]
        history.do(
            stroke("lay", (0.0, 5, 0, 0, -1, 0), ground="Shell sand", radius=2.0, strength=100.0, falloff="smooth")
        )
        away = np.linalg.norm(body.vertices["position"], axis=1)
        share = body.vertices[WEIGHT][:, 3]
        self.assertAlmostEqual(float(share[np.argmin(away)]), 1.0, places=4)
        self.assertLess(float(share[away > 1.93].max()), 0.01)
        order = np.argsort(away)
        self.assertTrue((np.diff(share[order]) < 1e-3).all())

    def test_a_patch_of_twenty_by_twenty_and_a_row_taken_out_of_it(self) -> None:
        history = project_with("sheet", size=6.0, depth=6.0, edge=0.25)
        body = history.project.bodies[0]
        xs, zs = (np.unique(np.round(body.vertices["position"][:, i], 4)) for i in (0, 2))
        x, z = (np.round(body.vertices["position"][:, i], 4) for i in (0, 2))
        patch = np.flatnonzero(np.isin(x, xs[2:22]) & np.isin(z, zs[2:22]))
        self.assertEqual(patch.size, 400)
        history.do(Choose("Body", rows=tuple(patch.tolist())))
        history.do(SetWeight("Body", "Thrift turf", 1.0))
        row = np.flatnonzero((z == zs[12]) & np.isin(x, xs[5:7]))
        history.do(Choose("Body", "row", rows=tuple(int(i) for i in row)))
        path = np.flatnonzero(body.vertices["chosen"][:, 0])
        np.testing.assert_array_equal(path, np.flatnonzero(z == zs[12]))
        history.do(SetWeight("Body", "Shell sand", 0.6))
        weight = body.vertices[WEIGHT]
        inside = np.intersect1d(path, patch)
        np.testing.assert_allclose(weight[inside][:, [2, 3]], [[0.4, 0.6]] * 20, atol=1e-6)
        np.testing.assert_allclose(weight[np.setdiff1d(patch, path), 2], 1.0, atol=1e-6)
        # 8-bit and 16-bit files must add up exactly
        for full in (255, 65535):
            self.assertTrue((quantise(weight, full).sum(axis=1, dtype=int) == full).all())

    def test_sculpting_afterwards_moves_the_rule_and_leaves_the_paint(self) -> None:
        history = project_with("sheet", size=12.0, depth=12.0, edge=0.2)
        body = history.project.bodies[0]
        history.do(SetRules("Body", (Rule("Dark basalt", (Condition("slope", {}, 30.0, None),)),)))
        history.do(stroke("lay", (3.0, 5, 0, 0, -1, 0), ground="Shell sand", radius=1.5, strength=100.0, core=80.0))
        painted = body.vertices[WEIGHT][:, 3].copy()
        history.do(stroke("raise", (1.0, 5, 0, 0, -1, 0), radius=3.0, height=3.0, strength=100.0))
        weight = body.vertices[WEIGHT]
        np.testing.assert_allclose(weight[painted > 0.999, 3], 1.0, atol=1e-5)
        steep = (np.degrees(np.arccos(body.vertices["normal"][:, 1])) > 30.0) & (painted == 0)
        self.assertGreater(int(steep.sum()), 50)
        np.testing.assert_allclose(weight[steep, 1], 1.0, atol=1e-5)


class MappingReferenceTest(unittest.TestCase):
    def test_axis_weights_sum_to_one_and_change_without_a_jump(self) -> None:
        rng = np.random.default_rng(3)
        normal = rng.normal(size=(2000, 3))
        normal /= np.linalg.norm(normal, axis=1, keepdims=True)
        np.testing.assert_allclose(axis_weights(normal).sum(axis=1), 1.0, atol=1e-12)
        # across the planes where one axis takes over from another, and across the signs of a component
        turn = np.linspace(0, 2 * np.pi, 20_001)
        for a, b in ((0, 1), (1, 2), (0, 2)):
            path = np.zeros((turn.size, 3))
            path[:, a], path[:, b] = np.cos(turn), np.sin(turn)
            self.assertLess(float(np.abs(np.diff(axis_weights(path), axis=0)).max()), 1e-3)

    def test_hash_noise_and_pieces(self) -> None:
        # pcg3d by hand, from Jarzynski and Olano (2020), listing of the supplement, in Python's whole numbers
        def by_hand(x: int, y: int, z: int) -> list[int]:
            mask = 0xFFFFFFFF
            v = [(n * 1664525 + 1013904223) & mask for n in (x, y, z)]
            for last in (False, True):
                v[0] = (v[0] + v[1] * v[2]) & mask
                v[1] = (v[1] + v[2] * v[0]) & mask
                v[2] = (v[2] + v[0] * v[1]) & mask
                if not last:
                    v = [n ^ (n >> 16) for n in v]
            return v

        for at in ((0, 0, 0), (1, 2, 3), (-5 & 0xFFFFFFFF, 7, 100)):
            signed = [n - (1 << 32) if n >= 1 << 31 else n for n in at]
            got = hashed(*(np.array([n]) for n in signed))
            self.assertEqual(got[0].tolist(), by_hand(*at))
        rng = np.random.default_rng(9)
        at = rng.uniform(-40, 40, (4000, 3))
        factor = varied(at, 7.0, 0.3)
        self.assertTrue((np.abs(factor - 1) <= 0.3).all())
        step = varied(at + 1e-4, 7.0, 0.3) - factor
        self.assertLess(float(np.abs(step).max()), 1e-3)  # no jump between cells
        weight, shift = pieces(rng.uniform(-9, 9, (4000, 2)))
        np.testing.assert_allclose(weight.sum(axis=1), 1.0, atol=1e-9)
        self.assertTrue((weight >= -1e-9).all() and (shift >= 0).all() and (shift < 1).all())
        # the mixture keeps mean and variance (Heitz and Neyret, 2018): for independent samples of any weights
        samples = rng.normal(0.4, 0.08, (200_000, 3, 1))  # far enough from 0 and 1, where it is cut
        for w in ((1.0, 0.0, 0.0), (0.5, 0.5, 0.0), (0.34, 0.33, 0.33)):
            mixed = joined(samples, np.tile(w, (samples.shape[0], 1)), np.array([0.4]))
            self.assertAlmostEqual(float(mixed.mean()), 0.4, delta=0.003)
            self.assertAlmostEqual(float(mixed.std()), 0.08, delta=0.001)


if __name__ == "__main__":
    unittest.main()
