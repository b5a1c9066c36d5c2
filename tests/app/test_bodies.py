"""Bodies in the window: operations, import, eye and lock, by mouse."""

import dataclasses
import unittest

import numpy as np
import trimesh
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton
from scipy.spatial.transform import Rotation

from hulmo.app.cards.body_card import BodyCard
from hulmo.app.cards.bore_card import BoreCard
from hulmo.app.cards.export_card import ExportCard
from hulmo.app.cards.inside_card import InsideCard
from hulmo.app.cards.operation_card import OperationCard
from hulmo.app.operations import OPERATIONS
from hulmo.app.stages import STAGES
from hulmo.core.commands import AddBody, Bore, RemoveBody
from hulmo.core.journal import recover
from hulmo.core.mesh.measure import measure
from hulmo.core.mesh.seam import border_of
from hulmo.core.mesh.stitched import STITCHED
from hulmo.core.setting import complete
from tests.app.window import HOME, WindowTest
from tests.bodies import crash

CENTRE = (390, 360)


class BodyTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("icosphere", {"radius": 8.0, "edge": 0.6}, "Islet"))
        self.session.do(
            AddBody("block", {"size": 6.0, "height": 6.0, "depth": 6.0, "edge": 0.6}, "Rock", (7.0, 3.0, 0.0))
        )
        self.session.choose_body(self.session.project.bodies[0].ident)
        self.click(self.window.route.stage_buttons["block"])
        self.settle()

    def test_every_operation_works_by_mouse_and_is_undone(self) -> None:
        card = self.window.card(OperationCard)
        for name, operation in OPERATIONS.items():
            self.session.choose_stage(next(stage for stage in STAGES if stage.name == operation.stage))
            QTest.qWait(20)
            self.click(self.window.route.tool_buttons[f"operation {name}"])
            first = [(body.name, body.vertices["position"].tobytes()) for body in self.session.project.bodies]
            steps = len(self.session.history.commands)
            if name == "reduce":
                self.assertEqual(card.result.text(), "4,500 triangles become 2,250")
            self.click(card.do)
            self.settle()
            if name in (
                "split",
                "close",
                "stitch",
                "sink_rim",
                "change_uv",
                "pack_uv",
                "mark_seams",
                "unwrap_along_seams",
                "relax_uv",
                "straighten_uv",
                "stack_uv",
            ):  # one part, closed, no UV, nothing chosen: said in words
                self.assertRegex(
                    self.window.notice.text.text(),
                    "one connected part|closed already|move the bodies together|[Nn]o part of|has no UV|[Nn]o edge|no seam",
                )
                self.assertEqual(len(self.session.history.commands), steps)
                continue
            self.assertEqual(len(self.session.history.commands), steps + (name != "weld"), operation.label)
            if name == "combine":
                self.assertEqual(len(self.session.project.bodies), 1)
                self.assertTrue(measure(self.session.project.bodies[0]).closed)
            while len(self.session.history.commands) > steps:
                self.session.undo()
            now = [(body.name, body.vertices["position"].tobytes()) for body in self.session.project.bodies]
            self.assertEqual(now, first, name)

    def test_operations_are_shown_before_they_are_done(self) -> None:
        card = self.window.card(OperationCard)
        for name in ("reduce", "combine", "mirror", "recast"):
            self.click(self.window.route.tool_buttons[f"operation {name}"])
            first = [(body.name, body.vertices["position"].tobytes()) for body in self.session.project.bodies]
            steps, pixels = len(self.session.history.commands), self.pixels()
            self.click(card.show_now)
            self.settle()
            shown = [(body.name, body.vertices["position"].tobytes()) for body in self.session.project.bodies]
            self.assertNotEqual(shown, first, name)
            self.assertEqual(len(self.session.history.commands), steps, "only shown")
            self.assertIn("Only shown", card.result.text())
            if name != "mirror":  # a ball is its own mirror image
                self.assertGreater(int((np.abs(self.pixels() - pixels).max(axis=2) > 8).sum()), 100, name)
            self.click(card.back)
            self.settle()
            now = [(body.name, body.vertices["position"].tobytes()) for body in self.session.project.bodies]
            self.assertEqual(now, first, name)
            self.click(card.show_now)
            self.settle()
            self.click(card.do)
            self.settle()
            now = [(body.name, body.vertices["position"].tobytes()) for body in self.session.project.bodies]
            self.assertEqual(now, shown, f"{name} keeps what was shown")
            self.assertEqual(len(self.session.history.commands), steps + 1)
            self.session.undo()

    def test_borders_are_stitched_and_stroked_across(self) -> None:
        for name in ("Islet", "Rock"):
            self.session.do(RemoveBody(name))
        for name, x in (("West", -5.0), ("East", 5.0)):
            self.session.do(AddBody("sheet", {"size": 10.0, "depth": 10.0, "edge": 0.5}, name, (x, 0.0, 0.0)))
        self.key(Qt.Key.Key_Home)
        self.click(self.window.route.tool_buttons["operation stitch"])
        self.click(self.window.card(OperationCard).do)
        self.settle()
        west, east = self.session.project.bodies
        self.assertTrue(all(STITCHED in body.vertices for body in (west, east)))
        self.session.choose_body(west.ident)
        self.stage("sculpt", "brush raise")
        self.session.brushes.set("raise", "radius", 2.5)
        start, end = (self._seen((x, 0.0, 0.0)) for x in (-1.0, 2.0))
        self.drag([start, end])
        self.settle()
        for body in (west, east):
            self.assertGreater(float(body.vertices["position"][:, 1].max()), 0.05, body.name)
        rims = [body.placed(body.vertices["position"][border_of(body)]) for body in (west, east)]
        on = [rim[np.abs(rim[:, 0]) < 1e-6] for rim in rims]
        np.testing.assert_array_equal(*(rim[np.argsort(rim[:, 2])] for rim in on))
        self.session.undo()
        self.assertEqual(float(max(body.vertices["position"][:, 1].max() for body in (west, east))), 0.0)
        # over neighbours, the pointer has a ring as well
        self.mouse("move", self.canvas, QPoint(*end))
        self.settle()
        self.assertIsNotNone(self.canvas.overlay.marks.ring)

    def _seen(self, place: tuple[float, float, float]) -> tuple[int, int]:
        at = self.canvas.camera.to_screen(np.array([place]), self.canvas.width(), self.canvas.height())[0]
        return round(float(at[0])), round(float(at[1]))

    def test_a_body_is_placed_by_east_up_and_north(self) -> None:
        # east is +x, up +y, north -z; turns are right-handed about each: rotations of SciPy beside ours
        body = self.session.project.bodies[1]
        for axis, way in (("east", (1.0, 0.0, 0.0)), ("up", (0.0, 1.0, 0.0)), ("north", (0.0, 0.0, -1.0))):
            begin = body.vertices["position"].copy()
            middle = (begin.max(axis=0) + begin.min(axis=0)) / 2
            turn = Rotation.from_rotvec(np.radians(30.0) * np.array(way)).as_matrix()
            names = (f"move_{axis}", f"turn_{axis}", f"scale_{axis}")
            for name, value, expected in (
                (names[0], 4.0, begin + 4.0 * np.array(way)),
                (names[1], 30.0, (begin - middle) @ turn.T + middle),
                (names[2], 200.0, (begin - middle) * (1 + np.abs(way)) + middle),
            ):
                self.session.choose_body(body.ident)
                command = OPERATIONS["place"].command(
                    body, complete(OPERATIONS["place"].settings, {name: value}, ""), ""
                )
                self.assertNotIn("-0.0", repr(command))
                self.session.do(command)
                np.testing.assert_allclose(body.vertices["position"], expected, atol=2e-5, err_msg=name)
                self.session.undo()

    def test_passages_are_bored_by_a_press_and_along_a_path(self) -> None:
        body = self.session.project.bodies[0]
        self.key(Qt.Key.Key_O)
        card = self.window.card(BoreCard)
        before = self.pixels()
        self.mouse("move", self.canvas, QPoint(330, 400))
        self.click(self.canvas, QPoint(330, 400))
        self.settle()
        self.assertEqual((measure(body).genus, measure(body).closed), (1, True))
        self.assertGreater(np.abs(self.pixels() - before)[380:420, 310:350].mean(), 5)
        self.session.undo()
        how = card.panel.fields["how"]
        how.box.setCurrentIndex(1)
        how.box.activated.emit(1)
        for x, depth in ((300, 0.0), (330, 5.0), (360, 5.0)):
            card.panel.fields["depth"]._choose(depth)
            self.click(self.canvas, QPoint(x, 400))
        self.assertEqual(len(self.session.bore.points), 3)
        self.click(card.back)
        self.assertEqual(self.canvas.overlay.marks.path.shape, (2, 3))
        count = body.corners.live_count
        self.click(card.cut)
        self.settle()
        self.assertGreater(body.corners.live_count, count)
        self.assertEqual(measure(body).genus, 0, "one end is blind")

    def test_a_section_cuts_the_view_and_not_the_body(self) -> None:
        self.session.do(RemoveBody("Rock"))
        self.session.do(Bore("Islet", ((-12.0, 0, 0), (12.0, 0, 0)), radius=3.0, irregularity=0.0))
        self.stage("sculpt", "brush raise")
        self.canvas.frame_all()
        self.canvas.hand.look(dataclasses.replace(self.canvas.camera, bearing=np.pi, altitude=0.0))
        whole, body = self.pixels(), self.session.project.bodies[0]
        before = body.vertices["position"].copy()
        self.key(Qt.Key.Key_9)
        card = self.window.card(InsideCard)
        self.assertTrue(card.isVisible())
        ahead = np.degrees(np.arctan2(self.canvas.camera.back[0], -self.canvas.camera.back[2])) % 360
        card.panel.fields["bearing"]._choose(float(round(ahead)))
        cut = self.pixels()
        self.assertGreater(np.abs(cut - whole)[250:480, 280:500].mean(), 10)
        middle = (self.canvas.width() // 2, self.canvas.height() // 2)
        self.drag([(middle[0] - 10, middle[1]), (middle[0] + 10, middle[1])])
        moved = np.linalg.norm(body.vertices["position"] - before, axis=1) > 0.01
        self.assertTrue(moved.any())
        toward = before[moved] @ self.canvas.camera.back
        self.assertLess(float(toward.max()), 1.0, "the far wall of the passage, not the side that was cut away")
        self.assertLess(float(np.linalg.norm(before[moved], axis=1).min()), 7.9)
        steps = len(self.session.history.commands)
        self.drag([(middle[0], middle[1] - 140), (middle[0] + 10, middle[1] - 140)])
        self.assertEqual(len(self.session.history.commands), steps, "a cap takes no brush")
        card.panel.fields["lamp"]._choose(400.0)
        self.assertGreater(float((self.pixels() - cut)[middle[1] - 20 : middle[1] + 20, 370:410].mean()), 3)
        self.key(Qt.Key.Key_9)
        self.assertFalse(card.isVisible())
        self.assertLess(np.abs(self.pixels() - whole)[100:200, 100:200].mean(), 0.5)

    def test_eye_lock_name_and_duplicate(self) -> None:
        card = self.window.card(BodyCard)
        both = self.pixels()
        row = card.list.itemWidget(card.list.item(1))
        assert row is not None
        eye, _ = row.findChildren(QToolButton)
        self.click(eye)
        self.assertFalse(self.session.project.bodies[1].shown)
        self.assertGreater(np.abs(self.pixels() - both).mean(), 1.0)
        row = card.list.itemWidget(card.list.item(0))
        assert row is not None
        self.click(row.findChildren(QToolButton)[1])
        self.stage("sculpt", "brush raise")
        before = self.session.project.bodies[0].vertices["position"].copy()
        self.drag([(340, 380), (400, 400)])
        self.assertRegex(self.window.notice.text.text(), "is locked; unlock it first")
        np.testing.assert_array_equal(self.session.project.bodies[0].vertices["position"], before)
        self.click(self.window.route.stage_buttons["block"])
        card.name.setFocus()
        card.name.selectAll()
        QTest.keyClicks(card.name, "Holm")
        QTest.keyClick(card.name, Qt.Key.Key_Return)
        self.assertEqual(self.session.project.bodies[0].name, "Holm")
        self.click(card.duplicate)
        self.assertEqual([body.name for body in self.session.project.bodies], ["Holm", "Rock", "Holm 2"])
        self.assertEqual(self.session.body, self.session.project.bodies[2])

    def test_a_mesh_is_imported_sculpted_and_exported_again(self) -> None:
        torus = trimesh.creation.torus(5.0, 2.0)
        faces = np.vstack((torus.faces, torus.faces[:3]))
        trimesh.Trimesh(torus.vertices, faces, process=False).export(HOME / "ring.obj")
        self.session.new()
        self.settle()
        self.click(self.window.route.tool_buttons["action import"])
        self.pick(self.dialog(), "ring.obj")
        self.wait(lambda: bool(self.session.project.bodies))
        self.settle()
        self.assertRegex(self.window.notice.text.text(), "Import ring .*3 triangles left out: they were there twice")
        self.click(self.window.notice.close_button)
        before = self.position.copy()
        self.wait(
            lambda: not self.session.safety.journal.due and not self.session.safety.journal.writing
        )  # a snapshot was taken
        (HOME / "ring.obj").unlink()
        self.stage("sculpt", "brush raise")
        screen = self.canvas.camera.to_screen(before.astype(float), self.canvas.width(), self.canvas.height())
        top = screen[np.argmin(screen[:, 2]), :2]
        self.drag([(int(top[0]), int(top[1])), (int(top[0]) + 15, int(top[1]) + 5)])
        self.assertGreater(float(np.abs(self.position - before).max()), 0.1)
        crash(self.session.safety.journal)
        came_back = recover(self.session.safety.leftovers()[0]).history
        np.testing.assert_array_equal(came_back.project.bodies[0].vertices["position"], self.position)
        self.session.safety.leftovers()[0].discard()
        self.click(self.window.route.stage_buttons["deliver"])
        self.window.card(ExportCard).write(HOME / "ring.glb")
        self.settle()
        again = trimesh.load(HOME / "ring.glb", force="mesh")
        self.assertEqual(len(again.faces), len(torus.faces))


if __name__ == "__main__":
    unittest.main()
