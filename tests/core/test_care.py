"""Checks of a mesh and their cures: what is broken is found, named, and mended just there."""

import contextlib
import unittest

import numpy as np

from hulmo.core.care import CHECKS
from hulmo.core.care.check import Found
from hulmo.core.commands import AddBody, Bore, Cure, JoinBodies, Weld
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import Shape
from hulmo.core.mesh.measure import measure
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.progress import silent
from tests.bodies import project_with, stroke, two_sheets
from tests.core.test_growth import check_tables, whole_state


def look(body: Body, name: str, limit: float | None = None) -> Found:
    check = CHECKS[name]
    return check.find(body, check.limit.default if limit is None else limit, silent())


class CheckTest(unittest.TestCase):
    def test_a_sound_body_has_no_faults(self) -> None:
        for form in ("icosphere", "sheet", "block"):
            body = project_with(form).project.bodies[0]
            for name in CHECKS:
                self.assertEqual(look(body, name).count, 0, f"{form}, {name}")

    def test_a_fan_on_a_border_has_an_edge_more_than_triangles(self) -> None:
        turn = np.linspace(0, np.pi, 9)
        rim = np.stack((np.cos(turn), np.zeros(9), -np.sin(turn)), axis=1)
        fan = np.array([[0, i, i + 1] for i in range(1, 9)], np.int32)  # eight triangles, nine edges at vertex 0
        body = Body.from_shape("fan", Shape(np.concatenate(([[0, 0, 0]], rim)).astype(np.float32), fan))
        self.assertEqual(look(body, "valence", 8).worst, "9 edges at one vertex")
        self.assertEqual(look(body, "valence", 9).count, 0)

    def test_each_finds_what_was_broken_and_where(self) -> None:
        body = project_with(radius=5.0, edge=0.5).project.bodies[0]
        position = body.vertices["position"]
        row = int(np.argmax(position[:, 1]))
        around, start = body.corners.neighbours(row), position[row].copy()
        # all but onto a neighbour: thin triangles, and two vertices in one place
        position[row] = position[around[0]] + (position[row] - position[around[0]]) * 1e-4
        body.all_moved()
        thin, doubles = look(body, "thin"), look(body, "doubles")
        self.assertTrue(2 <= thin.count <= 6)
        self.assertIn(row, body.corners.triangles[thin.triangles[0]])
        self.assertRegex(thin.worst, "times as long as high")
        self.assertEqual(doubles.count, 2)
        self.assertEqual(look(body, "doubles", 1e-6).count, 0)
        # far over on the other side of that neighbour: the ring is folded over
        position[row] = position[around[0]] + (position[around[0]] - start) * 2.5
        body.all_moved()
        self.assertGreater(look(body, "turned").count, 0)

    def test_crossings_against_two_sheets_in_closed_form(self) -> None:
        wall = two_sheets()
        self.assertEqual(look(wall, "crossing").count, 0)
        position = wall.vertices["position"]
        low = position[:, 1] < -0.1
        turned = position[low][:, (0, 2, 1)].copy()
        position[low] = turned + np.array([0.013, 0.017, 0.011], np.float32)  # upright now: the two cross along a line
        wall.all_moved()
        found = look(wall, "crossing").triangles
        middle = position[wall.corners.triangles[found]].mean(axis=1)
        # every triangle that the line touches, and none that it does not
        self.assertTrue((np.abs(middle[:, 1:]).max(axis=1) < 0.26).all())
        cells = 4.0 / 0.25
        self.assertTrue(1.5 * cells <= found.size <= 6 * cells, found.size)

    def test_what_meets_its_own_image_in_a_mirror_crosses_it(self) -> None:
        # edge meets edge there, exactly; moved a little aside it is the same crossing in general position
        counts = []
        for aside in (0.0, 0.31):
            history = project_with(radius=5.0, edge=0.5)
            history.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.5}, "Other", (4.0, aside, 0.0)))
            history.do(JoinBodies("Body", "Other"))
            counts.append(look(history.project.bodies[0], "crossing").count)
        self.assertGreater(counts[1], 150)
        self.assertAlmostEqual(counts[0] / counts[1], 1, delta=0.1)

    def test_triangles_that_lie_on_each_other_are_found(self) -> None:
        flat = np.array([[0, 0, 0], [2, 0, 0], [0, 0, 2], [0.2, 0, 0.2], [1.0, 0, 0.2], [0.2, 0, 1.0]], np.float32)
        body = Body.from_shape("flat", Shape(flat, np.array([[0, 2, 1], [3, 4, 5]], np.int32)))
        self.assertEqual(look(body, "crossing").count, 2)
        flat[3:, 1] = 0.1
        self.assertEqual(look(Body.from_shape("apart", Shape(flat, body.corners.triangles)), "crossing").count, 0)

    def test_quality_of_triangles_with_known_values(self) -> None:
        # smallest angle: Stimpson et al., "The Verdict geometric quality library" (SAND2007-1751), minimum included angle.
        # Aspect: longest side over the height above it, by plane geometry
        root = np.sqrt(3.0)
        cases = (
            ([[0, 0, 0], [1, 0, 0], [0.5, root / 2, 0]], 60.0, 2 / root),
            ([[0, 0, 0], [1, 0, 0], [0, 1, 0]], 45.0, 2.0),
            ([[0, 0, 0], [root, 0, 0], [0, 1, 0]], 30.0, 4 / root),
            ([[0, 0, 0], [1, 0, 0], [2, 0, 0]], 0.0, np.inf),
        )
        for points, angle, aspect in cases:
            found = shapes_of(np.array(points, np.float32), np.array([[0, 1, 2]], np.int32))
            self.assertAlmostEqual(float(found[0][0]), angle, places=4)
            self.assertTrue(np.isclose(found[1][0], aspect, rtol=1e-5), (found[1][0], aspect))


class CureTest(unittest.TestCase):
    def test_each_mends_its_fault_there_and_nowhere_else(self) -> None:
        for name, spoil in (("thin", "squash"), ("stretched", "haul"), ("turned", "fold")):
            history = project_with(radius=5.0, edge=0.5)
            body = history.project.bodies[0]
            if spoil == "haul":
                history.do(stroke("haul", (0, 5, 0), (0, 14, 0), radius=1.2, strength=100.0))
            else:
                rows = np.flatnonzero(body.vertices["position"][:, 1] > 4.7)
                position = body.vertices["position"]
                if spoil == "squash":
                    position[rows, 0] *= 0.05
                else:
                    position[rows[::3], 1] -= 1.1
                    position[rows[::3], 0] += 0.9
                body.all_moved()
            before, count = whole_state(body), look(body, name).count
            far = body.vertices["position"][body.vertices["position"][:, 1] < 2].copy()
            self.assertGreater(count, 5, name)
            history.do(Cure("Body", name))
            check_tables(self, body)
            self.assertLess(look(body, name).count, 0.25 * count, name)
            self.assertTrue(measure(body).closed)
            live = body.vertices["position"][body.corners.first_corner >= 0]
            np.testing.assert_array_equal(live[live[:, 1] < 2], far)
            history.undo()
            self.assertEqual(whole_state(body), before)

    def test_rims_of_a_bore_come_clean(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        body = history.project.bodies[0]
        history.do(
            Bore(
                "Body",
                ((-8.0, 0.0, 0.0), (0.0, 0.5, 0.0), (8.0, 1.0, 0.0)),
                rough=0.2,
                irregularity=0.0,
                radii=(0.6, 2.0, 0.8),
            )
        )
        found = measure(body)
        self.assertEqual((found.genus, found.closed), (1, True))
        self.assertLess(found.thin_share, 0.003)
        self.assertLess(look(body, "doubles").count, 5)
        self.assertEqual(look(body, "crossing").count, 0)
        # wide in the middle, and rough
        inside = np.linalg.norm(body.vertices["position"], axis=1) < 4
        at = body.vertices["position"][inside & (body.corners.first_corner >= 0)]
        wide = np.hypot(at[:, 1] - 0.5, at[:, 2])
        self.assertAlmostEqual(float(wide[np.abs(at[:, 0]) < 0.5].mean()), 2.0, delta=0.3)
        self.assertLess(float(wide[at[:, 0] < -3].mean()), float(wide[np.abs(at[:, 0]) < 0.5].mean()) - 0.1)

    def test_what_crosses_itself_is_untangled_there(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        body = history.project.bodies[0]
        # a horn pulled out of the ball and pushed back in through its side
        history.do(stroke("haul", (0.0, 5.0, 0.0), (0.0, 9.0, 0.0), radius=2.0, strength=100.0))
        history.do(stroke("haul", (0.0, 8.8, 0.0), (4.5, 3.0, 0.0), radius=1.5, strength=100.0))
        self.assertGreater(look(body, "crossing").count, 20)
        far = body.vertices["position"][body.vertices["position"][:, 1] < -1].copy()
        history.do(Cure("Body", "crossing"))
        found = measure(body)
        self.assertEqual((look(body, "crossing").count, found.closed, found.parts), (0, True, 1))
        live = body.vertices["position"][body.corners.first_corner >= 0]
        np.testing.assert_array_equal(live[live[:, 1] < -1], far)

    def test_a_part_that_is_at_fault_as_a_whole_is_not_taken_away(self) -> None:
        history = project_with(radius=5.0, edge=0.5)
        for name, x in (("One", 9.0), ("Two", 9.2)):
            history.do(AddBody("icosphere", {"radius": 0.5, "edge": 0.2}, name, (x, 0.0, 0.0)))
            history.do(JoinBodies("Body", name))
        body = history.project.bodies[0]
        self.assertGreater(look(body, "crossing").count, 0)
        volume = measure(body).volume
        with contextlib.suppress(InvalidInput):
            history.do(Cure("Body", "crossing"))
        found = measure(body)
        self.assertEqual(found.closed, True)
        assert volume is not None and found.volume is not None
        self.assertGreater(found.volume, volume - 0.6)
        self.assertGreater(found.parts, 1)

    def test_guard_and_wrong_names(self) -> None:
        history = project_with(radius=5.0, edge=0.5)
        body = history.project.bodies[0]
        rows = np.flatnonzero(body.vertices["position"][:, 1] > 4.7)
        body.vertices["position"][rows, 0] *= 0.05
        body.all_moved()
        history.do(stroke("guard", (0, 9, 0, 0, -1, 0), radius=2.0, strength=100.0, core=90.0))
        free, guarded = body.copy(), np.flatnonzero(body.vertices["guard"][:, 0] == 1)
        kept = body.vertices["position"][guarded].copy()
        self.assertGreater(guarded.size, 20)
        history.do(Cure("Body", "thin"))
        now = body.vertices["position"][body.vertices["guard"][:, 0] == 1]
        self.assertEqual({tuple(place) for place in now.tolist()}, {tuple(place) for place in kept.tolist()})
        # without the guard it would have changed some of them
        free.vertices["guard"][:] = 0
        history.project.bodies = (free,)
        history.do(Cure("Body", "thin"))
        self.assertFalse(
            {tuple(place) for place in kept.tolist()} <= set(map(tuple, free.vertices["position"].tolist()))
        )
        with self.assertRaisesRegex(InvalidInput, "no cure on the spot for 'doubles'; there is one for 'thin'"):
            history.do(Cure("Body", "doubles"))
        self.assertEqual(history.do(Weld("Body", 1e-5)).deltas, ())
