"""Manners of the window, in a real one: previews that stay previews, keys that reach, fields that say what is wrong."""

import time
import unittest
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget

import hulmo.app.session
from hulmo.app.cards import CARDS, rule_card
from hulmo.app.cards.body_card import BodyCard
from hulmo.app.cards.brush_card import BrushCard
from hulmo.app.cards.card import Card
from hulmo.app.cards.export_card import ExportCard
from hulmo.app.cards.form_card import FormCard
from hulmo.app.cards.ground_card import GroundCard
from hulmo.app.cards.inside_card import InsideCard
from hulmo.app.cards.layer_card import LayerCard
from hulmo.app.cards.look_card import LookCard
from hulmo.app.cards.relief_card import ReliefCard
from hulmo.app.cards.rule_card import RuleCard
from hulmo.app.fields.read_number import read_number
from hulmo.app.main_window import MainWindow
from hulmo.app.session import Session
from hulmo.app.stages import STAGES, tool_named
from hulmo.core.commands import AddBody, ChangeLayer, LayRelief, SetName, SetRules, UseRules
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.rule_sets import shipped_rule_sets
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.io.project_file import open_project
from tests.app.window import HOME, NONE, WindowTest


class MannersTest(WindowTest):
    def build(self, edge: float = 0.5) -> np.ndarray:
        self.session.do(AddBody("icosphere", {"radius": 5.0, "edge": edge}, "Ball"))
        self.settle()
        return self.session.body.vertices["position"].copy()  # type: ignore[union-attr]

    def test_cards_are_made_when_they_are_first_seen(self) -> None:
        session = Session()
        session.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.5}, "Ball"))
        window = MainWindow(session)
        window.resize(1280, 800)
        window.show_project()
        self.assertTrue(session.held, "work in the background waits for the first picture")

        def made() -> list[type[Card]]:
            column = window.cards.widget()
            assert column is not None and column.layout() is not None
            there = column.findChildren(Card)
            return [type(card) for card in sorted(there, key=column.layout().indexOf)]  # type: ignore[union-attr]

        self.assertLess(len(made()), 6)
        window.show()
        self.assertTrue(QTest.qWaitForWindowExposed(window))
        for stage in STAGES:
            session.choose_stage(stage)
            for tool in stage.tools:
                if tool.kind != "action":
                    session.choose_tool(tool)
                    shown = {type(card) for card in window.cards.findChildren(Card) if not card.isHidden()}
                    self.assertEqual(shown, {kind for kind in CARDS if kind.seen(session)}, tool.label)
                    self.assertEqual(made(), [kind for kind in CARDS if kind in made()], "in their order")
        self.assertNotIn(InsideCard, made(), "nothing has asked for it")
        self.wait(lambda: len(made()) == len(CARDS))
        self.assertFalse(session.held)
        session.start_job(lambda progress: time.sleep(0.2), lambda _: None)
        job = session.job
        session.end_work()
        self.assertTrue(job is not None and job.isFinished(), "a thread must not outlive the application")
        self.wait(lambda: not session.busy)
        window.close()
        window.deleteLater()

    def test_ridge_or_hollow_can_be_chosen_on_a_large_body(self) -> None:
        self.build(0.2)
        bend = Rule("Shell sand", (Condition("bend", {}, None, -10.0, 0.0, 10.0),))
        with mock.patch.object(rule_card, "SAMPLE", 500):
            self.session.do(SetRules("Ball", (bend,)))
            self.session.choose_tool(next(t for s in hulmo.app.session.STAGES for t in s.tools if t.kind == "rules"))
            self.settle()
            self.session.body.figures.clear()  # type: ignore[union-attr]
            self.window.card(RuleCard).refresh()
        box = self.window.card(RuleCard).conditions.boxes[0]
        self.assertTrue(box.isVisible())
        self.assertEqual(box.condition.measure, "bend")
        self.assertEqual(box.sheet._unit, "%")
        box.open.setChecked(True)
        self.click(box.edits["high"])
        QTest.keyClicks(box.edits["high"], "a lot")
        self.key(Qt.Key.Key_Return)
        self.assertIn("“a lot” is no number", box.wrong.text())
        self.assertTrue(box.wrong.isVisible())
        self.assertEqual((box.condition.high, box.edits["high"].text()), (-10.0, "-10"))
        self.assertLessEqual(box.minimumSizeHint().width(), box.width())

    def test_what_was_only_shown_is_neither_saved_nor_exported(self) -> None:
        before = self.build()
        self.session.choose_tool(tool_named("relief", "noise"))
        self.click(self.window.card(ReliefCard).show_now)
        self.wait(lambda: self.session.history.previewed is not None)
        self.settle()
        self.assertFalse(np.array_equal(self.session.body.vertices["position"], before))  # type: ignore[union-attr]
        self.session.save(HOME / "a.hulmo")
        self.settle()
        np.testing.assert_array_equal(open_project(HOME / "a.hulmo").bodies[0].vertices["position"], before)
        self.assertIn("taken back", self.window.notice.text.text())
        self.click(self.window.card(ReliefCard).show_now)  # and again, leaving while it is being prepared
        self.session.choose_tool(tool_named("export", "glb"))
        self.window.card(ExportCard).write(HOME / "a.glb")
        self.wait(lambda: (HOME / "a.glb").exists())
        self.settle()
        self.assertIsNone(self.session.history.previewed)
        np.testing.assert_array_equal(self.session.body.vertices["position"], before)  # type: ignore[union-attr]

    def test_keep_pressed_twice_lays_one_layer(self) -> None:
        self.build()
        self.session.choose_tool(tool_named("relief", "noise"))
        layer = self.session.layer
        for _ in range(2):
            self.click(self.window.card(ReliefCard).keep)
            self.settle()
        self.assertEqual(len(self.session.body.layers), 1)  # type: ignore[union-attr]
        self.assertEqual(len(self.session.history.commands), 2)
        self.assertEqual(self.session.layer, layer, "brushes work on what they worked on before")

    def test_rules_that_follow_a_dragged_strength_are_undone_with_it(self) -> None:
        self.build()
        self.session.do(LayRelief("Ball", "noise", {"height": 1.0}, "Bumps"))
        self.session.do(UseRules("Ball", next(iter(shipped_rule_sets()))))
        weights = self.session.body.vertices["weight"].copy()  # type: ignore[union-attr]
        with mock.patch("hulmo.app.dragged_steps.LARGE", 10):
            for strength in (0.9, 0.5, 0.2):
                self.session.drags.merged(ChangeLayer("Ball", "Bumps", strength=strength), "strength")
            steps = len(self.session.history.commands)
            self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)  # at once, before rules have followed
            self.settle()
        np.testing.assert_array_equal(self.session.body.vertices["weight"], weights)  # type: ignore[union-attr]
        self.assertEqual(len(self.session.history.commands), steps - 1)
        self.assertTrue(self.session.history.redo_label)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        after = self.session.body.vertices["weight"].copy()  # type: ignore[union-attr]
        self.assertFalse(np.array_equal(after, weights))

    def test_rules_that_wait_are_not_undone_with_a_later_step(self) -> None:
        self.build()
        self.session.do(LayRelief("Ball", "noise", {"height": 1.0}, "Bumps"))
        self.session.do(UseRules("Ball", next(iter(shipped_rule_sets()))))
        body = self.session.body
        assert body is not None
        first = body.vertices["weight"].copy()
        with mock.patch("hulmo.app.dragged_steps.LARGE", 10):
            self.session.drags.merged(ChangeLayer("Ball", "Bumps", strength=0.2), "strength")
            self.session.do(SetName("Another"))  # before the hand has rested
        followed = body.vertices["weight"].copy()
        self.assertFalse(np.array_equal(followed, first))
        self.session.undo()
        np.testing.assert_array_equal(body.vertices["weight"], followed)
        self.session.undo()
        np.testing.assert_array_equal(body.vertices["weight"], first)

    def test_what_waits_for_a_preview_to_go_is_done_whatever_comes_meanwhile(self) -> None:
        before = self.build()
        self.session.choose_tool(tool_named("relief", "noise"))
        self.session.preview.show(self.window.card(ReliefCard).command())
        self.assertTrue(self.session.busy)
        self.session.save(HOME / "d.hulmo")
        self.session.choose_tool(tool_named("brush", "raise"))
        self.wait(lambda: (HOME / "d.hulmo").exists())
        self.settle()
        np.testing.assert_array_equal(open_project(HOME / "d.hulmo").bodies[0].vertices["position"], before)
        self.session.choose_tool(tool_named("relief", "noise"))
        self.session.preview.show(self.window.card(ReliefCard).command())
        self.session.preview.drop()
        self.session.preview.show(self.window.card(ReliefCard).command())  # given up, and wanted after all
        self.wait(lambda: self.session.history.previewed is not None)

    def test_held_keys_reach_the_canvas_whatever_has_the_focus(self) -> None:
        before = self.build()
        self.session.choose_tool(tool_named("brush", "raise"))
        self.settle()
        field = self.window.card(BrushCard).stack.panels["raise"].fields["radius"]
        button = self.window.heading.findChildren(QAbstractButton)[0]
        for key, changed in ((Qt.Key.Key_Space, "bearing"), (Qt.Key.Key_B, "radius")):
            button.setFocus()
            bearing, radius = self.canvas.camera.bearing, field.value
            QTest.keyPress(self.window.windowHandle(), key)
            self.drag([(400, 300), (470, 300)])
            QTest.keyRelease(self.window.windowHandle(), key)
            np.testing.assert_array_equal(self.session.body.vertices["position"], before)  # type: ignore[union-attr]
            self.assertEqual(self.canvas.camera.bearing != bearing, changed == "bearing")
            self.assertEqual(field.value != radius, changed == "radius")

    def test_strength_keys_work_where_they_need_shift(self) -> None:
        self.build()
        self.session.choose_tool(tool_named("brush", "raise"))
        strength = float(self.session.brushes.of("raise")["strength"])  # type: ignore[arg-type]
        self.canvas.setFocus()
        self.key(Qt.Key.Key_BraceLeft, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.session.brushes.of("raise")["strength"], strength - 5)
        self.key(Qt.Key.Key_BraceRight, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.session.brushes.of("raise")["strength"], strength)

    def test_the_wheel_over_a_ruler_scrolls_the_card_and_changes_nothing(self) -> None:
        self.build()
        self.session.choose_tool(tool_named("brush", "raise"))
        self.settle()
        field = self.window.card(BrushCard).stack.panels["raise"].fields["radius"]
        self.canvas.setFocus()
        before = field.value

        def turn() -> None:
            at = QPointF(field.ruler.rect().center())
            event = QWheelEvent(
                at, QPointF(field.ruler.mapToGlobal(at.toPoint())), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton, NONE,
                Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            QApplication.sendEvent(field.ruler, event)

        turn()
        self.assertEqual(field.value, before)
        field.ruler.setFocus()
        turn()
        self.assertNotEqual(field.value, before)

    def test_a_click_into_a_number_selects_it_and_what_cannot_be_read_is_said(self) -> None:
        self.build()
        self.session.choose_tool(tool_named("brush", "raise"))
        self.settle()
        field = self.window.card(BrushCard).stack.panels["raise"].fields["radius"]
        for typed, value, said in (
            ("12", 12.0, ""), ("350cm", 3.5, ""), ("1/4", 0.25, ""), ("1 000", 1000.0, ""), ("7 apples", 1000.0, "apples"),
            ("0", 1000.0, "out of range: 0.001 m to 10000 m"), ("2,5", 2.5, ""),
        ):  # fmt: skip
            self.canvas.setFocus()
            self.click(field.edit, QPoint(field.edit.width() - 12, 8))
            QTest.keyClicks(field.edit, typed)
            self.key(Qt.Key.Key_Return)
            self.assertAlmostEqual(field.value, value, msg=typed)
            self.assertIn(said, field.said)
            self.assertEqual(bool(field.said), bool(said), typed)

    def test_a_picture_settles_though_the_machine_paints_late(self) -> None:
        self.build(0.2)
        self.settle()
        self.canvas.redraw()
        self.canvas._rest.stop()
        self.canvas._begin_full()  # as when the timer is quicker than the paint event
        self.canvas.repaint()
        self.settle()
        picture = self.canvas.picture
        assert picture is not None
        self.assertTrue(picture.settled)

    def test_every_kind_of_control_shows_its_focus(self) -> None:
        # WCAG 2.2, 2.4.7
        self.build()
        self.session.choose_tool(tool_named("brush", "raise"))
        self.session.do(LayRelief("Ball", "noise", {}, "Bumps"))
        self.settle()
        panel = self.window.card(BrushCard).stack.panels["raise"]
        controls = [
            panel.fields["radius"].ruler, panel.fields["radius"].edit, panel.fields["falloff"].box,
            self.window.route.tool_buttons["brush raise"], self.window.route.stage_buttons["sculpt"],
            self.window.card(LayerCard).list, self.window.heading.looks["form"],
        ]  # fmt: skip
        for control in controls:
            self.canvas.setFocus()
            QTest.qWait(30)
            before = control.grab().toImage()
            control.setFocus(Qt.FocusReason.TabFocusReason)
            QTest.qWait(30)
            self.assertTrue(control.hasFocus(), control)
            self.assertNotEqual(before, control.grab().toImage(), f"{control} does not show its focus")

    def test_lengths_nobody_chose_follow_the_size_of_the_body(self) -> None:
        self.session.brushes.set("smooth", "radius", 7.0)
        for size, radius, noise in ((600.0, 80.0, 150.0), (1.5, 0.2, 0.4)):
            self.session.do(AddBody("sheet", {"size": size, "depth": size, "edge": size / 20}, f"Sheet {size:g}"))
            self.session.choose_body(self.session.project.bodies[-1].ident)
            self.session.choose_tool(tool_named("relief", "noise"))
            self.settle()
            self.assertEqual(self.session.brushes.of("raise")["radius"], radius)
            self.assertEqual(self.window.card(ReliefCard).stack.values["size"], noise)
            self.assertEqual(self.session.brushes.of("smooth")["radius"], 7.0)

    def test_what_waits_for_a_press_says_so_and_escape_ends_it(self) -> None:
        self.build()
        self.window.route.press(tool_named("action", "pick"))
        self.assertEqual(self.session.once, "pick")
        self.assertIn("Press on the ground", self.window.notice.text.text())
        self.key(Qt.Key.Key_Escape)
        self.assertEqual((self.session.once, self.window.notice.isVisible()), ("", False))

    def test_refining_asks_before_it_makes_very_many(self) -> None:
        self.build(0.4)
        self.session.do(SetRules("Ball", (Rule("Shell sand", (Condition("height", {}, 0.0, None),)),)))
        self.settle()
        before = self.session.body.corners.live_count  # type: ignore[union-attr]
        self.window.card(LookCard).cure_asked.emit(0.004)
        box = self.question()
        self.assertRegex(box.text(), f"{before:,} triangles become about [1-9]")
        self.click(next(b for b in box.buttons() if b.text() == "Stay here"))
        self.settle()
        self.assertEqual(self.session.body.corners.live_count, before)  # type: ignore[union-attr]
        self.window.card(LookCard).cure_asked.emit(0.3)
        self.settle()
        self.assertGreater(self.session.body.corners.live_count, before)  # type: ignore[union-attr]

    def test_a_very_large_form_is_asked_about(self) -> None:
        self.stage("block", "form sheet")
        self.window.card(FormCard).stack.panels["sheet"].fields["edge"]._choose(0.05)
        self.click(self.window.card(FormCard).build)
        self.click(next(b for b in self.question().buttons() if b.text() == "Stay here"))
        self.settle()
        self.assertEqual(self.session.project.bodies, ())

    def test_a_name_is_given_up_by_escape(self) -> None:
        self.build()
        self.session.choose_stage(next(s for s in hulmo.app.session.STAGES if s.name == "block"))
        self.settle()
        name = self.window.card(BodyCard).name
        self.click(name)
        QTest.keyClicks(name, " of something")
        self.assertNotEqual(name.text(), "Ball")
        self.key(Qt.Key.Key_Escape)
        self.assertEqual((name.text(), self.session.project.bodies[0].name, name.hasFocus()), ("Ball", "Ball", False))

    def test_export_again_writes_where_it_wrote(self) -> None:
        self.build()
        self.session.choose_tool(tool_named("export", "ply"))
        self.settle()
        self.assertFalse(self.window.card(ExportCard).again.isVisible())
        self.window.card(ExportCard).write(HOME / "c.ply")
        self.wait(lambda: self.window.card(ExportCard).again.isVisible())
        (HOME / "c.ply").unlink()
        self.click(self.window.card(ExportCard).again)
        self.wait(lambda: (HOME / "c.ply").exists())
        self.settle()

    def test_the_window_fits_small_screens(self) -> None:
        self.build()
        places = []
        for size in ((860, 480), (1024, 700), (1280, 760)):
            self.window.resize(*size)
            QTest.qWait(50)
            self.assertEqual((self.window.width(), self.window.height()), size)
            for button in (*self.window.heading.looks.values(), self.window.heading.figure):
                wide = button.fontMetrics().horizontalAdvance(button.text())
                self.assertGreaterEqual(button.width(), wide, f"{button.text()} at {size}")
        for name in ("A", "A name that is very much longer than that"):
            self.session.do(SetName(name))
            QTest.qWait(20)
            places.append([b.x() for b in self.window.heading.looks.values()])
        self.assertEqual(*places)

    def test_an_offer_comes_back_and_what_is_over_goes(self) -> None:
        taken = []
        self.window.notice.say("Bring it back?", [("Bring", lambda: taken.append(1))])
        self.session.noticed.emit("Something else")
        self.assertEqual(self.window.notice.text.text(), "Something else")
        self.click(self.window.notice.close_button)
        self.assertEqual(self.window.notice.text.text(), "Bring it back?")
        with mock.patch("hulmo.app.notice.SHORTEST", 0.0):
            self.session.noticed.emit("Please wait")
            self.session.choose_tool(tool_named("brush", "smooth"))
        self.assertEqual(self.window.notice.text.text(), "Bring it back?")
        self.click(self.window.notice._answers[0])
        self.assertEqual((taken, self.window.notice.isVisible()), ([1], False))

    def test_closing_during_long_work_offers_to_stop_it(self) -> None:
        self.build()
        self.session.save(HOME / "b.hulmo")
        self.settle()

        def slow(progress: object) -> None:
            for _ in range(2000):
                QTest.qWait(0)
                progress.step(0.5, "counting")  # type: ignore[attr-defined]
                time.sleep(0.005)

        self.window.notice.say("Bring it back?", [("Bring", lambda: None)])
        self.session.start_job(lambda _: time.sleep(0.2), lambda _: None)
        self.window.close()
        self.assertIn("under way", self.window.notice.text.text())
        self.settle()
        self.assertEqual(self.window.notice.text.text(), "Bring it back?")  # what was asked before, and is still open
        self.session.start_job(slow, lambda _: None)
        self.window.close()
        self.assertTrue(self.window.isVisible())
        QTest.qWait(50)
        self.click(self.window.notice._answers[0])
        self.wait(lambda: not self.window.isVisible(), 10.0)


class PressesTest(WindowTest):
    """From an empty window to a delivered hill."""

    presses = 0

    def click(self, widget: QWidget, at: QPoint | None = None) -> None:
        self.presses += 1
        super().click(widget, at)

    def test_from_an_empty_window_to_a_delivered_hill_in_18_presses_and_drags(self) -> None:
        route, window = self.window.route, self.window
        self.click(route.tool_buttons["form sheet"])
        self.click(self.window.card(FormCard).build)
        self.settle()
        self.click(route.stage_buttons["sculpt"])
        for number in range(2):
            self.click(route.tool_buttons["relief noise"])
            if number:
                ruler = window.card(ReliefCard).stack.panels["noise"].fields["size"].ruler
                self.click(ruler, QPoint(ruler.width() // 5, 8))
                self.wait(lambda: self.session.history.previewed is not None)
            self.settle()
            self.click(window.card(ReliefCard).keep)
            self.settle()
        self.click(route.stage_buttons["ground"])
        for number, place in ((1, 380), (3, 560)):
            self.click(window.card(GroundCard).swatches[number])
            self.presses += 1
            self.drag([(place, 330), (place + 40, 380)])
            self.settle()
        self.click(self.window.heading.figure)
        self.presses += 1
        self.mouse("click", self.canvas, QPoint(460, 380))
        self.settle()
        self.click(route.stage_buttons["deliver"])
        self.click(window.card(ExportCard).button)
        self.accept(self.dialog())
        self.wait(lambda: any(HOME.glob("*.glb")))
        self.settle()
        self.assertLessEqual(self.presses, 18)
        body = self.session.body
        assert body is not None
        self.assertEqual(len(body.layers), 2)
        self.assertGreater(float(np.ptp(self.position[:, 1])), 0.5)
        self.assertTrue((self.weight[:, [1, 3]].max(axis=0) > 0.3).all(), self.weight.max(axis=0))
        self.assertIsNotNone(self.session.project.figure)


class ReadNumberTest(unittest.TestCase):
    def test_units_fractions_and_groups(self) -> None:
        for text, unit, value in (
            ("4 m", "m", 4.0), ("350 cm", "m", 3.5), ("2 km", "m", 2000.0), ("50 %", "%", 50.0), ("50%", "", 0.5),
            ("1/3", "", 1 / 3), ("−2", "m", -2.0), ("1\u202f000,5", "m", 1000.5), ("1.5e2", "", 150.0), ("90 deg", "°", 90.0),
        ):  # fmt: skip
            self.assertAlmostEqual(read_number(text, unit), value, msg=text)
        for text in ("", "x", "1/0", "1/2/3", "4 kg", "nan", "inf", "1e999", "12 34"):
            with self.assertRaises(InvalidInput, msg=text):
                read_number(text, "m")


if __name__ == "__main__":
    unittest.main()
