"""Commands, history, recipes, journal: what is refused, what is remembered, what comes back."""

import json
import pathlib
import tempfile
import unittest
from unittest import mock

import numpy as np

from hulmo.core.commands import COMMANDS, AddBody, Fill, RemoveBody, SetBlend, SetLight, SetViewpoint, Subdivide
from hulmo.core.errors import Cancelled, FileProblem, HulmoError, InvalidInput
from hulmo.core.history import History
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.recipe import command_from_json, command_to_json, read_recipe, run_recipe
from hulmo.core.settings_page import settings_page
from tests.bodies import project_with, snapshot, stroke


class RefusalTest(unittest.TestCase):
    def test_each_refusal_says_what_and_where_and_changes_nothing(self) -> None:
        history = project_with()
        before, count = snapshot(history.project.bodies[0]), len(history.commands)
        bad = (
            (AddBody("torus"), "no base form 'torus'; known are sheet"),
            (AddBody("sheet", {"size": -1.0}), "size is -1 m; it must lie between"),
            (AddBody("sheet", {"size": 1e5, "edge": 0.001}), "at most 60,000,000"),
            (AddBody("sheet", {"sise": 3.0}), "no setting 'sise'"),
            (AddBody("sheet", {"size": float("nan")}), "must be a number"),
            (AddBody("sheet", {"size": True}), "must be a number"),
            (RemoveBody("Rock"), "no body 'Rock'; the project has 'Body'"),
            (Fill("Body", "Moss"), "no ground 'Moss'"),
            (Subdivide("Rock"), "no body"),
            (SetBlend("height", 0.0), "depth is 0"),
            (SetBlend("screen"), "one of linear, height"),
            (SetLight(altitude=120.0), "altitude is 120"),
            (SetViewpoint("v", (0, 0, 0), (0, 0, 0)), "two different"),
            (stroke("carve", (0, 0, 0)), "no brush 'carve'"),
            (stroke("raise", (0, 0, 0), radius=0.0), "radius is 0 m"),
            (stroke("raise", (0, 0, 0), falloff="round"), "falloff is 'round'"),
            (stroke("raise", (0, 0)), "sample has 3 to 8 numbers, not 2"),
            (stroke("raise", (0, 0, 0), (0, 0, float("inf"))), "sample 2.*not finite|not finite"),
            (stroke("raise", (0, 0, 0, 2.0)), "pressure is 2"),
            (stroke("raise", (0, 0, 0), ground="Thrift turf"), "takes no ground"),
            (stroke("lay", (0, 0, 0)), "no ground ''"),
            (stroke("smooth", (0, 0, 0), invert=True), "cannot be inverted"),
        )
        for command, words in bad:
            with self.subTest(words=words), self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
        self.assertEqual(snapshot(history.project.bodies[0]), before)
        self.assertEqual(len(history.commands), count)

    def test_what_does_not_fit_into_memory_is_said_before(self) -> None:
        history = project_with()
        with mock.patch("hulmo.core.memory.available_bytes", lambda: 2_000_000):
            for command in (AddBody("sheet", {"edge": 0.5}), Subdivide("Body")):
                with self.assertRaisesRegex(InvalidInput, r"GB of memory, 0\.0 GB are free"):
                    history.do(command)
        self.assertEqual(len(history.commands), 1)

    def test_a_stopped_job_changes_nothing(self) -> None:
        history = History(Project())
        progress = Progress()
        progress.stop()
        with self.assertRaises(Cancelled):
            history.do(AddBody("sheet"), progress)
        self.assertEqual(history.project.bodies, ())


class PageTest(unittest.TestCase):
    def test_the_settings_page_says_what_the_code_declares(self) -> None:
        page = pathlib.Path(__file__).parents[2] / "docs" / "settings.md"
        self.assertEqual(page.read_text(encoding="utf-8"), settings_page(), "run tools/make_settings_page.py")


class HistoryTest(unittest.TestCase):
    def test_memory_cap_forgets_the_oldest_and_keeps_the_project_marked_unsaved(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        history._cap = 200_000
        history.mark_saved()
        for turn in range(48):
            history.do(stroke("raise", (6.0, 0, turn * 0.01), radius=2.0))
        self.assertLess(history.nbytes, 200_000 * 2)
        while history.undo():
            pass
        self.assertTrue(history.changed)

    def test_live_bodies_do_not_count_as_memory_of_the_history(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        history.do(AddBody("block", {"edge": 0.5}, "Rock"))
        self.assertLess(history.nbytes, 1000)
        history.do(RemoveBody("Rock"))
        self.assertGreater(history.nbytes, 100_000, "a removed body is held by its edit alone")

    def test_saved_state_follows_undo_and_redo(self) -> None:
        history = project_with()
        history.mark_saved()
        self.assertFalse(history.changed)
        history.do(SetBlend("linear"))
        self.assertTrue(history.changed)
        history.undo()
        self.assertFalse(history.changed)
        history.undo()
        self.assertTrue(history.changed)
        history.do(SetBlend("linear"))
        self.assertTrue(history.changed, "the saved state can no longer be reached")

    def test_listeners_hear_only_what_was_touched(self) -> None:
        history = project_with(radius=5.0, edge=0.3)
        heard = []
        history.subscribe(heard.append)
        history.do(stroke("raise", (6.0, 0, 0), radius=1.0))
        rows = {column: rows for _, column, rows in heard[-1].rows}
        self.assertEqual(set(rows), {"position", "normal"})
        self.assertTrue(set(rows["position"]) < set(rows["normal"]))
        self.assertLess(rows["normal"].size, 200)
        history.undo()
        undone = {column: rows for _, column, rows in heard[-1].rows}
        np.testing.assert_array_equal(undone["normal"], rows["normal"])

    def test_subdivide_undo_gives_the_very_same_tables(self) -> None:
        history = project_with()
        body = history.project.bodies[0]
        vertices, corners = body.vertices, body.corners
        before = snapshot(body)
        history.do(Subdivide("Body"))
        self.assertEqual(body.corners.count, 4 * corners.count)
        history.do(stroke("raise", (6.0, 0, 0), radius=1.0))
        history.undo()
        history.undo()
        self.assertIs(body.vertices, vertices)
        self.assertEqual(snapshot(body), before)


class RecipeTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)

    def write(self, text: str) -> pathlib.Path:
        path = self.folder / "recipe.json"
        path.write_text(text)
        return path

    def test_commands_survive_json(self) -> None:
        for command in (
            stroke("lay", (0.1, 1 / 3, -2e-9, 0.5), ground="Thrift turf", radius=1.25, invert=False),
            AddBody("block", {"edge": 0.5}, "Cliff", (1.0, 2.0, 3.0)),
            SetLight(bearing=12.5),
        ):
            self.assertEqual(command_from_json(command_to_json(command), "test"), command)
        tags = {kind.__struct_config__.tag for kind in COMMANDS}
        self.assertEqual(len(tags), len(COMMANDS))

    def test_bad_recipes_say_which_step(self) -> None:
        for text, words in (
            ('{"do": "fill"}', "is a JSON list"),
            ("[1", "no valid JSON"),
            ('[{"do": "add_body", "form": "sheet"}, {"do": "melt"}]', r"step 2: .*melt.*known commands are add_body"),
            ('[{"form": "sheet"}]', "step 1: .*do"),
            ('[{"do": "add_body", "form": 3}]', r"step 1: .*form"),
            ('[{"do": "fill", "body": "Body"}]', r"step 1: .*ground"),
            ('[{"do": "set_blend", "depth": 0.2, "colour": 1}]', r"step 1: .*colour"),
            ('[{"do": "stroke", "body": "a", "brush": "raise", "samples": [["x"]]}]', r"step 1: .*samples"),
            ('[{"do": "set_light", "sun": NaN}]', "step 1"),
        ):
            with self.subTest(text=text), self.assertRaisesRegex(HulmoError, words):
                read_recipe(self.write(text))
        with self.assertRaisesRegex(FileProblem, "cannot be read"):
            read_recipe(self.folder / "none.json")

    def test_a_recipe_that_fails_is_taken_back_whole(self) -> None:
        steps = [
            {"do": "add_body", "form": "sheet"},
            {"do": "set_blend", "mode": "linear"},
            {"do": "fill", "body": "Rock", "ground": "x"},
        ]
        history = History(Project())
        with self.assertRaisesRegex(InvalidInput, r"r, step 3: fill: there is no body 'Rock'"):
            run_recipe(history, read_recipe(self.write(json.dumps(steps))), "r")
        self.assertEqual((history.project.bodies, history.project.blend.mode), ((), "height"))

    def test_a_recipe_may_work_on_what_is_larger_than_it_may_make(self) -> None:
        history = project_with()
        run_recipe(history, [SetBlend("linear")], "r", most=10)
        self.assertEqual(history.project.blend.mode, "linear")
        with self.assertRaisesRegex(InvalidInput, "step 1: .*allowed"):
            run_recipe(history, [Subdivide("Body")], "r", most=10)


if __name__ == "__main__":
    unittest.main()
