"""Objects of the scene: changed, undone, kept whole through files, and put where matrices of SciPy put them."""

import json
import pathlib
import random
import tempfile
import unittest
import zipfile

import numpy as np
from scipy.spatial.transform import Rotation

from hulmo.core.commands import AddObject, ChangeObject, MoveObject, PlaceFigure, RemoveObject, SetViewpoint
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.objects.scene_object import SceneObject, world_matrix
from hulmo.core.project import Project
from tests.bodies import project_with


class ObjectTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = pathlib.Path(folder.name) / "a.hulmo"

    def test_matrices_through_parents_are_those_of_scipy(self) -> None:
        rng = np.random.default_rng(4)
        objects: list[SceneObject] = []
        expected = np.eye(4)
        for ident in range(1, 6):
            at, turn, scale = rng.uniform(-9, 9, 3), rng.uniform(-180, 180, 3), float(rng.uniform(0.5, 2))
            own = np.eye(4)
            own[:3, :3] = Rotation.from_euler("xyz", turn, degrees=True).as_matrix() * scale
            own[:3, 3] = at
            expected = expected @ own
            objects.append(SceneObject(ident, "figure", f"{ident}", tuple(at), tuple(turn), scale, ident - 1))
        np.testing.assert_allclose(world_matrix(tuple(objects), objects[-1]), expected, atol=1e-9)

    def test_random_commands_go_back_and_forth_and_through_files(self) -> None:
        rng = random.Random(5)
        history = project_with("sheet")
        states = [history.project.objects]
        while len(states) < 120:
            names = [entry.name for entry in history.project.objects] or [""]
            at = (rng.uniform(-5, 5), 0.0, rng.uniform(-5, 5))
            command = rng.choice((
                AddObject("figure", at=at, turn=(0, rng.uniform(0, 360), 0)),
                AddObject("viewpoint", at=at, values={"target": [0.0, 1.0, 0.0], "field": rng.uniform(6, 110)}),
                ChangeObject(rng.choice(names), at=at),
                ChangeObject(rng.choice(names), name=f"Other {rng.randrange(9)}"),
                ChangeObject(rng.choice(names), shown=rng.random() < 0.5, parent=rng.choice((*names, ""))),
                RemoveObject(rng.choice(names)),
                PlaceFigure(rng.choice((None, at))),
                SetViewpoint(f"v{rng.randrange(3)}", at, (0, 5, 0)),
            ))  # fmt: skip
            before = history.project.objects
            try:
                history.do(command)
            except InvalidInput:
                self.assertEqual(history.project.objects, before)
                continue
            states.append(history.project.objects)
        save_project(history.project, self.path)
        self.assertEqual(open_project(self.path).objects, states[-1])
        for state in states[-2::-1]:
            history.undo()
            self.assertEqual(history.project.objects, state)

    def rewritten(self, change: dict[str, object]) -> pathlib.Path:
        out = self.path.with_name("b.hulmo")
        with zipfile.ZipFile(self.path) as old, zipfile.ZipFile(out, "w") as new:
            for info in old.infolist():
                data = old.read(info)
                if info.filename == "project.json":
                    data = json.dumps({**json.loads(data), **change}).encode()
                new.writestr(info, data)
        return out

    def test_what_a_later_version_knows_is_kept_and_written_back(self) -> None:
        history = project_with("sheet")
        history.do(AddObject("figure", "Ann", (1, 0, 1)))
        save_project(history.project, self.path)
        strange = [
            {"ident": 7, "kind": "geyser", "name": "Spout", "at": [1, 2, 3], "values": {"power": [1, {"a": None}]},
             "mood": "angry"},
            {"ident": 8, "kind": "figure", "name": "Bo", "hat": {"brim": 0.2}},
        ]  # fmt: skip
        project = open_project(self.rewritten({"objects": strange}))
        save_project(project, self.path)
        with zipfile.ZipFile(self.path) as archive:
            written = json.loads(archive.read("project.json"))["objects"]
        for given, got in zip(strange, written, strict=True):
            self.assertEqual({key: got[key] for key in given}, given)

    def test_what_is_locked_stays_and_views_keep_their_order(self) -> None:
        history = History(Project())
        for i, name in enumerate("ABC"):
            history.do(SetViewpoint(name, (i + 1.0, 2.0, 3.0), (0.0, 0.0, 0.0)))
            history.do(AddObject("figure", f"F{name}"))
        history.do(ChangeObject("B", values={"locked": True, "frame": "3:2"}))
        for command in (
            ChangeObject("B", at=(0.0, 0.0, 9.0)), ChangeObject("B", values={"field": 70.0}), RemoveObject("B"),
            SetViewpoint("B", (5.0, 5.0, 5.0), (0.0, 0.0, 0.0)),
        ):  # fmt: skip
            with self.assertRaisesRegex(InvalidInput, "'B' is locked; unlock it first"):
                history.do(command)
        history.do(ChangeObject("B", name="Bay", shown=False))
        history.do(MoveObject("C", 0))
        project = history.project
        self.assertEqual([view.name for view in project.viewpoints], ["C", "A", "Bay"])
        self.assertEqual([entry.name for entry in project.objects if entry.kind == "figure"], ["FA", "FB", "FC"])
        self.assertEqual(project.viewpoints[2].ratio, 1.5)
        history.do(ChangeObject("Bay", values={"locked": False}))
        history.do(SetViewpoint("Bay", (5.0, 5.0, 5.0), (0.0, 0.0, 0.0)))
        self.assertEqual((project.viewpoints[2].ratio, project.viewpoints[2].eye), (1.5, (5.0, 5.0, 5.0)))
        for command in (MoveObject("C", 3), MoveObject("C", -1), ChangeObject("C", values={"frame": "round"})):
            with self.assertRaises(InvalidInput):
                history.do(command)

    def test_figure_and_viewpoints_of_older_files(self) -> None:
        history = project_with("sheet")
        save_project(history.project, self.path)
        old = {
            "version": [1, 3], "figure": [1.0, 2.0, 3.0], "objects": [],
            "viewpoints": [{"name": "Scale figure", "eye": [1, 2, 3], "target": [0, 0, 0], "field": 33.0}],
        }  # fmt: skip
        project = open_project(self.rewritten(old))
        self.assertEqual(project.figure, (1.0, 2.0, 3.0))
        self.assertEqual((project.viewpoints[0].eye, project.viewpoints[0].field), ((1, 2, 3), 33.0))
        self.assertEqual([entry.name for entry in project.objects], ["Scale figure", "Scale figure 2"])

    def test_nonsense_is_refused(self) -> None:
        history = project_with("sheet")
        history.do(AddObject("figure", "Ann"))
        history.do(AddObject("figure", "Bo"))
        history.do(ChangeObject("Bo", parent="Ann"))
        for command in (
            AddObject("dragon"), AddObject("figure", "Ann"), AddObject("figure", at=(np.nan, 0, 0)),
            AddObject("figure", scale=0.0), AddObject("figure", turn=(np.inf, 0, 0)), AddObject("viewpoint"),
            AddObject("viewpoint", values={"target": [0, 0, 0]}), AddObject("viewpoint", values={"target": [1, 2, "3"]}),
            AddObject("viewpoint", values={"target": [1, 2, 10**400]}), ChangeObject("Cy"), ChangeObject("Ann", name="Bo"),
            ChangeObject("Ann", parent="Bo"), ChangeObject("Ann", parent="Ann"), RemoveObject("Ann"),
            ChangeObject("Ann", name=" "),
        ):  # fmt: skip
            before = history.project.objects
            with self.assertRaises(InvalidInput, msg=repr(command)):
                history.do(command)
            self.assertEqual(history.project.objects, before)
        save_project(history.project, self.path)
        for objects in (
            [{"kind": "figure"}], [{"ident": 1, "kind": "figure", "name": "A", "at": [1, 2]}], ["figure"],
            [{"ident": 1, "kind": "x", "name": "A"}, {"ident": 1, "kind": "x", "name": "B"}],
            [{"ident": 1, "kind": "x", "name": "A", "parent": 9}], [{"ident": 1, "kind": "viewpoint", "name": "A"}],
            [{"ident": 0, "kind": "x", "name": "A"}], [{"ident": 1, "kind": "x", "name": "A", "scale": -1}],
        ):  # fmt: skip
            with self.assertRaises(FileProblem, msg=repr(objects)):
                open_project(self.rewritten({"objects": objects}))


if __name__ == "__main__":
    unittest.main()
