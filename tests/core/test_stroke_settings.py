"""Settings that every brush shares: symmetry, direction, reach, pen, steadiness, curves."""

import math
import unittest

import numpy as np

from hulmo.core.commands import Stroke
from hulmo.core.errors import InvalidInput
from hulmo.core.history import History
from tests.bodies import project_with, stroke

X, Y, Z = np.eye(3)


def ball() -> History:
    return project_with("box_sphere", radius=5.0, edge=0.25)


def moved(history: History, command: Stroke) -> np.ndarray:
    position = history.project.bodies[0].vertices["position"]
    before = position.copy()
    history.do(command)
    change = position - before
    history.undo()
    np.testing.assert_array_equal(position, before)
    return change


def lookup(position: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Row of the vertex at each point, exactly one."""
    table = {tuple(np.round(p, 3) + 0.0): i for i, p in enumerate(position.astype(float))}
    return np.array([table[tuple(np.round(p, 3) + 0.0)] for p in points.astype(float)])


class SymmetryTest(unittest.TestCase):
    def test_mirrored_and_turned_copies_are_true_copies(self) -> None:
        history = ball()
        position = history.project.bodies[0].vertices["position"].copy()
        samples = ((9.0, 2, 3, -1, 0, 0), (9.0, 2.5, 2.8, -1, 0, 0))
        for brush in ("raise", "haul", "stamp", "pinch"):
            settings: dict[str, object] = {"radius": 1.5, "strength": 100.0}
            plain = moved(history, stroke(brush, *samples, **settings))
            self.assertGreater(float(np.abs(plain).max()), 0.05)
            for mirror, flip in (("x", np.array([-1, 1, 1])), ("z", np.array([1, 1, -1]))):
                both = moved(history, stroke(brush, *samples, mirror=mirror, **settings))
                mirrored = np.zeros_like(plain)
                mirrored[lookup(position, position * flip)] = plain * flip
                np.testing.assert_allclose(both, plain + mirrored, atol=0.03, err_msg=f"{brush} {mirror}")
            four = moved(history, stroke(brush, *samples, turns=4.0, **settings))
            total = plain.copy()
            for turns in range(1, 4):
                c, s = round(math.cos(turns * math.pi / 2)), round(math.sin(turns * math.pi / 2))
                turn = np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]])
                turned = np.zeros_like(plain)
                turned[lookup(position, position @ turn.T)] = plain @ turn.T
                total += turned
            np.testing.assert_allclose(four, total, atol=0.03, err_msg=brush)

    def test_copies_that_overlap_give_one_coat_and_both_hauls(self) -> None:
        history = ball()
        middle = ((0.0, 9, 0, 0, -1, 0), (0.0, 9, 0.3, 0, -1, 0))
        one = moved(history, stroke("raise", *middle, radius=2.0, height=1.0, strength=100.0, turns=6.0))
        self.assertLessEqual(float(np.linalg.norm(one, axis=1).max()), 1.0 + 1e-5)
        pull = ((0.2, 0, 9.0, 0, 0, -1), (0.2, 1.0, 9.0, 0, 0, -1))
        single = moved(history, stroke("haul", *pull, radius=2.0))
        double = moved(history, stroke("haul", *pull, radius=2.0, mirror="x"))
        self.assertAlmostEqual(float(double[:, 1].max()), 2 * float(single[:, 1].max()), delta=0.1)


class DirectionTest(unittest.TestCase):
    def test_each_direction_goes_its_way(self) -> None:
        history = ball()
        normal = history.project.bodies[0].vertices["normal"].copy()
        ray = (9.0, 6.0, 0.0, -3.0, -2.0, 0.0)
        look = np.array(ray[3:]) / math.sqrt(13)
        axis = np.array([math.sin(math.radians(60)) * math.cos(math.radians(20)), math.sin(math.radians(20)),
                         -math.cos(math.radians(60)) * math.cos(math.radians(20))])  # fmt: skip
        for brush in ("raise", "roughen", "stamp"):
            for direction, way in (("up", Y), ("viewer", look), ("axis", axis), ("start", -look), ("own", None)):
                settings = {"direction": direction, "bearing": 60.0, "altitude": 20.0, "radius": 1.2, "strength": 100.0}
                change = moved(history, stroke(brush, ray, **settings))
                rows = np.linalg.norm(change, axis=1) > 0.01
                self.assertGreater(int(rows.sum()), 8, f"{brush} {direction}")
                unit = change[rows] / np.linalg.norm(change[rows], axis=1)[:, None]
                wanted = normal[rows] if way is None else way
                np.testing.assert_allclose(np.abs((unit * wanted).sum(axis=1)), 1, atol=2e-3, err_msg=direction)

    def test_haul_keeps_to_its_direction(self) -> None:
        history = ball()
        pull = ((9.0, 0, 0, -1, 0, 0), (9.0, 1.5, 1.0, -1, 0, 0))
        for direction, way in (("up", Y), ("axis", -Z), ("free", None)):
            change = moved(history, stroke("haul", *pull, direction=direction, bearing=0.0, altitude=0.0))
            far = change[np.argmax(np.linalg.norm(change, axis=1))]
            wanted = np.array([0, 1.5, 1.0]) if way is None else way * (way @ np.array([0, 1.5, 1.0]))
            np.testing.assert_allclose(far, wanted, atol=0.02)


class ReachTest(unittest.TestCase):
    def test_a_thin_wall_is_passed_only_when_asked_for(self) -> None:
        history = project_with("block", size=6.0, height=0.6, depth=6.0, edge=0.3)
        ray = (0.0, 9, 0, 0, -1, 0)
        position = history.project.bodies[0].vertices["position"].copy()
        low = position[:, 1] < position[:, 1].min() + 0.05
        for reach, passed in (("connected", False), ("all", True)):
            change = moved(history, stroke("swell", ray, radius=1.5, strength=100.0, reach=reach))
            self.assertEqual(bool(np.abs(change[low]).max() > 0.01), passed, reach)
            self.assertGreater(float(change[:, 1].max()), 0.3)

    def test_front_faces_only(self) -> None:
        history = project_with("block", size=1.0, height=6.0, depth=6.0, edge=0.25)
        position = history.project.bodies[0].vertices["position"].copy()
        ray = (9.0, 3.0, 2.6, -1, 0, 0)
        back = position[:, 0] < -0.49
        for front in (False, True):
            change = moved(history, stroke("swell", ray, radius=2.0, strength=100.0, front=front, reach="all"))
            self.assertEqual(float(np.abs(change[back]).max()) > 0.01, not front)


class PenTest(unittest.TestCase):
    def test_pressure_goes_through_its_curve_to_strength_and_radius(self) -> None:
        history = ball()

        def size(pressure: float, lean: float = 0.0, **settings: object) -> tuple[float, float]:
            change = moved(history, stroke("raise", (0.0, 9, 0, 0, -1, 0, pressure, lean), radius=2.0, height=1.0,
                                           strength=100.0, direction="up", **settings))  # fmt: skip
            touched = history.project.bodies[0].vertices["position"][np.abs(change).max(axis=1) > 0]
            reach = float(np.linalg.norm(touched - [0, 5, 0], axis=1).max()) if len(touched) else 0.0
            return float(change.max()), reach

        self.assertAlmostEqual(size(1.0)[0], 1.0, delta=0.04)
        self.assertAlmostEqual(size(0.5)[0], 0.5, delta=0.04)
        self.assertEqual(size(0.0)[0], 0.0)
        self.assertAlmostEqual(size(0.5, pressure_curve=[[0, 0], [0.5, 0.9], [1, 1]])[0], 0.9, delta=0.04)
        self.assertAlmostEqual(size(0.5, pressure_strength=False)[0], 1.0, delta=0.04)
        self.assertAlmostEqual(size(0.5, pressure_radius=True)[1], 1.0, delta=0.25)
        self.assertAlmostEqual(size(1.0, pressure_radius=True)[1], 2.0, delta=0.25)
        self.assertAlmostEqual(size(1.0, 45.0, tilt_radius=True)[1], 3.0, delta=0.25)

    def test_damaged_samples_and_curves_are_refused(self) -> None:
        history = ball()
        good = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)
        for samples, settings, words in (
            ([(*good, 1.0, 120.0)], {}, "lean is 120"),
            ([(*good, -0.1)], {}, "pressure is -0.1"),
            ([(*good[:5], math.nan)], {}, "not finite"),
            ([good], {"falloff_curve": [[0, 1]]}, "list of 2 to 16 points"),
            ([good], {"falloff_curve": [[0, 1], [0.5, 2], [1, 0]]}, "between 0 and 1"),
            ([good], {"falloff_curve": [[0, 1], [0.7, 1], [0.6, 0], [1, 0]]}, "right of the one before"),
            ([good], {"falloff_curve": [[0, 1], ["a", 1], [1, 0]]}, "no point"),
            ([good], {"turns": 2.5}, "whole number"),
            ([good], {"mirror": "y"}, "must be one of none, x, z"),
            ([good], {"steady": 99.0}, "between 0 and 95"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                history.do(stroke("raise", *samples, **settings))


class SteadyTest(unittest.TestCase):
    def test_a_steadied_stroke_is_calmer_and_still_arrives(self) -> None:
        history = project_with("sheet", size=20.0, depth=6.0, edge=0.1)
        rng = np.random.default_rng(4)
        xs = np.linspace(-8, 8, 120)
        shaky = [(float(x), 9.0, float(z), 0, -1, 0) for x, z in zip(xs, rng.normal(0, 0.25, 120), strict=True)]
        spread, ends = [], []
        for steady in (0.0, 80.0):
            change = moved(history, stroke("raise", *shaky, radius=0.5, strength=100.0, steady=steady, direction="up"))
            position = history.project.bodies[0].vertices["position"]
            weight = change[:, 1] > 0.3
            spread.append(float(position[weight, 2].std()))
            ends.append(float(position[change[:, 1] > 0.1, 0].max()))
        self.assertLess(spread[1], 0.75 * spread[0])
        self.assertAlmostEqual(ends[1], ends[0], delta=0.4)

    def test_a_brush_that_flows_goes_on_in_place(self) -> None:
        history = ball()
        ray = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)
        settings: dict[str, object] = {"radius": 2.0, "build_up": "stacking", "strength": 100.0, "direction": "up"}
        heights = [
            float(moved(history, stroke("raise", *[ray] * count, flow=flow, **settings)).max())
            for count, flow in ((1, True), (5, True), (5, False))
        ]
        self.assertAlmostEqual(heights[1], 5 * heights[0], delta=0.05 * heights[1])
        self.assertAlmostEqual(heights[2], heights[0], places=5)


class StampTest(unittest.TestCase):
    def test_it_is_dragged_to_size_and_turned_and_full_white_is_full_height(self) -> None:
        history = project_with("sheet", size=20.0, depth=20.0, edge=0.1)
        position = history.project.bodies[0].vertices["position"].copy()
        sizes = []
        for drag in (1.0, 3.0):
            samples = ((0.0, 9, 0, 0, -1, 0), (drag, 9, 0, 0, -1, 0))
            change = moved(
                history, stroke("stamp", *samples, image="pit", height_share=50.0, core=95.0, falloff="flat")
            )
            touched = position[np.abs(change[:, 1]) > 0.02 * drag]
            sizes.append(float(np.linalg.norm(touched[:, (0, 2)], axis=1).max()))
            self.assertAlmostEqual(float(-change[:, 1].min()), 0.5 * drag, delta=0.12 * drag)
        self.assertAlmostEqual(sizes[1] / sizes[0], 3.0, delta=0.4)
        # a crack runs from the top of its image to the bottom: along the drag
        for end, along in (((3.0, 9, 0), 0), ((0.0, 9, 3.0), 2)):
            change = moved(history, stroke("stamp", (0.0, 9, 0, 0, -1, 0), (*end, 0, -1, 0), image="crack"))
            deep = position[change[:, 1] < -0.2]
            self.assertGreater(float(np.ptp(deep[:, along])), 3 * float(np.ptp(deep[:, 2 - along])))
        press = moved(history, stroke("stamp", (0.0, 9, 0, 0, -1, 0), image="pit", radius=2.0))
        self.assertGreater(float(np.abs(press).max()), 0.3, "a press without a drag takes the radius of the brush")
        up = moved(history, stroke("stamp", (0.0, 9, 0, 0, -1, 0), image="pit", radius=2.0, invert=True))
        np.testing.assert_allclose(up, -press, atol=1e-6)


class EvenOutTest(unittest.TestCase):
    def test_triangles_get_better_and_the_surface_stays(self) -> None:
        from hulmo.core.mesh.thin import smallest_angles

        history = project_with("icosphere", radius=5.0, edge=0.4)
        body = history.project.bodies[0]
        rng = np.random.default_rng(1)
        position = body.vertices["position"]
        step = rng.normal(0, 0.1, position.shape).astype(np.float32)
        position += step - (step * body.vertices["normal"]).sum(axis=1)[:, None] * body.vertices["normal"]
        position *= (5.0 / np.linalg.norm(position, axis=1))[:, None]
        body.replaced()

        def angles() -> np.ndarray:
            a, b, c = (position[body.corners.triangles[:, i]].astype(float) for i in range(3))
            sides = np.stack([np.linalg.norm(q - p, axis=1) for p, q in ((b, c), (c, a), (a, b))], axis=1)
            return smallest_angles(sides, np.linalg.norm(np.cross(b - a, c - a), axis=1))

        before = angles()
        history.do(
            stroke("even_out", (0.0, 9, 0, 0, -1, 0), radius=20.0, core=90.0, strength=100.0, build_up="one_coat")
        )
        after = angles()
        self.assertGreater(np.percentile(after, 2), 1.3 * np.percentile(before, 2))
        np.testing.assert_allclose(np.linalg.norm(position, axis=1), 5.0, atol=0.05)


if __name__ == "__main__":
    unittest.main()
