"""The window by mouse and keys: what the project and the pixels became."""

import os
import pathlib
import subprocess
import sys
import unittest
from unittest import mock

import numpy as np
import trimesh
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QMessageBox, QWidget

from hulmo.app import theme
from hulmo.app.cards.body_card import BodyCard
from hulmo.app.cards.brush_card import BrushCard
from hulmo.app.cards.export_card import ExportCard
from hulmo.app.cards.fill_card import FillCard
from hulmo.app.cards.form_card import FormCard
from hulmo.app.cards.ground_card import GroundCard
from hulmo.app.cards.light_card import LightCard
from hulmo.app.main_window import MainWindow
from hulmo.app.session import Session
from hulmo.app.sheet import CardSheet, ProcessorSheet
from hulmo.app.stages import STAGES
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import SetBlend, Stroke
from hulmo.core.io.project_file import open_project
from hulmo.core.kernel_files import cache_folder
from hulmo.core.setting import number
from hulmo.demo import demo_file
from tests.app.window import HOME, MIDDLE, RIGHT, WindowTest, keys_of
from tests.bodies import crash

CENTRE = (390, 360)


class RouteTest(WindowTest):
    def test_from_nothing_to_an_exchange_file_by_mouse_alone(self) -> None:
        window = self.window
        self.build()
        self.assertEqual(self.session.project.bodies[0].vertices.count, 10 * 44**2 + 2)
        before, plain = self.position.copy(), self.pixels()

        self.stage("sculpt", "brush raise")
        self.drag([(330, 350), CENTRE, (450, 370)])
        raised = self.position.copy()
        away = np.linalg.norm(raised, axis=1)
        self.assertGreater(float(away.max()), 10.3)
        self.assertLess(float(away.max()), 10.55, "one coat of 50 % of 1 m")
        hill = self.pixels()
        self.assertGreater(np.abs(hill - plain)[300:420, 320:460].mean(), 1.0)
        self.assertLess(np.abs(hill - plain)[600:, :150].mean(), 0.5, "the sky stays as it is")

        self.click(window.heading.buttons["undo"])
        np.testing.assert_array_equal(self.position, before)
        np.testing.assert_array_equal(self.pixels(), plain)
        self.click(window.heading.buttons["redo"])
        np.testing.assert_array_equal(self.position, raised)

        self.click(window.route.stage_buttons["ground"])
        for swatch, y in ((2, 300), (3, 440)):
            self.click(window.card(GroundCard).swatches[swatch])
            self.drag([(340, y), (440, y)])
        self.assertGreater(float(self.weight[:, 2].max()), 0.4)
        self.assertGreater(float(self.weight[:, 3].max()), 0.4)
        np.testing.assert_allclose(self.weight.sum(axis=1), 1, atol=1e-6)
        painted = self.pixels()
        patch = (painted - hill)[425:455, 360:420].reshape(-1, 3).mean(axis=0)
        self.assertTrue((patch > 10).all(), "pale sand over dark rock is brighter")
        green = (painted - hill)[285:315, 360:420].reshape(-1, 3).mean(axis=0)
        self.assertGreater(green[1], green[2] + 5, "turf is greener than rock")

        self.click(window.heading.buttons["save"])
        self.accept(self.dialog())
        saved = HOME / "Untitled.hulmo"
        self.assertTrue(saved.exists())
        self.assertFalse(self.session.unsaved)
        weights = self.weight.copy()

        self.click(window.heading.buttons["new"])
        self.settle()
        self.assertEqual(self.session.project.bodies, ())
        self.click(window.heading.buttons["open"], QPoint(20, 15))
        self.pick(self.dialog(), "Untitled.hulmo")
        self.wait(lambda: bool(self.session.project.bodies))
        np.testing.assert_array_equal(self.position, raised)
        np.testing.assert_array_equal(self.weight, weights)
        self.assertGreater(self.pixels()[200:500, 250:550].std(), 10)

        self.stage("deliver", "export glb")
        self.click(window.card(ExportCard).button)
        self.accept(self.dialog())
        mesh = trimesh.load(HOME / "Untitled.glb", process=False).geometry["Icosphere"]
        np.testing.assert_array_equal(mesh.vertices.astype(np.float32), raised)
        used = weights[:, weights.any(axis=0)]  # what lies nowhere is not delivered
        np.testing.assert_allclose(
            mesh.vertex_attributes["_GROUND_0"][:, : used.shape[1]] / 65535, used, atol=1.5 / 65535
        )

    def test_keys_reach_every_tool(self) -> None:
        self.build("sheet")
        for name, brush in BRUSHES.items():
            self.key(*keys_of(brush.key))
            self.assertEqual((self.session.tool.kind, self.session.tool.name), ("brush", name))
        for number_key, stage in enumerate(STAGES, 1):
            self.key(getattr(Qt.Key, f"Key_F{number_key}"))
            self.assertIs(self.session.stage, stage)
        self.key(Qt.Key.Key_3, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.session.tool.name, "column")
        self.key(Qt.Key.Key_3)
        self.assertEqual(self.canvas.look, "form")
        self.window.card(GroundCard).swatches[1].chosen.emit()
        self.key(Qt.Key.Key_F4)
        self.key(Qt.Key.Key_F)
        self.click(self.window.card(FillCard).go)
        self.assertTrue((self.weight[:, 1] == 1).all())
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue((self.weight[:, 0] == 1).all())

    def test_every_control_of_every_tool_has_a_name_and_a_tooltip(self) -> None:
        self.build("sheet")
        seen = set()
        for tool in (tool for stage in STAGES for tool in stage.tools):
            self.session.choose_tool(tool)
            QTest.qWait(1)
            self.wait(lambda: not self.session.busy)
            for widget in self.window.findChildren(QWidget):
                inner = widget.objectName().startswith("qt_")  # parts that Qt makes, of a control that has a name
                if inner or widget.focusPolicy() == Qt.FocusPolicy.NoFocus or not widget.isVisible():
                    continue
                what = f"{widget.metaObject().className()} {widget.accessibleName()!r} of {tool.ident}"  # type: ignore[union-attr]
                self.assertTrue(widget.accessibleName(), what)
                self.assertTrue(widget.toolTip() or widget is self.canvas, what)
                seen.add(widget)
        self.assertGreater(len(seen), 250)

    def test_it_fits_a_small_screen_and_both_themes(self) -> None:
        self.build("sheet")
        self.window.resize(1024, 700)
        self.settle()
        self.assertLessEqual(self.window.width(), 1024)
        for chosen in (theme.NIGHT, theme.DAY):
            self.window.set_theme(chosen)
            self.settle()
            shade = self.window.grab().toImage().pixelColor(90, 600).lightness()
            self.assertEqual(shade < 128, chosen is theme.NIGHT)


class HandTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.build()
        self.stage("sculpt", "brush raise")

    def test_control_lowers_and_shift_smooths(self) -> None:
        self.session.brushes.set("raise", "radius", 1.2)
        self.drag([CENTRE, (395, 360)], keys=Qt.KeyboardModifier.ControlModifier)
        low = float(np.linalg.norm(self.position, axis=1).min())
        self.assertLess(low, 9.6)
        self.drag([(370, 340), (410, 380), (370, 380)], keys=Qt.KeyboardModifier.ShiftModifier)
        self.assertGreater(float(np.linalg.norm(self.position, axis=1).min()), low + 0.01)
        self.assertEqual([entry.brush for entry in self.session.history.commands[1:]], ["raise", "smooth"])  # type: ignore[attr-defined]

    def test_each_brush_does_its_work_by_mouse(self) -> None:
        first = self.pixels()
        for brush in BRUSHES.values():
            if brush.column != "position" or brush.remeshes:
                continue
            self.click(self.window.route.tool_buttons[f"brush {brush.name}"])
            before = self.position.copy()
            if brush.name in ("smooth", "level", "shave", "infill"):
                # something uneven to work on
                self.session.do(
                    Stroke("Icosphere", "roughen", ((0.0, 0, 20, 0, 0, -1),), {"radius": 9.0, "height": 1.5})
                )
                before = self.position.copy()
            steps = len(self.session.history.commands)
            self.drag([(360, 350), CENTRE, (420, 400)])
            self.assertEqual(len(self.session.history.commands), steps + 1, brush.name)
            moved = np.linalg.norm(self.position - before, axis=1)
            self.assertGreater(float(moved.max()), 0.01, brush.name)
            self.assertLess((moved > 0).mean(), 0.5, f"{brush.name} reaches too far")
            if brush.inverse:
                before = self.position.copy()
                self.drag([(360, 350), (420, 400)], keys=Qt.KeyboardModifier.ControlModifier)
                self.assertTrue(self.session.history.last_command.invert, brush.name)  # type: ignore[union-attr]
                self.assertGreater(float(np.linalg.norm(self.position - before, axis=1).max()), 0.01)
        self.assertGreater(np.abs(self.pixels() - first)[250:500, 280:520].mean(), 1.0)
        while self.session.history.undo():
            pass
        self.assertEqual(self.session.project.bodies, ())

    def test_brackets_and_the_size_key_change_the_brush(self) -> None:
        values = self.session.brushes.of("raise")
        self.key(Qt.Key.Key_BracketRight)
        self.assertAlmostEqual(number(values, "radius"), 4.6, places=6)
        self.key(Qt.Key.Key_BracketLeft)
        self.assertAlmostEqual(number(values, "radius"), 4.0, places=6)
        self.canvas.setFocus()
        before = self.position.copy()
        QTest.keyPress(self.window.windowHandle(), Qt.Key.Key_B)
        self.drag([CENTRE, (510, 330)])
        QTest.keyRelease(self.window.windowHandle(), Qt.Key.Key_B)
        self.assertAlmostEqual(number(values, "radius"), 4.0 * np.e, delta=0.1)
        self.assertAlmostEqual(number(values, "strength"), 60.0, delta=1)
        np.testing.assert_array_equal(self.position, before)
        self.assertEqual(self.window.card(BrushCard).stack.panels["raise"].values["radius"], values["radius"])

    def test_views_turn_move_zoom_and_frame(self) -> None:
        start = self.canvas.camera
        self.drag([CENTRE, (450, 330)], RIGHT)
        turned = self.canvas.camera
        self.assertNotAlmostEqual(turned.bearing, start.bearing)
        self.drag([CENTRE, (430, 390)], MIDDLE)
        self.assertGreater(float(np.linalg.norm(self.canvas.camera.target - turned.target)), 0.1)
        here = self.canvas.camera.distance
        self.wheel(QPoint(*CENTRE), 3)
        self.assertAlmostEqual(self.canvas.camera.distance, here * 0.86**3, places=6)
        self.key(Qt.Key.Key_Home)
        self.assertAlmostEqual(self.canvas.camera.distance, start.distance, delta=0.2)
        np.testing.assert_allclose(self.canvas.camera.target, start.target, atol=0.05)
        self.canvas.setFocus()
        self.key(Qt.Key.Key_Left)
        self.assertNotAlmostEqual(self.canvas.camera.bearing, turned.bearing)
        self.assertEqual(len(self.session.history.commands), 1, "looking changes nothing")

    def test_the_ring_and_the_reading_follow_the_pointer(self) -> None:
        self.mouse("move", self.canvas, QPoint(*CENTRE))
        QTest.qWait(20)
        ring = self.canvas.overlay.marks.ring
        assert ring is not None
        np.testing.assert_allclose(np.linalg.norm(ring.rim, axis=1), 10, atol=0.15)
        self.assertEqual(ring.label, "4 m")
        self.assertRegex(
            self.window.reading.under,
            r"height -?\d+\.\d\d m   slope \d+°   ridge r 10 m   edge 0\.\d+ m   Bleached ledge 100 %",
        )
        self.mouse("move", self.canvas, QPoint(10, 700))
        QTest.qWait(20)
        self.assertIsNone(self.canvas.overlay.marks.ring)
        self.assertEqual(self.window.reading.under, "")

    def test_numbers_are_typed_dragged_and_reset(self) -> None:
        field = self.window.card(BrushCard).stack.panels["raise"].fields["radius"]
        self.click(field.edit)  # type: ignore[union-attr]
        field.edit.selectAll()  # type: ignore[union-attr]
        for key in (Qt.Key.Key_2, Qt.Key.Key_Period, Qt.Key.Key_5, Qt.Key.Key_Return):
            self.key(key)
        self.assertEqual(self.session.brushes.of("raise")["radius"], 2.5)
        field.edit.setText("a lot")  # type: ignore[union-attr]
        self.key(Qt.Key.Key_Return)
        self.assertEqual(self.session.brushes.of("raise")["radius"], 2.5)
        ruler = field.ruler  # type: ignore[union-attr]
        self.click(ruler, QPoint(ruler.width() - 8, 8))
        self.assertGreater(number(self.session.brushes.of("raise"), "radius"), 45.0)
        self.click(field._reset)  # type: ignore[union-attr]
        self.assertEqual(self.session.brushes.of("raise")["radius"], 4.0)

    def test_a_stroke_off_the_body_and_strange_buttons_do_nothing(self) -> None:
        before = self.position.copy()
        self.drag([(10, 700), (60, 690)])
        self.mouse("press", self.canvas, QPoint(*CENTRE))
        self.mouse("press", self.canvas, QPoint(*CENTRE), RIGHT)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.mouse("release", self.canvas, QPoint(*CENTRE), RIGHT)
        self.mouse("release", self.canvas, QPoint(*CENTRE))
        self.assertEqual(len(self.session.history.commands), 2)
        self.session.undo()
        np.testing.assert_array_equal(self.position, before)


class CareTest(WindowTest):
    def test_closing_with_unsaved_work_asks(self) -> None:
        self.build("sheet")
        self.window.close()
        box = self.question()
        self.press(box, "Stay here")
        self.assertTrue(self.window.isVisible())
        self.window.close()
        self.press(self.question(), "Save")
        self.accept(self.dialog())
        self.wait(lambda: not self.window.isVisible())
        self.assertEqual(len(open_project(HOME / "Untitled.hulmo").bodies), 1)

    def test_problems_are_told_and_nothing_is_lost(self) -> None:
        self.build("sheet")
        before = self.position.copy()
        torn = HOME / "torn.hulmo"
        torn.write_bytes(b"PK nothing")
        self.session.open(torn)
        self.settle()
        self.assertRegex(self.window.notice.text.text(), "torn.hulmo: no Hulmo project")
        self.assertTrue(self.window.notice.isVisible())
        np.testing.assert_array_equal(self.position, before)
        self.session.save(pathlib.Path("/proc/never.hulmo"))
        self.settle()
        self.assertRegex(self.window.notice.text.text(), "not written")
        self.assertTrue(self.session.unsaved)
        self.click(self.window.notice.close_button)
        self.assertFalse(self.window.notice.isVisible())

    def test_long_work_can_be_stopped(self) -> None:
        self.stage("block", "form sheet")
        panel = self.window.card(FormCard).stack.panels["sheet"]
        panel.set_values({"size": 1000.0, "depth": 1000.0, "edge": 0.5})
        panel.changed.emit("edge", 0.5)
        self.assertIn("4,004,001 vertices", self.window.card(FormCard).counts.text())
        self.click(self.window.card(FormCard).build)
        self.click(next(b for b in self.question().buttons() if b.text() == "Go on"))
        self.wait(lambda: self.window.reading.stop.isVisible())
        self.click(self.window.reading.stop)
        self.settle()
        self.assertEqual(self.session.project.bodies, ())
        self.assertRegex(self.window.notice.text.text(), "Stopped. Nothing was changed")
        panel.set_values({"edge": 0.0001})
        panel.changed.emit("edge", 0.0001)
        self.assertFalse(self.window.card(FormCard).build.isEnabled())
        self.assertIn("at most", self.window.card(FormCard).counts.text())

    def test_a_dragged_ruler_is_one_step(self) -> None:
        self.build("sheet")
        steps = len(self.session.history.commands)
        self.stage("light", "light sun")
        ruler = self.window.card(LightCard).panel.fields["altitude"].ruler  # type: ignore[union-attr]
        self.mouse("press", ruler, QPoint(60, 8))
        for x in range(60, 200, 10):
            self.mouse("move", ruler, QPoint(x, 8))
        self.mouse("release", ruler, QPoint(200, 8))
        self.assertEqual(len(self.session.history.commands), steps + 1)
        self.assertGreater(self.session.project.light.altitude, 55)

    def test_undoing_past_a_save_and_crashing_loses_nothing(self) -> None:
        self.build("sheet")
        self.session.do(Stroke("Sheet", "raise", ((0.0, 9, 0, 0, -1, 0),)))
        self.session.save(HOME / "past.hulmo")
        self.settle()
        self.session.undo()
        expected = self.position.copy()
        dead = crash(self.session.safety.journal)
        self.session.history.mark_saved()
        self.session.new()
        self.session.recover(self.session.safety.leftovers()[0])
        self.settle()
        np.testing.assert_array_equal(self.position, expected)
        self.assertEqual(self.session.path, HOME / "past.hulmo")
        self.assertTrue(self.session.unsaved)
        self.assertEqual(self.session.safety.journal.place, dead, "work goes on in the journal that was brought back")

    def test_work_on_a_copy_of_the_demo_survives_a_crash(self) -> None:
        self.session.open(demo_file("tern-skerry"), as_copy=True)
        self.settle()
        self.session.do(Stroke("Skerry", "raise", ((60.0, 15, 0, -1, 0, 0),)))
        expected = self.position.copy()
        crash(self.session.safety.journal)
        self.session.history.mark_saved()
        self.session.new()
        found = self.session.safety.leftovers()
        self.assertEqual([(entry.path, entry.steps) for entry in found], [(None, 1)])
        self.session.recover(found[0])
        self.settle()
        np.testing.assert_array_equal(self.position, expected)
        self.assertIsNone(self.session.path, "saving must not write over the shipped demo")
        self.assertTrue(self.session.unsaved)

    def test_the_border_is_locked_by_a_press(self) -> None:
        self.build("sheet")
        self.click(self.window.card(BodyCard).lock, QPoint(8, 10))
        body = self.session.body
        assert body is not None
        self.assertTrue(body.border_lock)
        self.click(self.window.heading.buttons["undo"], QPoint(20, 15))
        self.assertFalse(body.border_lock)
        self.assertFalse(self.window.card(BodyCard).lock.isChecked())
        self.build("icosphere")
        self.assertFalse(self.window.card(BodyCard).lock.isVisible(), "a closed body has no border")

    def test_the_list_of_steps_jumps_both_ways(self) -> None:
        self.build("sheet")
        states = [self.position.copy()]
        for x in (-5.0, 0.0, 5.0):
            self.session.do(Stroke("Sheet", "raise", ((x, 9, 0, 0, -1, 0),)))
            states.append(self.position.copy())
        menu = self.window.heading.buttons["undo"].menu()
        assert menu is not None
        for step in (1, 4, 2, 3):
            menu.aboutToShow.emit()
            names = [action.text() for action in menu.actions()]
            self.assertEqual(names, ["As it was at first", "Add Sheet", "Raise", "Raise", "Raise"])
            menu.actions()[step].trigger()
            np.testing.assert_array_equal(self.position, states[step - 1])
            menu.aboutToShow.emit()
            self.assertEqual([a.isChecked() for a in menu.actions()].index(True), step)
        menu.actions()[0].trigger()
        self.assertEqual(self.session.project.bodies, ())
        self.assertTrue(self.window.heading.buttons["undo"].isEnabled(), "the way forward must stay reachable")

    def test_what_a_crash_left_is_offered_and_comes_back(self) -> None:
        self.build("sheet")
        self.session.do(SetBlend("linear"))
        dead = crash(self.session.safety.journal)
        self.session.history.mark_saved()
        self.session.new()
        self.window.tell_leftovers()
        self.assertRegex(self.window.notice.text.text(), "project that was never saved has 2 steps")
        self.click(next(b for b in self.window.notice.findChildren(QAbstractButton) if b.text() == "Bring back"))
        self.settle()
        self.assertEqual((len(self.session.project.bodies), self.session.project.blend.mode), (1, "linear"))
        self.assertTrue(self.session.unsaved)
        self.assertEqual(self.session.safety.journal.place, dead)

    def press(self, box: QMessageBox, label: str) -> None:
        QTest.qWait(30)
        self.click(next(button for button in box.buttons() if button.text().replace("&", "") == label))
        self.wait(lambda: not box.isVisible())


class CardTest(WindowTest):
    """The window as a graphics card draws it, here with OpenGL by the processor all the same."""

    def setUp(self) -> None:
        with mock.patch("hulmo.app.canvas.make_sheet", lambda drawing, parent: CardSheet(drawing, parent)):
            super().setUp()

    def test_it_shows_the_same_picture_and_follows_the_hand(self) -> None:
        self.assertIsInstance(self.canvas.sheet, CardSheet)
        self.build()
        self.stage("sculpt", "brush raise")
        before = self.pixels()
        self.drag([CENTRE, (395, 360)])
        after = self.pixels()
        self.assertGreater(np.abs(after - before).max(), 20)
        self.window.set_theme(theme.NIGHT)
        self.window.set_theme(theme.DAY)
        np.testing.assert_array_equal(self.pixels(), after)
        # the same project in a window that is drawn by the processor
        camera, size = self.canvas.camera, self.canvas.size()
        self.session.save(HOME / "a.hulmo")
        self.settle()
        card = self.canvas
        self.session = Session()
        self.session.open_now(HOME / "a.hulmo")
        other = MainWindow(self.session)
        other.resize(self.window.size())
        other.show()
        self.canvas = other.canvas
        self.assertIsInstance(self.canvas.sheet, ProcessorSheet)
        self.settle()
        self.assertEqual(self.canvas.size(), size)
        self.canvas.hand.look(camera)
        self.assertLessEqual(int(np.abs(self.pixels() - after).max()), 2)
        other.close()
        self.canvas, self.session = card, self.window.session


class StartTest(unittest.TestCase):
    def test_the_demo_opens_and_compiles_nothing(self) -> None:
        def compiled() -> set[str]:
            return {path.name for path in cache_folder().rglob("*.nb?")}

        before = compiled()
        done = subprocess.run(
            [sys.executable, "-m", "hulmo.cli", "demo"],
            env={**os.environ, "HULMO_EXIT_AFTER_FIRST_FRAME": "1"},
            capture_output=True,
            text=True,
            check=False,
            timeout=120,
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertRegex(done.stdout, r"first frame after \d+\.\d+ s")
        self.assertEqual(compiled(), before)


if __name__ == "__main__":
    unittest.main()
