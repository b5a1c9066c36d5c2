"""Hand paint over ground rules: what lies where, who may change it, and that it can all be taken back."""

import pathlib
import tempfile
import unittest

import numpy as np

from hulmo.core.care.coarse_border import find
from hulmo.core.commands import (
    AddGround,
    ChangeGround,
    Choose,
    CopyWeights,
    Cure,
    DuplicateGround,
    Fill,
    LayRelief,
    MarkVertices,
    MergeGrounds,
    MoveGround,
    RemoveGround,
    SetBlend,
    SetRules,
    SetWeight,
    Subdivide,
    SwapGrounds,
    UseRules,
)
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground.evaluate import evaluate, figures, sample_figures
from hulmo.core.ground.hand import added_up, hand_share, ruled_at
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.ground.weights import HAND, RULED, WEIGHT
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.edge_ways import edge_path
from hulmo.core.mesh.rounding import rounding
from hulmo.core.progress import silent
from tests.bodies import form_body, project_with, stroke

SLOPE = Rule("Thrift turf", (Condition("slope", {}, None, 30.0, 0.0, 10.0),))
TOP = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)


def ball() -> tuple[History, Body]:
    history = project_with(radius=5.0, edge=0.3)
    return history, history.project.bodies[0]


def names(history: History) -> tuple[str, ...]:
    return history.project.ground_names


class HandTest(unittest.TestCase):
    def check(self, history: History, body: Body) -> None:
        weight, hand = body.vertices[WEIGHT], body.vertices[HAND]
        self.assertTrue(((weight >= 0) & (weight <= 1)).all())
        np.testing.assert_allclose(weight.sum(axis=1), 1, atol=3e-6)
        self.assertTrue((hand >= 0).all() and (hand.sum(axis=1) <= 1 + 1e-5).all())
        rows = np.arange(body.vertices.count, dtype=np.int32)
        np.testing.assert_allclose(added_up(hand, ruled_at(body, weight.shape[1], rows)), weight, atol=5e-6)

    def test_rules_move_below_hand_paint_and_give_back_shows_them_again(self) -> None:
        history, body = ball()
        history.do(SetRules(body.name, (SLOPE,)))
        ruled = body.vertices[WEIGHT].copy()
        self.assertEqual(float(ruled[:, 2].max()), 1.0)
        history.do(stroke("lay", TOP, ground="Shell sand", radius=2.0, strength=100.0, core=50.0))
        painted = body.vertices[WEIGHT].copy()
        self.check(history, body)
        top = np.argmax(body.vertices["position"][:, 1])
        self.assertEqual(painted[top].tolist(), [0, 0, 0, 1])
        history.do(SetRules(body.name, (Rule("Dark basalt"),)))
        self.check(history, body)
        after = body.vertices[WEIGHT]
        self.assertEqual(after[top].tolist(), [0, 0, 0, 1])
        far = hand_share(body, slice(None)) == 0
        self.assertTrue((after[far, 1] == 1).all())
        history.do(stroke("give_back", TOP, radius=4.0, strength=100.0, core=90.0))
        self.check(history, body)
        np.testing.assert_allclose(body.vertices[WEIGHT][:, 1], 1, atol=1e-6)
        for _ in range(4):
            history.undo()
        self.assertNotIn(RULED, body.vertices)
        self.assertTrue((body.vertices[WEIGHT][:, 0] == 1).all())

    def test_laying_what_the_rule_lays_keeps_it_and_keep_does_so_for_all(self) -> None:
        for brush, ground in (("lay", "Thrift turf"), ("give_back", "")):
            history, body = ball()
            history.do(SetRules(body.name, (SLOPE,)))
            settings = {"radius": 2.0, "strength": 100.0, "core": 80.0}
            history.do(stroke(brush, TOP, ground=ground, invert=not ground, **settings))
            before = body.vertices[WEIGHT].copy()
            kept = hand_share(body, slice(None)) > 0.999
            self.assertGreater(int(kept.sum()), 20)
            history.do(SetRules(body.name, ()))
            np.testing.assert_allclose(body.vertices[WEIGHT][kept], before[kept], atol=2e-6)
            self.check(history, body)

    def test_sums_hold_through_any_sequence_with_rules_locks_and_a_limit(self) -> None:
        history, body = ball()
        rng = np.random.default_rng(12)
        history.do(
            SetRules(body.name, (SLOPE, Rule("Shell sand", (Condition("noise", {"size": 2.0}, 0.0, None, 20.0),), 0.7)))
        )
        history.do(SetBlend(together=3, keep_together=True))
        brushes = ("lay", "lift", "set", "feather", "give_back")
        for turn in range(60):
            known = names(history)
            name = known[rng.integers(len(known))]
            kind = rng.integers(12)
            toward = rng.normal(size=3)
            ray = (*(-9 * toward / np.linalg.norm(toward)).tolist(), *toward.tolist())
            if kind < 7:
                brush = brushes[rng.integers(5)]
                locked = history.project.grounds[known.index(name)].locked
                if locked and brush in ("lay", "lift", "set"):
                    continue
                ground = name if brush in ("lay", "lift", "set") else ""
                history.do(stroke(brush, ray, ground=ground, radius=float(rng.uniform(0.5, 5)),
                                  invert=bool(turn % 2) and brush != "set"))  # fmt: skip
            elif kind == 7:
                history.do(ChangeGround(name, values={"locked": bool(rng.integers(2))}))
            elif kind == 8 and len(known) > 3:
                history.do(RemoveGround(name))
            elif kind == 9 and len(known) < 9:
                history.do(AddGround("frost"))
            elif kind == 10:
                history.do(MoveGround(name, int(rng.integers(len(known)))))
            elif len(history.commands) > 4:
                history.undo()
            self.check(history, body)

    def test_a_locked_ground_keeps_its_weight_and_no_more_meet_than_may(self) -> None:
        history, body = ball()
        for ground in ("Dark basalt", "Thrift turf", "Shell sand"):
            history.do(stroke("lay", TOP, ground=ground, radius=3.0, strength=40.0))
        history.do(ChangeGround("Thrift turf", values={"locked": True}))
        history.do(SetBlend(together=2, keep_together=True))
        before = body.vertices[WEIGHT][:, 2].copy()
        history.do(stroke("lay", TOP, ground="Shell sand", radius=4.0, strength=90.0))
        np.testing.assert_allclose(body.vertices[WEIGHT][:, 2], before, atol=1e-7)
        touched = body.vertices["position"][:, 1] > 4.0
        self.assertLessEqual(int((body.vertices[WEIGHT][touched] > 0).sum(axis=1).max()), 2)
        with self.assertRaisesRegex(InvalidInput, "locked"):
            history.do(stroke("lay", TOP, ground="Thrift turf"))

    def test_set_reaches_the_exact_share_however_it_adds_up(self) -> None:
        for build_up in ("one_coat", "stacking", "until_reset"):
            history, body = ball()
            line = [(0.2 * i, 9.0, 0.0, 0.0, -1.0, 0.0) for i in range(-4, 5)]
            history.do(stroke("set", *line, ground="Shell sand", share=37.0, radius=2.0, strength=100.0, core=60.0,
                              build_up=build_up))  # fmt: skip
            top = np.argmax(body.vertices["position"][:, 1])
            self.assertAlmostEqual(float(body.vertices[WEIGHT][top, 3]), 0.37, places=5)

    def test_tint_goes_toward_its_colour_and_back_to_none(self) -> None:
        history, body = ball()
        history.do(stroke("tint", TOP, colour="#ff0000", radius=2.0, strength=100.0, core=50.0))
        top = np.argmax(body.vertices["position"][:, 1])
        np.testing.assert_allclose(body.vertices["tint"][top], (1, 0, 0, 1), atol=1e-5)
        history.do(stroke("tint", TOP, invert=True, radius=3.0, strength=100.0, core=90.0))
        np.testing.assert_allclose(body.vertices["tint"], 0, atol=1e-5)

    def test_a_stamp_lets_paint_through_where_it_is_white(self) -> None:
        history, body = ball()
        history.do(
            stroke("lay", TOP, ground="Shell sand", stamped=True, stamp="crack", radius=3.0, strength=100.0, core=95.0)
        )
        share = body.vertices[WEIGHT][:, 3]
        near = np.linalg.norm(body.vertices["position"] - (0, 5, 0), axis=1) < 2.0
        self.assertGreater(float(share[near].std()), 0.02)
        self.assertGreater(float(share[near].max()), float(share[near].min()) + 0.1)
        with self.assertRaisesRegex(FileProblem, "no such stamp"):
            history.do(stroke("lay", TOP, ground="Shell sand", stamped=True, stamp="no such stamp.png"))


class FollowTest(unittest.TestCase):
    RULES = (
        SLOPE,
        Rule("Shell sand", (Condition("bend", {"scale": 1.2}, None, -5.0, 0.0, 10.0),), 0.8),
        Rule(
            "Dark basalt",
            (Condition("height", {"level": 3.0}, 0.0, None, 0.5), Condition("noise", {"size": 2.0}, 0.0)),
        ),
    )

    def test_after_a_stroke_the_rules_are_as_if_all_were_evaluated(self) -> None:
        for settings in ({}, {"grow": "both", "edge": 0.2}):
            history, body = ball()
            history.do(SetRules(body.name, self.RULES))
            before = body.vertices[RULED].copy()
            line = [(0.3 * i, 9.0, 0.1, 0.0, -1.0, 0.0) for i in range(-6, 7)]
            history.do(stroke("raise", *line, radius=1.2, height=0.8, strength=100.0, **settings))
            live = body.corners.first_corner >= 0
            expected = evaluate(body, names(history))
            np.testing.assert_array_equal(body.vertices[RULED][live], expected[live])
            if not settings:
                self.assertGreater(float(np.abs(expected - before).max()), 0.5)
            history.undo()
            np.testing.assert_array_equal(body.vertices[RULED], before)

    def test_whole_body_commands_lay_the_rules_anew_and_keep_the_paint(self) -> None:
        history, body = ball()
        history.do(SetRules(body.name, self.RULES))
        history.do(stroke("lay", (9.0, 0, 0, -1, 0, 0), ground="Bleached ledge", radius=2.0, strength=100.0, core=70.0))
        history.do(Subdivide(body.name))
        np.testing.assert_array_equal(body.vertices[RULED], evaluate(body, names(history)))
        side = np.argmax(body.vertices["position"][:, 0])
        self.assertEqual(body.vertices[WEIGHT][side].tolist(), [1, 0, 0, 0])
        history.undo()
        np.testing.assert_array_equal(body.vertices[RULED], evaluate(body, names(history)))

    def test_a_project_comes_back_from_its_file(self) -> None:
        history, body = ball()
        history.do(SetRules(body.name, self.RULES, "Dark basalt"))
        history.do(stroke("lay", TOP, ground="Bleached ledge", radius=2.0))
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder) / "ruled.hulmo"
            save_project(history.project, path)
            again = open_project(path).bodies[0]
        self.assertEqual((again.rules, again.base), (body.rules, body.base))
        for name in (WEIGHT, HAND, RULED):
            np.testing.assert_array_equal(again.vertices[name], body.vertices[name])


class RuleTest(unittest.TestCase):
    def test_ridges_and_hollows_do_not_hang_on_where_a_fan_begins(self) -> None:
        # a file keeps no first corners: what is opened again must be measured as it was
        body = form_body("icosphere", radius=5.0, edge=0.4)
        rng = np.random.default_rng(2)
        body.vertices["position"][:] += rng.normal(0, 0.15, body.vertices["position"].shape)  # folded here and there
        body.replaced()
        position, normal, corners = body.vertices["position"], body.vertices["normal"], body.corners
        rows = np.arange(body.vertices.count, dtype=np.int32)
        before = rounding(position, normal, corners, rows, 1.0)
        for corner in rng.permutation(corners.vertex.size):
            corners.first_corner[corners.vertex[corner]] = corner
        np.testing.assert_array_equal(rounding(position, normal, corners, rows, 1.0), before)

    def test_a_sample_has_the_figures_of_the_whole(self) -> None:
        history, body = ball()
        history.do(LayRelief("Body", "noise", {"height": 1.0, "size": 1.5}, "Rough"))
        rows = np.arange(body.vertices.count, dtype=np.int32)
        for name in ("bend", "slope"):
            condition = Condition(name, {}, None, None)
            body.figures.clear()
            whole = figures(condition, body, (), rows, None, silent())
            body.figures.clear()
            sample = sample_figures(condition, body, (), body.vertices.count // 3)
            self.assertLess(sample.size, body.vertices.count)
            spread = float(np.ptp(np.percentile(whole, (5, 95))))
            for share in (10, 50, 90):
                off = abs(np.percentile(sample, share) - np.percentile(whole, share))
                self.assertLess(off, 0.15 * spread, (name, share))

    def test_conditions_are_joined_in_their_order(self) -> None:
        history, body = ball()
        height = Condition("height", {}, 2.0, None)
        above = body.vertices["position"][:, 1] >= 2.0
        east = body.vertices["normal"][:, 0] >= np.cos(np.radians(45.0))
        for join, inverted, expected in (
            ("and", False, above & east), ("or", False, above | east),
            ("and", True, above & ~east), ("or", True, above | ~east),
        ):  # fmt: skip
            second = Condition("facing", {"bearing": 90.0}, None, 45.0, join=join, inverted=inverted)
            history.do(SetRules(body.name, (Rule("Shell sand", (height, second)),)))
            np.testing.assert_array_equal(body.vertices[WEIGHT][:, 3] == 1, expected)

    def test_distance_counts_from_the_rules_below_and_from_marked_sets(self) -> None:
        history, body = ball()
        top = int(np.argmax(body.vertices["position"][:, 1]))
        history.do(Choose(body.name, rows=(top,)))
        history.do(MarkVertices(body.name, "summit"))
        near = Condition("near", {"to": "#summit"}, None, 2.0)
        history.do(SetRules(body.name, (Rule("Shell sand", (near,)),)))
        position = body.vertices["position"].astype(np.float64)
        arc = 5.0 * np.arccos(np.clip(position @ position[top] / 25.0, -1, 1))
        wrong = (body.vertices[WEIGHT][:, 3] == 1) != (arc <= 2.0)
        self.assertTrue((np.abs(arc[wrong] - 2.0) < 0.05).all())
        sand = Rule("Shell sand", (Condition("height", {}, 4.0, None),))
        rim = Rule("Thrift turf", (Condition("near", {"to": "Shell sand"}, 1e-6, 1.0),))
        history.do(SetRules(body.name, (sand, rim)))
        turf = body.vertices[WEIGHT][:, 2] == 1
        self.assertGreater(int(turf.sum()), 20)
        self.assertTrue((position[turf, 1] < 4.0).all() and (position[turf, 1] > 2.5).all())
        lower = Rule("Shell sand", (Condition("height", {}, 2.0, None),))
        history.do(SetRules(body.name, (lower, rim)))
        moved = body.vertices[WEIGHT][:, 2] == 1
        self.assertTrue((position[moved, 1] < 2.0).all(), "the distance was not taken again")

    def test_what_cannot_be_is_said_and_what_is_gone_is_passed_over(self) -> None:
        history, body = ball()
        for rules, words in (
            ((Rule("Shell sand", (Condition("slope", {}, 40.0, 20.0),)),), r"rule 1 \(Shell sand\).*nothing lies"),
            ((Rule("Shell sand", (Condition("moisture"),)),), "no measure 'moisture'"),
            ((Rule("Shell sand", (Condition("slope", {"scale": 1.0}),)),), "no setting 'scale'"),
            ((Rule("Shell sand", (Condition("slope", {}, float("nan")),)),), "finite"),
            ((Rule("Shell sand", (), 1.4),), "strength is 1.4"),
            ((Rule("Shell sand", (Condition("slope", join="xor"),)),), "join"),
            ((Rule(" "),), "name of a ground"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                history.do(SetRules(body.name, rules))
        history.do(SetRules(body.name, (Rule("Moss"), Rule("Shell sand", (Condition("near", {"to": "Moss"}),)))))
        self.assertTrue((body.vertices[WEIGHT][:, 0] == 1).all())
        history.do(SetRules(body.name, (Rule("Thrift turf"),)))
        history.do(ChangeGround("Thrift turf", name="Grass"))
        self.assertEqual(body.rules[0].ground, "Grass")
        history.do(RemoveGround("Grass"))
        self.assertTrue((body.vertices[WEIGHT][:, 0] == 1).all())
        history.undo()
        self.assertTrue((body.vertices[WEIGHT][:, 2] == 1).all())

    def test_shared_sets_bring_their_grounds_and_refuse_other_files(self) -> None:
        history, body = ball()
        history.do(UseRules(body.name, "cave"))
        self.assertIn("Mud bank", names(history))
        self.assertEqual(names(history)[body.base], "Broken limestone")
        self.assertGreater(float(body.vertices[WEIGHT][:, names(history).index("Flowstone")].max()), 0.5)
        history.undo()
        self.assertEqual(len(names(history)), 4)
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder) / "no rules.json"
            path.write_text('{"format": "tune", "version": 1, "name": "x"}')
            with self.assertRaisesRegex(FileProblem, "holds no ground rules"):
                history.do(UseRules(body.name, str(path)))
            with self.assertRaisesRegex(FileProblem, "cannot be read"):
                history.do(UseRules(body.name, str(path) + ".gone"))


class PaletteTest(unittest.TestCase):
    def setUp(self) -> None:
        self.history, self.body = ball()
        self.history.do(SetRules(self.body.name, (SLOPE,)))
        self.history.do(stroke("lay", (9.0, 0, 0, -1, 0, 0), ground="Shell sand", radius=3.0))

    def weights(self) -> dict[str, np.ndarray]:
        return dict(zip(names(self.history), self.body.vertices[WEIGHT].T.copy(), strict=True))

    def test_moving_changes_nothing_that_lies_anywhere(self) -> None:
        before = self.weights()
        self.history.do(MoveGround("Shell sand", 0))
        self.assertEqual(names(self.history)[0], "Shell sand")
        for name, weight in self.weights().items():
            np.testing.assert_allclose(weight, before[name], atol=1e-6)

    def test_swapping_and_merging(self) -> None:
        before = self.weights()
        self.history.do(SwapGrounds("Shell sand", "Thrift turf"))
        after = self.weights()
        np.testing.assert_array_equal(after["Shell sand"], before["Thrift turf"])
        np.testing.assert_array_equal(after["Thrift turf"], before["Shell sand"])
        self.assertEqual(self.body.rules[0].ground, "Shell sand")
        self.history.undo()
        self.history.do(MergeGrounds("Shell sand", "Thrift turf"))
        np.testing.assert_allclose(
            self.weights()["Thrift turf"], before["Thrift turf"] + before["Shell sand"], atol=1e-6
        )
        self.history.undo()
        self.history.do(DuplicateGround("Shell sand"))
        self.assertEqual(names(self.history)[-1], "Shell sand 2")
        self.assertEqual(float(self.weights()["Shell sand 2"].max()), 0.0)

    def test_weights_are_copied_to_what_lies_near(self) -> None:
        other = project_with(radius=5.05, edge=0.4)
        self.history.project.bodies += tuple(other.project.bodies)
        ball_two = self.history.project.bodies[1]
        ball_two.name, ball_two.ident = "Other", 7
        self.history.do(CopyWeights("Other", "Body", 0.5))
        near = self.body.index.nearest_many(
            self.body.corners.vertex, self.body.vertices["position"], ball_two.vertices["position"]
        )
        rows = self.body.corners.triangles[near[0]]
        expected = sum(near[1][:, i, None] * self.body.vertices[WEIGHT][rows[:, i]] for i in range(3))
        np.testing.assert_allclose(ball_two.vertices[WEIGHT], expected, atol=1e-5)
        with self.assertRaisesRegex(InvalidInput, "nowhere nearer"):
            ball_two.vertices["position"][:] += 500.0
            ball_two.all_moved()
            self.history.do(CopyWeights("Other", "Body", 0.5))


class FillTest(unittest.TestCase):
    def test_all_becomes_the_base_and_parts_become_paint(self) -> None:
        history, body = ball()
        history.do(stroke("lay", TOP, ground="Thrift turf", radius=2.0))
        history.do(Fill(body.name, "Shell sand"))
        self.assertEqual(body.base, 3)
        self.assertTrue((body.vertices[WEIGHT][:, 3] == 1).all() and not body.vertices[HAND].any())
        history.do(Fill(body.name, "Thrift turf", where=(Condition("slope", {}, None, 30.0),)))
        flat = np.degrees(np.arccos(np.clip(body.vertices["normal"][:, 1], -1, 1))) <= 30.0
        np.testing.assert_array_equal(body.vertices[WEIGHT][:, 2] == 1, flat)
        history.do(Choose(body.name, by="where", where=(Condition("height", {}, 4.0, None),)))
        history.do(Fill(body.name, "Dark basalt", "chosen", strength=0.25))
        chosen = body.vertices["position"][:, 1] >= 4.0
        np.testing.assert_allclose(body.vertices[WEIGHT][chosen, 1], 0.25, atol=1e-6)
        self.assertEqual(float(body.vertices[WEIGHT][~chosen, 1].max()), 0.0)
        history.do(Choose(body.name, "none"))
        with self.assertRaisesRegex(InvalidInput, "no vertex .* is chosen"):
            history.do(Fill(body.name, "Dark basalt", "chosen"))

    def test_borders_are_refined_just_there(self) -> None:
        history, body = ball()
        history.do(stroke("lay", TOP, ground="Shell sand", radius=2.0, strength=100.0, core=90.0))
        count, rows = body.corners.live_count, np.flatnonzero(body.vertices["position"][:, 1] < 0)
        far = body.vertices["position"][rows].copy()
        history.do(Cure(body.name, "border", 0.1))
        self.assertGreater(body.corners.live_count, count + 500)
        self.assertEqual(find(body, 0.1, silent()).count, 0)
        np.testing.assert_array_equal(body.vertices["position"][rows], far)


class ChooseTest(unittest.TestCase):
    def setUp(self) -> None:
        self.history = project_with("sheet", size=6.0, depth=6.0, edge=0.25)
        self.body = self.history.project.bodies[0]

    def chosen(self) -> np.ndarray:
        return np.flatnonzero(self.body.vertices["chosen"][:, 0]) if "chosen" in self.body.vertices else np.empty(0)

    def test_ways_and_steps(self) -> None:
        count = self.body.vertices.count
        self.history.do(Choose("Body", rows=(5, 9)))
        self.history.do(Choose("Body", way="add", rows=(12,)))
        self.history.do(Choose("Body", way="take", rows=(9,)))
        self.assertEqual(self.chosen().tolist(), [5, 12])
        self.history.do(Choose("Body", "invert"))
        self.assertEqual(self.chosen().size, count - 2)
        self.history.do(Choose("Body", "none"))
        self.assertEqual(self.chosen().size, 0)
        for _ in range(5):
            self.history.undo()
        self.assertNotIn("chosen", self.body.vertices)
        for command, words in (
            (Choose("Body", rows=(count,)), f"no vertex {count}"),
            (Choose("Body", "row", rows=(1,)), "needs two"),
            (Choose("Body", "hue"), "by is 'hue'"),
            (Choose("Body", "marked", name="x"), "no marked set 'x'"),
            (SetWeight("Body", "Shell sand", 0.5), "no vertex .* is chosen"),
            (MarkVertices("Body", "x"), "no vertex .* is chosen"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                self.history.do(command)

    def test_a_path_hangs_together_and_is_not_much_longer_than_the_way(self) -> None:
        position = self.body.vertices["position"].astype(np.float64)
        start, end = int(np.argmin(position.sum(axis=1))), int(np.argmax(position.sum(axis=1)))
        path = edge_path(self.body, start, end)
        steps = np.linalg.norm(np.diff(position[path], axis=0), axis=1)
        self.assertEqual((path[0], path[-1]), (start, end))
        self.assertLess(float(steps.max()), 0.25 * 1.5)
        self.assertLess(float(steps.sum()), 1.45 * float(np.linalg.norm(position[end] - position[start])))


if __name__ == "__main__":
    unittest.main()
