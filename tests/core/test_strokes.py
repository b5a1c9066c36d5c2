"""The stroke engine: sampling, build-up, directions, brushes against plain twins, undo."""

import math
import unittest

import numpy as np

from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import (
    AddLayer,
    ChangeGuard,
    Fill,
    GuardFrom,
    LayRelief,
    LockBorder,
    RemoveGround,
    ResetCoat,
    Stroke,
)
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import Shape
from hulmo.core.noise import fbm
from hulmo.core.relief import RELIEFS
from hulmo.core.sculpt.falloff import FALLOFFS, falloff
from hulmo.core.sculpt.ring import draped_ring
from hulmo.core.sculpt.sampler import Sample, Sampler
from tests.bodies import dab_of, form_body, project_with, random_surface, snapshot, stroke

ABOVE = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)
FLAT = {"size": 20.0, "depth": 20.0, "edge": 0.25}


def heights(history: object) -> np.ndarray:
    return history.project.bodies[0].vertices["position"][:, 1]  # type: ignore[attr-defined]


def line(a: float, b: float, z: float = 0.0, step: float = 0.2) -> list[tuple[float, ...]]:
    return [(x, 5.0, z, 0.0, -1.0, 0.0) for x in np.linspace(a, b, round(abs(b - a) / step) + 1).tolist()]


class FalloffTest(unittest.TestCase):
    def test_full_at_the_core_and_nothing_at_the_rim(self) -> None:
        for name in FALLOFFS:
            at = falloff(name, np.array([0.0, 0.5, 1.0]))
            self.assertEqual(at[0], 1.0)
            self.assertEqual(at[2], 1.0 if name == "flat" else 0.0)
            middle = {"smooth": 0.5, "dome": math.sqrt(0.75), "sharp": 0.25, "linear": 0.5, "flat": 1.0, "curve": 0.5}[
                name
            ]
            self.assertAlmostEqual(at[1], middle)

    def test_a_dab_has_the_profile_it_names(self) -> None:
        for name in FALLOFFS:
            history = project_with("sheet", **FLAT)
            history.do(
                stroke(
                    "raise",
                    (0.1, 0.0, 0.05),
                    radius=4.0,
                    core=25.0,
                    strength=80.0,
                    height=2.0,
                    falloff=name,
                    direction="up",
                )
            )
            position = history.project.bodies[0].vertices["position"]
            away = np.hypot(position[:, 0] - 0.1, position[:, 2] - 0.05) / 4.0
            share = np.clip((away - 0.25) / 0.75, 0, 1)
            expected = np.where(away < 1, 1.6 * falloff(name, share), 0)
            np.testing.assert_allclose(position[:, 1], expected, atol=1e-5)


class BuildUpTest(unittest.TestCase):
    def test_one_coat_never_exceeds_the_height_where_it_crosses_itself(self) -> None:
        history = project_with("sheet", **FLAT)
        zigzag = line(-5, 5) + line(5, -5, 0.4) + line(-5, 5, -0.3)
        history.do(stroke("raise", *zigzag, radius=2.0, height=1.5, strength=100.0, direction="up"))
        self.assertAlmostEqual(float(heights(history).max()), 1.5, places=5)

    def test_stacking_adds_up_and_does_not_depend_on_spacing(self) -> None:
        tops = []
        for spacing in (5.0, 10.0, 25.0):
            history = project_with("sheet", **FLAT)
            for _ in range(2):
                history.do(
                    stroke(
                        "raise",
                        *line(-7, 7),
                        radius=2.0,
                        height=0.05,
                        strength=100.0,
                        direction="up",
                        build_up="stacking",
                        spacing=spacing,
                    )
                )
            position = history.project.bodies[0].vertices["position"]
            tops.append(float(np.median(position[(abs(position[:, 2]) < 0.01) & (abs(position[:, 0]) < 3), 1])))
        np.testing.assert_allclose(tops, 0.1, rtol=0.03)

    def test_until_reset_holds_over_strokes_and_reset_lets_go(self) -> None:
        history = project_with("sheet", **FLAT)
        once = stroke("raise", ABOVE, radius=3.0, height=1.0, strength=100.0, direction="up", build_up="until_reset")
        history.do(once)
        history.do(once)
        self.assertAlmostEqual(float(heights(history).max()), 1.0, places=5)
        history.do(ResetCoat("Body"))
        history.do(once)
        self.assertAlmostEqual(float(heights(history).max()), 2.0, places=5)
        for _ in range(4):
            history.undo()
        self.assertEqual(float(abs(heights(history)).max()), 0.0)
        for _ in range(4):
            history.redo()
        self.assertAlmostEqual(float(heights(history).max()), 2.0, places=5)

    def test_another_brush_starts_its_own_lasting_coat(self) -> None:
        history = project_with("sheet", **FLAT)
        up = stroke("raise", ABOVE, radius=3.0, strength=100.0, direction="up", build_up="until_reset")
        down = stroke("raise", ABOVE, radius=3.0, strength=100.0, direction="up", build_up="until_reset", invert=True)
        for command in (up, down, up):
            history.do(command)
        self.assertAlmostEqual(float(heights(history).max()), 1.0, places=5)
        before = history.project.bodies[0].coat_owner
        history.undo()
        self.assertNotEqual(history.project.bodies[0].coat_owner, before)


class DirectionTest(unittest.TestCase):
    def test_three_directions(self) -> None:
        for direction in ("own", "start", "up"):
            history = project_with("icosphere", radius=5.0, edge=0.3)
            body = history.project.bodies[0]
            before = body.vertices["position"].astype(float)
            normal = body.vertices["normal"].astype(float)
            history.do(
                stroke("raise", (6.0, 0, 0, -1, 0, 0), radius=2.5, height=0.2, strength=100.0, direction=direction)
            )
            step = body.vertices["position"] - before
            moved = np.linalg.norm(step, axis=1) > 1e-3
            unit = step[moved] / np.linalg.norm(step[moved], axis=1)[:, None]
            expected = {"own": normal[moved], "start": np.array([[1.0, 0, 0]]), "up": np.array([[0.0, 1, 0]])}[
                direction
            ]
            self.assertGreater(float((unit * expected).sum(axis=1).min()), 0.999)
            self.assertGreater(moved.sum(), 50)

    def test_invert_lowers_by_the_same(self) -> None:
        up, down = project_with("sheet", **FLAT), project_with("sheet", **FLAT)
        up.do(stroke("raise", *line(-2, 2), direction="up"))
        down.do(stroke("raise", *line(-2, 2), direction="up", invert=True))
        np.testing.assert_array_equal(heights(up), -heights(down))


class SmoothTest(unittest.TestCase):
    def test_against_a_plain_twin_with_borders(self) -> None:
        body = random_surface(11, 12)
        from hulmo.core.sculpt.brushes import smooth

        rows = np.arange(body.vertices.count, dtype=np.int32)
        amount = np.linspace(0, 1.2, rows.size).astype(np.float32)
        got = smooth.apply(dab_of(body, rows, amount, passes=1.0, kind="strong"))
        position = body.vertices["position"].astype(float)
        for row in rows.tolist():
            around = body.corners.neighbours(row)
            if body.corners.is_border(row):
                around = around[[0, -1]]
            share = min(float(amount[row]), 1.0)
            expected = position[row] + share * (position[around].mean(axis=0) - position[row])
            np.testing.assert_allclose(got[row], expected, atol=1e-6)


class ShapingTest(unittest.TestCase):
    """Brushes against what their formula says of a bumpy sheet."""

    def bumpy(self) -> tuple[object, np.ndarray]:
        history = project_with("sheet", **FLAT)
        body = history.project.bodies[0]
        position = body.vertices["position"]
        position[:, 1] = 0.4 * np.sin(2 * position[:, 0]) * np.cos(2 * position[:, 2])
        body.replaced()
        return history, position.astype(float)

    def after(self, brush: str, **settings: object) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        history, before = self.bumpy()
        invert = bool(settings.pop("invert", False))
        plain = {"radius": 4.0, "strength": 100.0, "falloff": "flat", "build_up": "one_coat"}
        history.do(stroke(brush, ABOVE, invert=invert, **{**plain, **settings}))  # type: ignore[attr-defined]
        body = history.project.bodies[0]  # type: ignore[attr-defined]
        centre = np.array([0.0, 0.0, 0.0])
        inside = np.linalg.norm(before - centre, axis=1) < 3.99
        self.assertTrue(np.isfinite(body.vertices["position"]).all())
        outside = np.linalg.norm(before - centre, axis=1) > 4.01
        np.testing.assert_array_equal(body.vertices["position"][outside], before[outside].astype(np.float32))
        history.undo()  # type: ignore[attr-defined]
        np.testing.assert_array_equal(body.vertices["position"], before.astype(np.float32))
        history.redo()  # type: ignore[attr-defined]
        return before[inside], body.vertices["position"][inside].astype(float), inside

    def test_level_shave_and_infill_at_a_height(self) -> None:
        for brush, expected in (
            ("level", lambda y: np.full_like(y, 0.1)),
            ("shave", lambda y: np.minimum(y, 0.1)),
            ("infill", lambda y: np.maximum(y, 0.1)),
        ):
            before, now, _ = self.after(brush, plane="height", level=0.1)
            np.testing.assert_allclose(now[:, 1], expected(before[:, 1]), atol=1e-6)
            np.testing.assert_array_equal(now[:, (0, 2)], before[:, (0, 2)].astype(np.float32))

    def test_level_takes_its_plane_from_where_the_stroke_began(self) -> None:
        history, _ = self.bumpy()
        body = history.project.bodies[0]  # type: ignore[attr-defined]
        hit = body.ray(np.array(ABOVE[:3]), np.array(ABOVE[3:]))
        normal = body.normal_at(hit)
        self.assertAlmostEqual(-normal[0] / normal[1], 0.8, delta=0.1, msg="the slope of 0.4 sin 2x at 0")
        before, now, _ = self.after("level", radius=1.5)
        near = np.linalg.norm(before, axis=1) < 1.4
        np.testing.assert_allclose((now[near] - hit.position) @ normal, 0, atol=1e-5)
        way = now[near] - before[near]
        np.testing.assert_allclose(way, (way @ normal)[:, None] * normal, atol=1e-5)

    def test_a_stamp_stands_square_to_the_ground_around_it_not_to_one_point(self) -> None:
        # ground of small steep bumps on a slope of 30 degrees: every single point is turned elsewhere
        history = project_with("sheet", **FLAT)
        body = history.project.bodies[0]
        x, _, z = body.vertices["position"].T.astype(float)
        slope = math.tan(math.radians(30))
        body.vertices["position"][:, 1] = slope * x + 0.25 * np.sin(5 * x + 1) * np.sin(5 * z + 1)
        body.replaced()
        before = body.vertices["position"].astype(float)
        history.do(stroke("stamp", ABOVE, radius=4.0, strength=100.0, image="crater"))
        way = body.vertices["position"] - before
        way = way[np.linalg.norm(way, axis=1) > 0.01]
        way *= np.sign(way[:, 1:2]) / np.linalg.norm(way, axis=1)[:, None]
        square = np.array([-math.sin(math.radians(30)), math.cos(math.radians(30)), 0.0])
        self.assertGreater(way.shape[0], 100)
        self.assertGreater(float((way @ square).min()), math.cos(math.radians(3)))

    def test_half_strength_goes_half_the_way(self) -> None:
        before, now, _ = self.after("level", plane="height", level=0.0, strength=50.0)
        np.testing.assert_allclose(now[:, 1], before[:, 1] / 2, atol=1e-6)

    def test_swell_follows_own_normals_and_shrink_goes_back(self) -> None:
        history, before = self.bumpy()
        normal = history.project.bodies[0].vertices["normal"].astype(float)  # type: ignore[attr-defined]
        for invert, sign in ((False, 1), (True, -1)):
            _, now, inside = self.after("swell", height=0.05, invert=invert)
            np.testing.assert_allclose(now, before[inside] + sign * 0.05 * normal[inside], atol=1e-6)

    def test_pinch_draws_together_along_the_surface_and_spread_apart(self) -> None:
        history, _ = self.bumpy()
        normal = history.project.bodies[0].vertices["normal"].astype(float)  # type: ignore[attr-defined]
        for invert, sign in ((False, 1), (True, -1)):
            old, now, inside = self.after("pinch", invert=invert)
            way = -old - normal[inside] * ((-old) * normal[inside]).sum(axis=1)[:, None]
            np.testing.assert_allclose(now, old + sign * 0.5 * way, atol=1e-5)

    def test_roughen_lays_the_noise_it_names(self) -> None:
        history, _ = self.bumpy()
        normal = history.project.bodies[0].vertices["normal"].astype(float)  # type: ignore[attr-defined]
        old, now, inside = self.after("roughen", height=0.3, size=1.5, octaves=3, seed=7)
        noise = fbm(old.astype(np.float32), 1.5, 3, 7)
        np.testing.assert_allclose(now, old + normal[inside] * (0.3 * noise)[:, None], atol=1e-5)
        self.assertGreater(float(noise.max() - noise.min()), 0.8)
        self.assertLessEqual(float(np.abs(noise).max()), 1.0)
        self.assertLess(abs(float(noise.mean())), 0.2)

    def test_noise_is_continuous_and_has_bumps_of_its_size(self) -> None:
        x = np.linspace(0, 200, 20001, dtype=np.float32)
        line = np.stack((x, 0.3 * x, 0.1 * x), -1)
        for size in (2.0, 8.0):
            values = fbm(line, size, 1, 3)
            self.assertLess(float(np.abs(np.diff(values)).max()), 0.06)
            length = float(np.linalg.norm(line[-1] - line[0]))
            crossings = int((np.diff(np.sign(values)) != 0).sum())
            # one bump and one hollow a period: two crossings every one to three times the size of a bump
            self.assertTrue(1.0 < length / (crossings / 2) / size < 3.0, crossings)
        for seed in (5, -5):  # a recipe may give any whole number
            np.testing.assert_array_equal(fbm(line, 4.0, 2, seed + 2**40), fbm(line, 4.0, 2, seed))


class LedgeTest(unittest.TestCase):
    WALL = {"radius": 6.0, "height": 8.0, "edge": 0.1}

    def strips(self, **settings: object) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        history = project_with("column", **self.WALL)
        body = history.project.bodies[0]
        before, normal = body.vertices["position"].astype(float), body.vertices["normal"].astype(float)
        given = {"radius": 3.0, "core": 95.0, "height": 0.5, "thickness": 1.0, "irregularity": 0.0, **settings}
        history.do(stroke("ledge", (20.0, 4.0, 0.0, -1.0, 0.0, 0.0), **given))
        near = np.linalg.norm(before - np.array([6.0, 4.0, 0.0]), axis=1) < 2.8
        return before[near], body.vertices["position"][near].astype(float) - before[near], normal[near]

    def test_strips_swing_out_and_end_in_a_flat_top(self) -> None:
        before, step, normal = self.strips()
        self.assertEqual(float(np.abs(step[:, 1]).max()), 0.0, "no point changes its height")
        place = np.clip((before[:, 1] % 1.0) / 0.4, 0, 1)
        expected = 0.5 * place**2 * (3 - 2 * place)
        sure = np.abs(before[:, 1] - np.rint(before[:, 1])) > 1e-3
        np.testing.assert_allclose((step * normal).sum(axis=1)[sure], expected[sure], atol=1e-4)
        top, foot = (before[:, 1] % 1.0) > 0.85, (before[:, 1] % 1.0) < 0.15
        self.assertGreater(float(np.linalg.norm(step[top & sure], axis=1).min()), 0.499)
        self.assertLess(float(np.linalg.norm(step[foot & sure], axis=1).max()), 0.09)

    def test_irregular_strips_differ_but_stay_within_the_jut(self) -> None:
        before, step, normal = self.strips(irregularity=80.0, seed=5)
        out = (step * normal).sum(axis=1)
        self.assertTrue(((out > -1e-6) & (out < 0.5 + 1e-6)).all())
        tops = [out[np.floor(before[:, 1]) == k].max() for k in range(2, 7)]
        self.assertGreater(float(np.std(tops)), 0.03)
        other = self.strips(irregularity=80.0, seed=6)[1]
        self.assertGreater(float(np.abs(other - step).max()), 0.05)

    def test_level_ground_stays(self) -> None:
        history = project_with("sheet", **FLAT)
        before = history.project.bodies[0].vertices["position"].copy()
        history.do(stroke("ledge", ABOVE))
        np.testing.assert_array_equal(history.project.bodies[0].vertices["position"], before)


class HaulTest(unittest.TestCase):
    def pulled(self, *samples: tuple[float, ...], **settings: object) -> tuple[np.ndarray, np.ndarray]:
        history = project_with("sheet", **FLAT)
        body = history.project.bodies[0]
        before = body.vertices["position"].copy()
        history.do(stroke("haul", *samples, **{"radius": 3.0, **settings}))
        after = body.vertices["position"].copy()
        history.undo()
        np.testing.assert_array_equal(body.vertices["position"], before)
        return before.astype(float), after.astype(float)

    def test_what_is_grabbed_follows_the_pointer_in_the_view_plane(self) -> None:
        # seen from above along -Y the view plane is level: the pull is (2, 0, 1), whatever happened on the way
        ways = [(0.0, 9, 0, 0, -1, 0), (5.0, 9, -3, 0, -1, 0), (2.0, 9, 1, 0, -1, 0)]
        before, after = self.pulled(*ways, falloff="linear")
        share = np.clip(1 - np.hypot(before[:, 0], before[:, 2]) / 3.0, 0, 1)
        np.testing.assert_allclose(after - before, share[:, None] * np.array([2.0, 0.0, 1.0]), atol=1e-5)
        _, direct = self.pulled(ways[0], ways[-1], falloff="linear")
        np.testing.assert_array_equal(direct, after)

    def test_one_direction_only(self) -> None:
        slanted = [(0.0, 5, 5, 0, -1, -1), (1.0, 8, 5, 0, -1, -1)]
        for direction in ("up", "start"):
            before, after = self.pulled(*slanted, direction=direction)
            step = after - before
            self.assertEqual(float(np.abs(step[:, (0, 2)]).max()), 0.0)
            # the ray moved 3 m up meets the plane y + z = 0 at (1, 1.5, -1.5)
            self.assertAlmostEqual(float(step[:, 1].max()), 1.5, places=4)

    def test_a_grab_beside_the_body_holds_nothing(self) -> None:
        before, after = self.pulled((90.0, 9, 0, 0, -1, 0), (91.0, 9, 0, 0, -1, 0))
        np.testing.assert_array_equal(before, after)


class SamplerTest(unittest.TestCase):
    def test_dabs_are_evenly_spaced_whatever_the_pointer_did(self) -> None:
        body = form_body("sheet", **FLAT)
        sampler = Sampler(lambda sample: sample.on(body), 0.5)
        found = []
        for x in (0.0, 0.01, 0.02, 1.3, 1.31, 4.0, 4.1, 6.0):
            sample = Sample.from_numbers((x, 5.0, 0.0, 0.0, -1.0, 0.0), "test")
            found += [float(point.position[0]) for point, _ in sampler.advance(sample)]
        np.testing.assert_allclose(found, np.arange(0, 6.01, 0.5), atol=1e-6)

    def test_a_stroke_that_leaves_the_body_and_comes_back(self) -> None:
        history = project_with("sheet", **FLAT)
        samples = line(8, 10) + [(x, 5.0, 0.0, 0.0, -1.0, 0.0) for x in (12.0, 15.0, 12.0)] + line(10, 8, 3.0)
        history.do(stroke("raise", *samples, radius=1.0, direction="up", strength=100.0))
        self.assertTrue(np.isfinite(heights(history)).all())
        self.assertAlmostEqual(float(heights(history).max()), 1.0, delta=0.05)

    def test_what_changes_nothing_is_not_remembered(self) -> None:
        history = project_with("sheet", **FLAT)
        count = len(history.commands)
        history.begin(stroke("raise"))
        history.sample((90.0, 5.0, 0.0, 0.0, -1.0, 0.0))
        self.assertIsNone(history.finish())
        history.begin(stroke("raise", strength=0.0))
        history.sample((0.0, 5.0, 0.0, 0.0, -1.0, 0.0))
        self.assertIsNone(history.finish())
        history.begin(stroke("raise"))
        history.sample((0.0, 5.0, 0.0, 0.0, -1.0, 0.0, 0.0))  # pressure 0
        self.assertIsNone(history.finish())
        self.assertEqual(len(history.commands), count)

    def test_one_triangle(self) -> None:
        history = project_with("sheet", **FLAT)
        one = Body.from_shape("Body", Shape(np.eye(3, dtype=np.float32), np.array([[0, 1, 2]], np.int32)))
        history.project.bodies = (one,)
        for layer in ("", "Thin"):
            for brush in BRUSHES.values():
                ground = "Shell sand" if brush.needs_ground else ""
                rays = ((0.0, 0, 0, 1, 1, 1), (0.1, 0, 0, 1, 1, 1))
                settings = {"radius": 5.0, "reach": "all"}
                history.do(Stroke("Body", brush.name, rays, settings, ground, layer=layer if brush.shapes else ""))
            self.assertTrue(np.isfinite(one.vertices["position"]).all())
            if not layer:
                history.do(AddLayer("Body", "Thin"))
        for relief in RELIEFS:
            history.do(LayRelief("Body", relief))
        for way in ("grow", "soften", "invert"):
            history.do(ChangeGuard("Body", way))
        history.do(GuardFrom("Body", "ridge", 1.0))
        self.assertTrue(np.isfinite(one.vertices["position"]).all())

    def test_the_ring_lies_on_the_surface(self) -> None:
        body = form_body("icosphere", radius=5.0, edge=0.2)
        hit = body.ray(np.array([9.0, 0, 0]), np.array([-1.0, 0, 0]))
        assert hit is not None
        ring = draped_ring(body, hit.position, body.normal_at(hit), 1.0)
        np.testing.assert_allclose(np.linalg.norm(ring, axis=1), 5.0, atol=0.03)


class InterruptionTest(unittest.TestCase):
    def test_a_command_in_the_middle_ends_the_stroke_and_undo_stays_exact(self) -> None:
        for command in (Fill("Body", "Shell sand"), RemoveGround("Thrift turf")):
            history = project_with(radius=5.0, edge=0.4)
            body = history.project.bodies[0]
            states = [snapshot(body)]
            history.begin(stroke("lay", ground="Thrift turf", radius=2.0, strength=80.0))
            history.sample((6.0, 0, 0, -1, 0, 0))
            states.append(snapshot(body))
            history.do(command)
            self.assertFalse(history.stroking)
            self.assertIsNone(history.finish())
            for state in reversed(states):
                history.undo()
                self.assertEqual(snapshot(body), state)

    def test_a_stroke_beside_the_body_leaves_the_lasting_coat_alone(self) -> None:
        history = project_with("sheet", **FLAT)
        history.do(stroke("raise", ABOVE, build_up="until_reset"))
        coat, owner = history.project.bodies[0].vertices["coat"].copy(), history.project.bodies[0].coat_owner
        history.begin(stroke("swell", build_up="until_reset"))
        history.sample((90.0, 9, 0, 0, -1, 0))
        self.assertIsNone(history.finish())
        np.testing.assert_array_equal(history.project.bodies[0].vertices["coat"], coat)
        self.assertEqual(history.project.bodies[0].coat_owner, owner)


class BorderLockTest(unittest.TestCase):
    def test_no_shaping_brush_moves_a_locked_border(self) -> None:
        for brush in (entry for entry in BRUSHES.values() if not entry.remeshes):
            history = project_with("sheet", size=6.0, depth=6.0, edge=0.3)
            body = history.project.bodies[0]
            position = body.vertices["position"]
            position[:, 1] = 0.3 * np.sin(3 * position[:, 0] + position[:, 2])
            body.replaced()
            edge = np.array([body.corners.is_border(row) for row in range(body.vertices.count)])
            self.assertEqual(int(edge.sum()), 80)
            if brush.name == "feather":  # two grounds to soften
                body.vertices["weight"][::2] = np.eye(4, dtype=np.float32)[1]
            before, weight = position.copy(), body.vertices["weight"].copy()
            history.do(LockBorder("Body"))
            ground = "Shell sand" if brush.needs_ground else ""
            if brush.name == "lift":
                ground = "Bleached ledge"
            samples = [(2.9, 9, 0, 0, -1, 0), (2.5, 9, 1, 0.2, -1, 0), (2.9, 9, 2, 0.1, -1, 0)]
            history.do(stroke(brush.name, *samples, ground=ground, radius=2.0, strength=100.0))
            if brush.column == "position":
                np.testing.assert_array_equal(position[edge], before[edge], brush.name)
                if brush.name != "ledge":  # level ground has no walls to put strips on
                    self.assertGreater(float(np.abs(position - before).max()), 1e-3, brush.name)
            elif brush.column == "weight":
                least = 0.1 if brush.name == "feather" else 0.49
                self.assertGreater(float(np.abs(body.vertices["weight"] - weight)[edge].max()), least)
            history.undo()
            history.do(LockBorder("Body", False))
            history.do(stroke(brush.name, *samples, ground=ground, radius=2.0, strength=100.0))
            if brush.column == "position" and brush.name not in ("ledge", "smooth", "even_out", "slump"):
                self.assertGreater(float(np.abs(position - before)[edge].max()), 1e-4, brush.name)


class UndoTest(unittest.TestCase):
    def test_undo_is_exact_and_a_replay_gives_the_same_bytes(self) -> None:
        def work(history: object, live: bool) -> None:
            turf = history.project.grounds[2].name  # type: ignore[attr-defined]
            for brush, ground in (("raise", ""), ("smooth", ""), ("lay", turf), ("raise", "")):
                samples = [
                    (6 * math.cos(a), 6 * math.sin(a), 1.0, -math.cos(a), -math.sin(a), 0.0, 0.8)
                    for a in np.arange(0, 2, 0.11)
                ]
                command = stroke(brush, *samples, ground=ground, radius=1.7, build_up="stacking")
                if not live:
                    history.do(command)  # type: ignore[attr-defined]
                    continue
                history.begin(command)  # type: ignore[attr-defined]
                for numbers in samples:
                    history.sample(numbers)  # type: ignore[attr-defined]
                history.finish()  # type: ignore[attr-defined]

        first, second = project_with(radius=5.0, edge=0.25), project_with(radius=5.0, edge=0.25)
        body = first.project.bodies[0]
        states = [snapshot(body)]
        work(first, True)
        self.assertEqual(len(first.commands), 5)
        after = snapshot(body)
        for _ in range(4):
            self.assertTrue(first.undo())
        self.assertEqual(snapshot(body), states[0])
        for _ in range(4):
            self.assertTrue(first.redo())
        self.assertEqual(snapshot(body), after)
        work(second, False)
        self.assertEqual(snapshot(second.project.bodies[0]), after)
        hits = [b.ray(np.array([6.0, 1.0, 0.7]), np.array([-1.0, 0.01, 0.0])) for b in (body, second.project.bodies[0])]
        assert hits[0] is not None and hits[1] is not None
        self.assertEqual(hits[0].distance, hits[1].distance)


if __name__ == "__main__":
    unittest.main()
