"""Nothing lost, nothing let in: edits that would break a project are refused, guards and locks hold in every command."""

import contextlib
import pathlib
import tempfile
import unittest
import zipfile
from collections.abc import Callable
from unittest import mock

import numpy as np

from hulmo.core.check_edit import check_edit
from hulmo.core.commands import (
    COMMANDS,
    AddBody,
    AddGround,
    AddLayer,
    AddLine,
    AddWater,
    BankUp,
    Bore,
    BridgeChosen,
    Cap,
    ChangeBody,
    ChangeGuard,
    ChangeLayer,
    ChangeStrewn,
    ChangeUv,
    Choose,
    ChooseParts,
    CollapseChosen,
    Combine,
    Command,
    CopyWeights,
    Cure,
    CureProps,
    CutLevels,
    DeleteChosen,
    DuplicateBody,
    EvenChosen,
    EvenOut,
    ExtendBorder,
    Extrude,
    Fill,
    FillBorders,
    FillChosen,
    FitToViews,
    FlattenLayers,
    GuardFrom,
    ImportBody,
    Inset,
    JitterChosen,
    JoinBodies,
    LayAround,
    LayImages,
    LayOnFaces,
    LayProps,
    LayRelief,
    LayRules,
    LayUv,
    LinePoint,
    LockBorder,
    MarkSeams,
    MergeGrounds,
    MirrorBody,
    MoveChosen,
    MoveGround,
    PackUv,
    PlaceBody,
    PlantVertex,
    Recast,
    Reduce,
    RelaxUv,
    RelayRelief,
    RemoveGround,
    RemoveLayer,
    RemoveUv,
    SetCrease,
    SetDown,
    SetFacets,
    SetRules,
    SetStrewRules,
    SetViewpoint,
    SetWeight,
    SinkRim,
    SplitBody,
    SplitChosen,
    StackUv,
    StandBody,
    StitchBorders,
    StraightenUv,
    Strew,
    Subdivide,
    SwapGrounds,
    Thicken,
    TurnBackUv,
    TurnEdges,
    UnwrapAlongSeams,
    UnwrapUv,
    UseRules,
    Weld,
)
from hulmo.core.edit import BodyDelta, ColumnDelta, Edit, FieldDelta, RowsDelta, TablesDelta
from hulmo.core.errors import Cancelled, FileProblem, HulmoError, InvalidInput
from hulmo.core.grey_image import FOLDER
from hulmo.core.ground.rule_sets import read_rule_set
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.ground.share import read_ground
from hulmo.core.history import History
from hulmo.core.io.importer import read_mesh
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.kept import lost, placed
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.seam import border_of
from hulmo.core.mesh.soundness import wrong_triangle
from hulmo.core.mesh.strewn import LAYOUT
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.presets import read_presets
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.recipe import read_recipe
from hulmo.core.sound import check_project
from tests.bodies import project_with, snapshot, stroke

SLOPES = (Rule("Thrift turf", (Condition("slope", high=30.0, high_soft=10.0),)),)

RIPPLE = str(FOLDER / "ripple.png")


def everything(project: Project) -> list[object]:
    """All of a project that counts, to the byte."""
    out: list[object] = [project.grounds, project.light, project.name, project.figure, dict(project.textures)]
    for body in project.bodies:
        out += [body.name, body.layers, body.rules, body.base, body.border_lock, body.shown, body.locked, body.origin]
        out += [snapshot(body), body.corners.vertex.tobytes(), body.corners.opposite.tobytes(), body.strew_rules]
        out += [None if body.strewn is None else [getattr(body.strewn, name).tobytes() for name in LAYOUT]]
    return [*out, project.objects, project.props]


class RefusalTest(unittest.TestCase):
    def setUp(self) -> None:
        self.history = project_with("sheet")
        self.history.do(stroke("raise", (0.0, 0, 0), radius=2.0))
        self.before = everything(self.history.project)

    def refuse(self, edit: Edit, words: str) -> None:
        command = ChangeBody("Body", shown=True)
        with self.assertRaisesRegex(HulmoError, words), mock.patch.object(ChangeBody, "edit", lambda *_: edit):
            self.history.do(command)
        self.assertEqual(everything(self.history.project), self.before)
        self.assertEqual(len(self.history.commands), 2)

    def test_an_edit_that_would_break_the_project_is_refused_and_changes_nothing(self) -> None:
        body = self.history.project.bodies[0]
        count = body.vertices.count
        rows = np.arange(2, dtype=np.int32)
        position = body.vertices["position"]
        far, none = position[rows] + np.float32(1e30), np.full((2, 3), np.nan, np.float32)
        ident, grounds = body.ident, self.history.project.grounds
        for deltas, words in (
            ((RowsDelta(ident, "position", rows, position[rows], far),), "position holds a number outside"),
            ((RowsDelta(ident, "position", rows, position[rows], none),), "not finite"),
            ((ColumnDelta(ident, "ruled", None, np.zeros((count, 4), np.float32)),), "do not sum to 1"),
            ((ColumnDelta(ident, "chosen", None, np.zeros((count, 2), np.float32)),), "width 2; it needs 1"),
            ((ColumnDelta(ident, "strange", None, np.zeros((count, 99), np.float32)),), "width 99"),
            ((ColumnDelta(ident, "relief_9", None, np.zeros((count, 3), np.float32)),), "do not go together"),
            ((BodyDelta(ident, "base", 0, 44),), "ground 44"),
            ((BodyDelta(ident, "rules", (), SLOPES),), "only one of them|share a number"),
            ((FieldDelta("name", "Untitled", " "),), "needs a name"),
            ((FieldDelta("name", "Untitled", "\udcff"),), "no text in UTF-8"),
            ((FieldDelta("grounds", grounds, grounds[:2]),), "width 4; it needs 2"),
            # the second one cannot be applied: the first is taken back
            (
                (
                    BodyDelta(ident, "base", 0, 1),
                    RowsDelta(ident, "none such", rows, np.zeros((2, 1), np.float32), np.zeros((2, 1), np.float32)),
                ),
                "",
            ),
        ):  # fmt: skip
            with self.subTest(words):
                if words:
                    self.refuse(Edit("Test", deltas), words)  # type: ignore[arg-type]
                else:
                    with self.assertRaises(KeyError):
                        Edit("Test", deltas).apply(self.history.project)  # type: ignore[arg-type]
                    self.assertEqual(everything(self.history.project), self.before)

    def test_too_far_too_large_and_no_text(self) -> None:
        for command, words in (
            (PlaceBody("Body", scale=(1e4, 1e4, 1e4)), ""),
            (ChangeBody("Body", name="\udc80"), "UTF-8"),
            (Choose("Body", rows=(2**63,)), "no vertex"),
            (stroke("raise", (0, 0, 0), radius=10**400), "must be a number"),
        ):
            try:
                self.history.do(command)
            except HulmoError as error:
                self.assertRegex(str(error), words)
                self.assertEqual(everything(self.history.project), self.before)
            check_project(self.history.project)
            while len(self.history.commands) > 2:
                self.history.undo()

    def test_saving_asks_what_opening_asks(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            file = pathlib.Path(name) / "a.hulmo"
            save_project(self.history.project, file)
            whole = file.read_bytes()
            body = self.history.project.bodies[0]
            for column, row, value in (("position", 3, np.inf), ("weight", 0, 7.0), ("normal", 0, np.nan)):
                kept = body.vertices[column][row].copy()
                body.vertices[column][row] = value
                if column == "normal":  # not in files: made anew
                    save_project(self.history.project, file)
                    open_project(file)
                else:
                    with self.assertRaisesRegex(FileProblem, f"not saved.*{column}.*undo the last steps"):
                        save_project(self.history.project, file)
                    self.assertEqual(file.read_bytes(), whole)
                body.vertices[column][row] = kept
            self.assertEqual([entry.name for entry in file.parent.iterdir()], ["a.hulmo"])

    def test_json_that_is_none_is_refused_by_every_reader(self) -> None:
        readers: tuple[tuple[str, Callable[[pathlib.Path], object]], ...] = (
            ("a.json", read_recipe), ("p.json", read_presets), ("r.json", read_rule_set),
            ("ground.json", lambda file: read_ground(file.parent)), ("a.gltf", lambda file: read_mesh(file, silent())),
        )  # fmt: skip
        with tempfile.TemporaryDirectory() as name:
            for text in (
                b'[{"do": "\xff"}]',
                b'{"a":"\xff"}',
                b"[" * 90_000,
                b'{"a":' * 90_000,
                b'{"version": 1' + b"0" * 5000,
            ):
                for file, read in readers:
                    path = pathlib.Path(name) / file
                    path.write_bytes(text)
                    with self.assertRaisesRegex(FileProblem, file, msg=(file, text[:20])):
                        read(path)
                path = pathlib.Path(name) / "a.hulmo"
                with zipfile.ZipFile(path, "w") as archive:
                    archive.writestr("project.json", text)
                with self.assertRaisesRegex(FileProblem, r"a\.hulmo"):
                    open_project(path)

    def test_names_that_no_file_can_have(self) -> None:
        before = everything(self.history.project)
        for name in ("x" * 5000, "x" * 300 + ".png", "a\0b", "/" * 9000, "\ud800.png"):
            for command in (
                AddGround(name), AddGround("", name[:90]), ImportBody(name), LayRelief("Body", "image", {"image": name}),
                UseRules("Body", name), stroke("stamp", (0.0, 0, 0), image=name),
            ):  # fmt: skip
                with contextlib.suppress(HulmoError):
                    self.history.do(command.located(pathlib.Path("/tmp")))
                    self.history.undo()
                self.assertEqual(everything(self.history.project), before)

    def test_a_cure_never_takes_all_of_a_body(self) -> None:
        history = project_with("icosphere", radius=4.0, edge=1.6)
        history.do(Recast("Body", 5.0))
        history.do_if_any(Cure("Body", "thin"))
        body = history.project.bodies[0]
        self.assertGreater(body.corners.live_count, 3)
        nothing = (VertexTable(0), CornerTable.from_triangles(np.empty((0, 3), np.int32), 0))
        edit = Edit("Test", (TablesDelta(body.ident, (body.vertices, body.corners), nothing),))
        with self.assertRaisesRegex(InvalidInput, "nothing would be left"):
            check_edit(history.project, edit)


class BrokenOffTest(unittest.TestCase):
    def test_a_stroke_that_raises_is_taken_back_and_the_next_one_works(self) -> None:
        for grow in ("off", "both"):
            history = project_with("icosphere")
            history.do(LayRelief("Body", "noise", {"height": 0.2}))
            before = everything(history.project)
            start = stroke("raise", radius=2.0, grow=grow, edge=0.3, build_up="until_reset")
            for fails_in in ("sample", "finish"):
                history.begin(start)
                history.sample((6.0, 0.0, 0.0))
                where = "hulmo.core.sculpt.stroke.Stroke." + ("add" if fails_in == "sample" else "settle")
                with mock.patch(where, side_effect=ZeroDivisionError), self.assertRaises(ZeroDivisionError):
                    history.sample((6.0, 1.0, 0.0)) if fails_in == "sample" else history.finish()
                self.assertFalse(history.stroking)
                self.assertEqual(everything(history.project), before)
            history.do(stroke("smooth", (6.0, 0.0, 0.0), radius=2.0))
            history.undo()
            check_project(history.project)

    def test_a_long_jump_can_be_stopped_between_two_dabs(self) -> None:
        for grow in ("off", "both"):
            history = project_with("sheet")
            before = everything(history.project)
            report = mock.Mock(side_effect=[None] * 20 + [Cancelled("stopped while laying the stroke")])
            jump = stroke("raise", (-8.0, 0.0, 0.0), (8.0, 0.0, 0.0), radius=0.5, grow=grow, edge=0.3)
            with self.assertRaisesRegex(Cancelled, "laying the stroke"):
                history.do(jump, Progress(report))
            self.assertEqual(report.call_count, 21)
            self.assertEqual(everything(history.project), before)

    def test_an_undo_that_fails_loses_no_step(self) -> None:
        history = project_with("sheet")
        history.do(stroke("raise", (0, 0, 0), radius=2.0))
        state = everything(history.project)
        with (
            mock.patch("hulmo.core.edit.RowsDelta.put", side_effect=ZeroDivisionError),
            self.assertRaises(ZeroDivisionError),
        ):
            history.undo()
        self.assertEqual(everything(history.project), state)
        self.assertTrue(history.undo())
        self.assertTrue(history.redo())
        self.assertEqual(everything(history.project), state)

    def test_a_step_whose_file_is_gone_is_told_and_the_rest_goes_on(self) -> None:
        history = History(Project(), memory_cap=100_000)
        history.do(AddBody("icosphere", {"edge": 0.4}, "Body"))
        for _ in range(40):
            history.do(stroke("raise", (6.0, 0, 0), radius=5.0))
        folder = history._spill.folder
        assert folder is not None
        steps = len(history.commands)
        for file in pathlib.Path(folder.name).iterdir():
            file.unlink()
        state = None
        with self.assertRaisesRegex(FileProblem, "cannot be taken back any more"):
            while history.undo():
                state = everything(history.project)
        self.assertEqual(everything(history.project), state, "the project stays as it was")
        self.assertLess(len(history.commands), steps)
        history.do(stroke("raise", (6.0, 0, 0), radius=1.0))
        self.assertTrue(history.undo())

    def test_a_large_step_leaves_those_on_disk_alone(self) -> None:
        history = History(Project(), memory_cap=100_000)
        history.do(AddBody("icosphere", {"edge": 0.4}, "Body"))
        for _ in range(20):
            history.do(stroke("raise", (6.0, 0, 0), radius=4.0))
        first = snapshot(history.project.bodies[0])
        history.do(Subdivide("Body"))
        history.do(Subdivide("Body"))
        while history.undo():
            pass
        self.assertEqual(history.labels[1], 0, "every step can be taken back")
        self.assertEqual(len(history.labels[0]), 23)
        history.jump(21)
        self.assertEqual(snapshot(history.project.bodies[0]), first)

    def test_minus_zero_comes_back(self) -> None:
        history = project_with("sheet")
        position = history.project.bodies[0].vertices["position"]
        position[:, 1] = -0.0
        before = position.tobytes()
        history.do(stroke("raise", (0, 0, 0), radius=3.0, height=0.0))
        history.do(stroke("raise", (0, 0, 0), radius=3.0, direction="up"))
        while len(history.commands) > 1:
            history.undo()
        self.assertEqual(history.project.bodies[0].vertices["position"].tobytes(), before)


class RuledTest(unittest.TestCase):
    def test_joining_a_ruled_body_leaves_no_rules_behind(self) -> None:
        history = project_with("sheet")
        history.do(AddBody("block", {}, "Rock", (9.0, 0.0, 0.0)))
        history.do(SetRules("Rock", SLOPES))
        history.do(JoinBodies("Body", "Rock"))
        self.assertNotIn("ruled", history.project.bodies[0].vertices.names)
        history.do(stroke("give_back", (9.0, 2.0, 0.0), radius=4.0))
        history.do(SwapGrounds("Bleached ledge", "Thrift turf"))
        history.do(RemoveGround("Shell sand"))
        check_project(history.project)

    def test_a_cure_on_a_ruled_body_is_undone_and_done_again(self) -> None:
        history = project_with("icosphere", radius=5.0, edge=0.6)
        history.do(PlaceBody("Body", scale=(1.0, 1.0, 0.1)))
        history.do(
            SetRules("Body", (*SLOPES, Rule("Shell sand", (Condition("near", {"to": "Thrift turf"}, high=2.0),))))
        )
        first = everything(history.project)
        history.do(Cure("Body", "thin"))
        second = everything(history.project)
        self.assertNotEqual(first, second)
        for _ in range(2):
            history.undo()
            self.assertEqual(everything(history.project), first)
            history.redo()
            self.assertEqual(everything(history.project), second)
        check_project(history.project)


class KeptTest(unittest.TestCase):
    """One test over every command: what is guarded, and a locked border, stays, or the command is refused."""

    def project(self) -> History:
        history = project_with("sheet", size=12.0, depth=10.0, edge=0.5)
        do = history.do
        do(stroke("raise", (0.0, 0, 0), radius=4.0, height=2.0, direction="up"))
        do(LayRelief("Body", "noise", {"size": 1.5, "height": 0.2}, "Grain"))
        do(AddLayer("Body", "By hand"))
        do(stroke("lay", (2.0, 0, 1.0), ground="Thrift turf", radius=2.0))
        do(AddBody("block", {"size": 2.0, "height": 2.0, "depth": 2.0, "edge": 0.5}, "Rock", (3.0, 0.5, 0.0)))
        do(AddBody("sheet", {"size": 5.0, "depth": 5.0, "edge": 0.5}, "Other", (30.0, 0.0, 0.0)))
        for name in ("Body", "Rock"):
            do(GuardFrom(name, "height", low=0.8))
        do(Choose("Body", "all"))
        do(LockBorder("Body"))
        for name in ("Body", "Rock"):
            for domain in ("face", "edge"):
                do(ChooseParts(name, domain, "all"))
                do(ChooseParts(name, domain, "random", share=0.02, seed=4))
        do(ChooseParts("Rock", "face", "height", low=-9.0, high=0.6))
        do(ChooseParts("Other", "face", "all"))
        do(SetViewpoint("Near", (9.0, 4.0, 9.0), (0.0, 0.0, 0.0)))
        return history

    def commands(self, history: History) -> list[Command]:
        ray = (1.5, 20.0, 0.5, 0.0, -1.0, 0.0)
        strokes = [
            stroke(name, ray, (3.0, 20.0, 0.0, 0.0, -1.0, 0.0), radius=3.0, reach=reach, ground=ground, grow=grow)
            for name, ground in (("raise", ""), ("smooth", ""), ("haul", ""), ("stamp", ""), ("lay", "Shell sand"),
                                 ("tint", ""))
            for reach in ("connected", "all")
            for grow in (("off", "both") if name in ("raise", "haul") else ("off",))
        ]  # fmt: skip
        for entry in strokes:
            if entry.brush in ("lay", "tint", "haul", "stamp"):
                entry.settings.pop("grow" if entry.brush in ("lay", "tint") else "", None)
        whole = [
            Reduce("Body", share=0.5), Reduce("Body", share=0.1), Reduce("Rock", share=0.6), Reduce("Body", error=0.05),
            Recast("Body", 0.4), Recast("Body", 1.2), Recast("Rock", 0.3, "surface"), Recast("Rock", 0.3, "volume"),
            Weld("Body", 0.1), Weld("Body", 0.7), EvenOut("Body", 5), Subdivide("Body", True), Subdivide("Body"),
            Subdivide("Rock", True), FillBorders("Body"), Cure("Body", "thin", 40.0), Cure("Body", "valence"),
            Cure("Body", "stretched"), Combine("Rock", "Other"), Bore("Rock", ((0.0, 2.0, 0.0), (6.0, 2.0, 0.0)), 0.4),
            PlaceBody("Body", move=(1.0, 0, 0)), PlaceBody("Rock", turn=(0, 20.0, 0)), PlaceBody("Rock", scale=(2, 2, 2)),
            MirrorBody("Body"), MirrorBody("Rock", "z"), JoinBodies("Body", "Other"), SplitBody("Body"),
            DuplicateBody("Body"), StitchBorders((), 8.0), StitchBorders(("Body", "Other"), 8.0),
        ]  # fmt: skip
        layers = [
            ChangeLayer("Body", "Grain", strength=0.2), ChangeLayer("Body", "Grain", shown=False),
            RemoveLayer("Body", "Grain"), RelayRelief("Body", "Grain", {"size": 3.0, "height": 0.5}),
            FlattenLayers("Body"), LayRelief("Body", "terraces"), LayRelief("Rock", "noise", {"height": 1.0}),
        ]  # fmt: skip
        grounds = [
            SetWeight("Body", "Shell sand", 0.5), Fill("Body", "Shell sand"), Fill("Body", "Shell sand", "chosen"),
            CopyWeights("Body", "Rock", 9.0), SetRules("Body", SLOPES), SetRules("Body", SLOPES, "Shell sand"),
            SetRules("Body", (), "Shell sand"), LayRules("Body"), RemoveGround("Thrift turf"), MoveGround("Thrift turf", 0),
            RemoveGround("Shell sand"), SwapGrounds("Thrift turf", "Bleached ledge"),
            MergeGrounds("Thrift turf", "Bleached ledge"),
        ]  # fmt: skip
        by_hand = [
            entry(name)
            for name in ("Body", "Rock", "Other")
            for entry in (
                lambda name: MoveChosen(name, "face", (0.0, 0.3, 0.0), reach=2.0), Extrude, Inset, Cap, DeleteChosen,
                lambda name: MoveChosen(name, "vertex", turn=(0.0, 20.0, 0.0), about="each"), CollapseChosen,
                lambda name: JitterChosen(name, "face"), lambda name: EvenChosen(name, "vertex", "smooth"), TurnEdges,
                FillChosen, BridgeChosen, ExtendBorder, SplitChosen, Thicken,
                lambda name: CutLevels(name, levels=3), SetFacets, SetCrease,
                lambda name: PlantVertex(name, 7), lambda name: DeleteChosen(name, "vertex", True),
                lambda name: SetDown(name, "centre"), lambda name: LayOnFaces(name, "Shell sand"),
                lambda name: MoveChosen(name, "vertex", (0.0, 0.3, 0.0), slide=True, mirror="x"),
            )
        ]  # fmt: skip
        points = [tuple(LinePoint((x, 0.0, z)) for x, z in way) for way in (
            ((-4.0, -3.0), (0.0, -1.0), (4.0, 0.5)), ((-4.0, 3.0), (-1.0, 3.4), (-1.0, 1.0), (-3.6, 0.8)),
        )]  # fmt: skip
        carried = {"ground": "Shell sand", "cut": True, "tolerance": 0.05, "relief": True, "level": "flat"}
        lines = [
            AddLine(kind, "Body", way, "", {"ground": "Shell sand", **more})
            for kind, way in zip(("track", "outline"), points, strict=True)
            for more in ({}, {"cut": True}, {"relief": True, "low": -0.4, "high": 0.2}, carried)
        ]
        dress: list[Command] = [
            entry(name)
            for name in ("Body", "Rock")
            for entry in (
                lambda name: Strew(name, ((0.0, 0.0, 0.0),), {"radius": 3.0}, {"Shrub": 1.0}),
                lambda name: SetStrewRules(name, (StrewRule("A", {"Scree": 1.0}, {"density": 0.2}),)),
                lambda name: ChangeStrewn(name, (0,), turn=3.0), lambda name: CureProps(name, "floats"), LayProps,
                lambda name: AddWater("level_water", body=name, level=0.3),
                lambda name: BankUp(name, "Other", (), 0.4, 3.0), lambda name: SinkRim(name, "Other", 3.0, 0.1),
                lambda name: LayAround(name, "Other", 9.0), lambda name: LayUv(name, "box"),
                lambda name: UnwrapUv(name, size=64), lambda name: ChangeUv(name, turn=30.0), PackUv,
                lambda name: MarkSeams(name, "sharp", angle=10.0), UnwrapAlongSeams, RelaxUv, StraightenUv, StackUv,
                TurnBackUv, RemoveUv,
                lambda name: LayImages(name, "grounds", (RIPPLE,), ("Scree",), by="above", between=True),
                lambda name: LayImages(name, "tint", (RIPPLE,), by="above", between=True),
                lambda name: FitToViews(name, "refine", 300.0), lambda name: FitToViews(name, "thin_out"),
            )
        ]  # fmt: skip
        return [*strokes, *whole, *layers, *grounds, *by_hand, *lines, *dress, StandBody("Rock", "Body", 0.5, 0.1)]

    def test_every_command_keeps_them_or_says_that_it_cannot(self) -> None:
        refused = kept = 0
        history = self.project()
        for command in self.commands(history):
            project = history.project
            before = everything(project)
            watched = []
            for body in project.bodies[:2]:
                guard = body.vertices["guard"][:, 0] >= 1.0
                rows = np.flatnonzero(guard & (body.corners.first_corner >= 0))
                watched.append((body, placed(body, rows), {  # what lies there, by the names of the grounds
                    name: body.vertices["weight"][rows, i] for i, name in enumerate(project.ground_names)
                }))  # fmt: skip
            border = placed(project.bodies[0], border_of(project.bodies[0]))
            steps = len(history.commands)
            with self.subTest(command=command):
                try:
                    history.do(command)
                except InvalidInput:
                    refused += 1
                    self.assertEqual(everything(project), before)
                    continue
                kept += 1
                there = [body.name for body in project.bodies]
                for body, places, weights in watched:
                    if body.name not in there:
                        continue
                    if not isinstance(command, PlaceBody | MirrorBody | StandBody):
                        now = placed(body, np.flatnonzero(body.corners.first_corner >= 0))
                        self.assertFalse(lost(places, now), "a guarded vertex moved")
                        at = {tuple(place): i for i, place in enumerate(placed(body, np.arange(body.vertices.count)))}
                        rows = np.array([at[tuple(place)] for place in places])
                        for name, old in weights.items():
                            later = np.zeros(rows.size)
                            if name in project.ground_names:
                                later = body.vertices["weight"][rows, project.ground_names.index(name)]
                            np.testing.assert_allclose(later, old, atol=2e-3)
                    if body.border_lock:
                        self.assertFalse(lost(border, placed(body, border_of(body))), "a locked border moved")
                check_project(project)
                if len(history.commands) > steps:
                    history.undo()
                self.assertEqual(everything(project), before)
        self.assertGreater(kept, 30)
        self.assertGreater(refused, 10)
        self.assertGreaterEqual(len({type(command) for command in self.commands(history)}), 44)
        self.assertLess(len(COMMANDS), 116, "a new command that changes bodies belongs into this test")

    def test_a_locked_body_is_left_alone_by_every_command(self) -> None:
        history = self.project()
        history.do(ChangeGuard("Body", "clear"))
        history.do(LockBorder("Body", False))
        history.do(ChangeBody("Body", locked=True))
        before = everything(history.project)
        for command in (Reduce("Body", share=0.5), EvenOut("Body"), Fill("Body", "Shell sand"), AddLayer("Body")):
            with self.assertRaisesRegex(InvalidInput, "locked; unlock it first"):
                history.do(command)
        self.assertEqual(everything(history.project), before)


class ManifoldTest(unittest.TestCase):
    def test_reduce_leaves_a_manifold_of_the_same_kind(self) -> None:
        rng = np.random.default_rng()
        for _ in range(8):
            history = project_with("icosphere", radius=5.0, edge=float(rng.uniform(0.6, 1.0)))
            for _ in range(2):
                at = rng.normal(size=3)
                at *= 5 / np.linalg.norm(at)
                history.do(
                    stroke(("raise", "haul", "roughen")[rng.integers(3)], tuple(at), tuple(at * 1.5), radius=3.0)
                )
            history.do(Recast("Body", 0.6, "surface"))
            for share in (0.9, 0.5, 0.15):
                history.do(Reduce("Body", share=share))
                self.assertEqual(wrong_triangle(history.project.bodies[0].corners), -1)
                history.undo()


if __name__ == "__main__":
    unittest.main()
