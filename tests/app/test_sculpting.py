"""Sculpting in the window: layers, reliefs, guard, stamps, pen, presets, looks, by mouse and keys."""

import json
import pathlib
import tempfile
import unittest

import numpy as np
from PIL import Image
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMenu, QPushButton, QToolButton, QWidget

from hulmo.app.cards.brush_card import BrushCard
from hulmo.app.cards.guard_card import GuardCard
from hulmo.app.cards.layer_card import LayerCard
from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.cards.look_card import LookCard
from hulmo.app.cards.relief_card import ReliefCard
from hulmo.app.pen import pen_strokes
from hulmo.core.commands import GuardFrom, LayRelief, Stroke
from hulmo.core.presets import read_presets, write_presets
from hulmo.core.setting import number
from tests.app.window import HOME, WindowTest

CENTRE = (390, 360)
PATH = [(340, 350), CENTRE, (440, 380)]


class SculptTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.build()
        self.stage("sculpt", "brush raise")
        self.settle()

    def pick_from(self, button: QPushButton | QToolButton, text: str) -> None:
        """Open a button's menu by mouse and press one of its entries."""
        menu = button.menu()
        assert isinstance(menu, QMenu)
        QTest.qWait(20)
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))
        self.wait(menu.isVisible)
        action = next(action for action in menu.actions() if action.text() == text)
        QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
        QTest.qWait(20)

    def row(self, name: str) -> QWidget:
        rows = self.window.card(LayerCard).list
        for i in range(rows.count()):
            item = rows.item(i)
            assert item is not None
            if item.data(Qt.ItemDataRole.AccessibleTextRole) == name:
                widget = rows.itemWidget(item)
                assert isinstance(widget, LayerRow)
                return widget
        raise AssertionError(f"no layer {name!r}")

    def press_row(self, name: str) -> None:
        rows = self.window.card(LayerCard).list
        viewport = rows.viewport()
        assert viewport is not None
        self.click(viewport, viewport.mapFromGlobal(self.row(name).mapToGlobal(QPoint(90, 12))))


class LayerTest(SculptTest):
    def test_detail_on_its_own_layer_is_turned_down_hidden_locked_and_merged(self) -> None:
        card, body = self.window.card(LayerCard), self.session.project.bodies[0]
        self.click(card.add)
        self.assertEqual(self.session.layer, "Relief")
        plain, flat = self.position.copy(), self.pixels()
        self.drag(PATH)
        full, hill = self.position - plain, self.pixels()
        np.testing.assert_array_equal(body.vertices["rest"], plain)
        self.assertGreater(np.abs(hill - flat)[320:400, 320:460].mean(), 1.0)
        field = card.strength.fields["strength"]
        field.edit.setFocus()
        field.edit.selectAll()
        QTest.keyClicks(field.edit, "50")
        QTest.keyClick(field.edit, Qt.Key.Key_Return)
        QTest.qWait(20)
        np.testing.assert_allclose(self.position - plain, full / 2, atol=1e-5)
        eye, _ = self.row("Relief").findChildren(QToolButton)
        self.click(eye)
        np.testing.assert_array_equal(self.position, plain)
        np.testing.assert_array_equal(self.pixels(), flat)
        self.drag(PATH)
        self.assertRegex(self.window.notice.text.text(), "is hidden; show it first")
        self.click(self.row("Relief").findChildren(QToolButton)[0])
        self.click(self.row("Relief").findChildren(QToolButton)[1])
        self.assertTrue(body.layers[0].locked)
        self.drag(PATH)
        self.assertRegex(self.window.notice.text.text(), "is locked; unlock it first")
        self.click(self.row("Relief").findChildren(QToolButton)[1])
        self.press_row("Form")
        self.assertEqual(self.session.layer, "")
        kept = body.vertices["relief_1"].copy()
        self.drag([(340, 420), (440, 420)], keys=Qt.KeyboardModifier.ShiftModifier)
        np.testing.assert_array_equal(body.vertices["relief_1"], kept)
        self.press_row("Relief")
        self.pick_from(card.more, "Duplicate")
        self.pick_from(card.more, "Move up")
        self.assertEqual([layer.name for layer in body.layers][-1], "Relief")
        shape = self.position.copy()
        self.pick_from(card.more, "Merge down")
        self.assertEqual(len(body.layers), 1)
        np.testing.assert_allclose(self.position, shape, atol=1e-5)
        self.pick_from(card.more, "Flatten all")
        self.assertEqual(body.layers, ())
        while len(self.session.history.commands) > 1:
            self.session.undo()
        np.testing.assert_array_equal(self.position, plain)

    def test_a_dragged_strength_is_one_step(self) -> None:
        self.click(self.window.card(LayerCard).add)
        self.drag(PATH)
        full, steps = self.position.copy(), len(self.session.history.commands)
        ruler = self.window.card(LayerCard).strength.fields["strength"].ruler
        self.mouse("press", ruler, QPoint(200, 5))
        for x in range(200, 90, -6):
            self.mouse("move", ruler, QPoint(x, 5))
            QTest.qWait(2)
        self.mouse("release", ruler, QPoint(92, 5))
        self.assertEqual(len(self.session.history.commands), steps + 1)
        self.assertLess(self.session.project.bodies[0].layers[0].strength, 0)
        self.session.undo()
        np.testing.assert_array_equal(self.position, full)

    def test_undo_through_the_list_brings_layers_back(self) -> None:
        self.click(self.window.card(LayerCard).add)
        self.drag(PATH)
        self.click(self.window.card(LayerCard).remove)
        self.assertEqual(self.session.project.bodies[0].layers, ())
        self.pick_from(self.window.heading.buttons["undo"], "Raise")
        self.assertEqual(len(self.session.project.bodies[0].layers), 1)
        self.assertGreater(float(np.linalg.norm(self.position, axis=1).max()), 10.3)


class ReliefTest(SculptTest):
    def test_a_setting_previews_cancel_takes_back_and_keep_lays(self) -> None:
        plain, flat = self.position.copy(), self.pixels()
        card = self.window.card(ReliefCard)
        for name in ("noise", "terraces", "jitter", "slump", "image"):
            self.click(self.window.route.tool_buttons[f"relief {name}"])
            self.click(card.show_now)
            self.wait(lambda: self.session.history.previewed is not None)
            self.assertGreater(float(np.abs(self.position - plain).max()), 0.001, name)
            self.click(card.cancel)
            self.wait(lambda: self.session.history.previewed is None)
            np.testing.assert_array_equal(self.position, plain)
        self.click(self.window.route.tool_buttons["relief noise"])
        ruler = card.stack.panels["noise"].fields["height"].ruler
        for x in (60, 110, 130):
            self.mouse("press", ruler, QPoint(x, 5))
            self.mouse("release", ruler, QPoint(x, 5))
            QTest.qWait(30)
        self.wait(lambda: self.session.history.previewed is not None and not self.session.busy)
        self.settle()
        self.assertGreater(np.abs(self.pixels() - flat)[250:450, 300:480].mean(), 1.0)
        self.assertEqual(len(self.session.history.commands), 1, "a preview is no step")
        shown = self.position.copy()
        self.click(card.keep)
        self.settle()
        np.testing.assert_array_equal(self.position, shown)
        self.assertEqual(self.session.layer, "", "brushes work on what they worked on before")
        self.assertEqual(self.session.history.last_command.relief, "noise")
        self.session.choose_layer("Noise")
        self.click(self.window.route.tool_buttons["relief jitter"])
        self.click(card.show_now)
        self.settle()
        self.click(self.window.route.tool_buttons["brush raise"])  # another tool takes a preview back
        self.settle()
        np.testing.assert_array_equal(self.position, shown)
        self.pick_from(self.window.card(LayerCard).more, "Change settings")
        self.assertEqual(self.session.tool.name, "noise")
        card.stack.panels["noise"].fields["height"]._choose(2.0)
        self.wait(lambda: self.session.history.previewed is not None and not self.session.busy)
        self.assertEqual(len(self.session.project.bodies[0].layers), 1)
        self.click(card.keep)
        self.settle()
        (layer,) = self.session.project.bodies[0].layers
        assert layer.laid is not None
        self.assertEqual(layer.laid.settings["height"], 2.0)
        self.assertGreater(float(np.abs(self.position - plain).max()), 1.0)
        self.click(self.window.heading.buttons["undo"])
        np.testing.assert_array_equal(self.position, shown)
        self.click(self.window.heading.buttons["undo"])
        np.testing.assert_array_equal(self.position, plain)

    def test_relief_follows_its_image_when_the_file_changes(self) -> None:
        file = HOME / "height.png"
        Image.new("L", (16, 16), 255).save(file)
        plain = self.position.copy()
        self.session.do(LayRelief("Icosphere", "image", {"image": str(file), "height": 1.0}))
        np.testing.assert_allclose(np.linalg.norm(self.position - plain, axis=1), 1.0, atol=1e-4)
        for value in (51, 128):
            Image.new("L", (16, 16), value).save(file)
            steps = len(self.session.history.commands)
            self.wait(lambda: len(self.session.history.commands) > steps, 10)  # noqa: B023
            self.settle()
            np.testing.assert_allclose(np.linalg.norm(self.position - plain, axis=1), value / 255, atol=1e-4)
        file.unlink()
        QTest.qWait(700)
        np.testing.assert_allclose(np.linalg.norm(self.position - plain, axis=1), 128 / 255, atol=1e-4)


class GuardTest(SculptTest):
    def test_it_is_painted_hatched_and_kept(self) -> None:
        flat = self.pixels()
        self.click(self.window.route.tool_buttons["brush guard"])
        self.drag([(340, 360), (440, 360)])
        body = self.session.project.bodies[0]
        self.assertEqual(float(body.vertices["guard"].max()), 1.0)
        hatched = self.pixels()
        patch = np.abs(hatched - flat)[340:380, 360:420].mean(axis=2)
        self.assertTrue(0.15 < (patch > 12).mean() < 0.85, "lines, not a plain colour")
        before = self.position.copy()
        self.key(Qt.Key.Key_R)
        self.drag([(360, 360), (420, 360)])
        whole = body.vertices["guard"][:, 0] == 1
        np.testing.assert_array_equal(self.position[whole], before[whole])
        self.mouse("move", self.canvas, QPoint(390, 360))
        QTest.qWait(30)
        ring = self.canvas.overlay.marks.ring
        assert ring is not None
        self.assertFalse(ring.works, "the ring dims where nothing can be done")
        self.key(Qt.Key.Key_Q)
        for way, check in (("invert", 0.5), ("grow", 0.5), ("soften", 0.5), ("all", 1.0)):
            self.click(self.window.card(GuardCard).buttons[way])
            self.settle()
            self.assertGreaterEqual(float(body.vertices["guard"].mean()), check, way)
        self.click(self.window.card(GuardCard).buttons["make"])
        self.settle()
        slope = np.degrees(np.arccos(np.clip(body.vertices["normal"][:, 1], -1, 1)))
        np.testing.assert_array_equal(body.vertices["guard"][:, 0], slope >= 45)
        self.click(self.window.card(GuardCard).buttons["clear"])
        self.settle()
        np.testing.assert_allclose(self.pixels(), self.pixels())
        self.assertNotIn("guard", body.vertices)


class BrushSettingTest(SculptTest):
    def test_more_settings_presets_and_a_drawn_falloff(self) -> None:
        card = self.window.card(BrushCard)
        card.stack.panels["raise"].fields["falloff"].box.setCurrentIndex(5)
        card.stack.panels["raise"].fields["falloff"].box.activated.emit(5)
        sheet = card.stack.panels["raise"].fields["falloff_curve"].sheet
        self.assertTrue(sheet.isVisible())
        middle = sheet.place((0.5, 0.5)).toPoint()
        self.mouse("press", sheet, middle)
        self.mouse("move", sheet, middle - QPoint(0, 25))
        self.mouse("release", sheet, middle - QPoint(0, 25))
        points = self.session.brushes.of("raise")["falloff_curve"]
        self.assertGreater(points[1][1], 0.8)  # type: ignore[index]
        QTest.keyClick(sheet, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.brushes.of("raise")["falloff_curve"]), 2)  # type: ignore[arg-type]
        self.click(card.more)
        mirror = card.further.panels["raise"].fields["mirror"]
        mirror.box.setCurrentIndex(1)
        mirror.box.activated.emit(1)
        before = self.position.copy()
        self.drag([(330, 340), (350, 350)])
        moved = np.linalg.norm(self.position - before, axis=1) > 0.01
        xs = before[moved, 0]
        self.assertTrue((xs > 0.5).any() and (xs < -0.5).any(), "the mirrored copy was laid as well")
        self.assertEqual(len(self.canvas.overlay.marks.twins), 1)
        card.keep_preset("Mine")
        self.session.brushes.reset("raise")
        self.pick_from(card.presets, "Mine")
        self.assertEqual(self.session.brushes.of("raise")["mirror"], "x")
        self.pick_from(card.presets, "Broad mound")
        self.assertEqual(self.session.brushes.of("raise")["radius"], 12.0)
        self.assertEqual(len(read_presets(self.session.presets.file)), 1)
        with tempfile.TemporaryDirectory() as folder:
            file = pathlib.Path(folder) / "p.json"
            write_presets(file, self.session.presets.own)
            text = json.loads(file.read_text())
            text["presets"][0]["name"] = "Yours"
            file.write_text(json.dumps(text))
            self.assertEqual(self.session.presets.take_in(file), 1)
            file.write_text("{")
            self.assertEqual(self.session.presets.take_in(file), 0)
        self.assertRegex(self.window.notice.text.text(), "holds no brush presets")
        self.assertEqual([entry.name for entry in self.session.presets.own], ["Mine", "Yours"])

    def test_a_radius_by_view_keeps_its_size_on_the_screen(self) -> None:
        self.session.brushes.set("raise", "radius_by", "view")
        self.session.brushes.set("raise", "view_share", 10.0)
        spans = []
        for notches in (0, 4):
            self.wheel(QPoint(*CENTRE), notches)
            self.mouse("move", self.canvas, QPoint(CENTRE[0] + notches, CENTRE[1]))
            QTest.qWait(40)
            ring = self.canvas.overlay.marks.ring
            assert ring is not None
            seen = self.canvas.camera.to_screen(ring.rim, self.canvas.width(), self.canvas.height())
            spans.append(float(np.ptp(seen[:, 0])))
            self.drag([CENTRE, (CENTRE[0] + 5, CENTRE[1])])
            radius = self.session.history.last_command.settings["radius"]  # type: ignore[union-attr]
            self.assertEqual(ring.label, f"{radius:.3g} m")
        self.assertAlmostEqual(spans[1] / spans[0], 1.0, delta=0.12)
        self.assertAlmostEqual(spans[0], 0.2 * self.canvas.height(), delta=16)
        self.key(Qt.Key.Key_BracketRight)
        self.assertAlmostEqual(number(self.session.brushes.of("raise"), "view_share"), 11.5, delta=0.01)

    def test_a_brush_that_flows_goes_on_while_the_pointer_rests(self) -> None:
        for name, value in (("flow", True), ("build_up", "stacking"), ("direction", "viewer")):
            self.session.brushes.set("raise", name, value)
        before = self.position.copy()
        self.mouse("move", self.canvas, QPoint(*CENTRE))
        self.mouse("press", self.canvas, QPoint(*CENTRE))
        early = float(np.abs(self.position - before).max())
        self.assertGreater(early, 0)
        self.wait(lambda: float(np.abs(self.position - before).max()) > 2 * early)
        self.mouse("release", self.canvas, QPoint(*CENTRE))
        command = self.session.history.last_command
        assert isinstance(command, Stroke)
        self.assertGreater(len(command.samples), 2)

    def test_a_stamp_is_dragged_to_size(self) -> None:
        self.key(Qt.Key.Key_T)
        before = self.position.copy()
        touched = []
        for reach in (40, 110):
            self.drag([CENTRE, (CENTRE[0] + reach // 2, CENTRE[1]), (CENTRE[0] + reach, CENTRE[1])])
            touched.append(int((np.linalg.norm(self.position - before, axis=1) > 0.01).sum()))
            self.assertEqual(len(self.session.history.commands), 2)
            self.session.undo()
            np.testing.assert_array_equal(self.position, before)
        self.assertGreater(touched[1], 3 * touched[0])


class PenTest(SculptTest):
    def test_the_practice_pen_plays_pressure_into_a_stroke(self) -> None:
        before = self.position.copy()
        self.click(self.window.card(BrushCard).more)
        self.pick_from(self.window.card(BrushCard).practise, "Ever firmer")
        self.wait(lambda: not self.window.pen.playing)
        command = self.session.history.last_command
        assert isinstance(command, Stroke)
        stroke = next(entry for entry in pen_strokes() if entry.name == "press")
        self.assertEqual(len(command.samples), len(stroke.samples) - 1)
        pressures = [sample[6] for sample in command.samples]
        np.testing.assert_allclose(pressures, [sample[3] for sample in stroke.samples[:-1]], atol=0.01)
        moved = np.linalg.norm(self.position - before, axis=1)
        screen = self.canvas.camera.to_screen(before.astype(float), self.canvas.width(), self.canvas.height())
        left = moved[(screen[:, 0] < 300) & (moved > 0)]
        right = moved[(screen[:, 0] > 480) & (moved > 0)]
        self.assertGreater(float(right.max()), 2 * float(left.max()), "firmer to the right")
        self.window.pen.play(pen_strokes()[4], QPointF(*CENTRE))
        self.wait(lambda: not self.window.pen.playing)
        leans = [sample[7] for sample in self.session.history.last_command.samples]  # type: ignore[union-attr]
        self.assertGreater(max(leans), 50)


class LookTest(SculptTest):
    def test_measuring_looks_show_what_they_say(self) -> None:
        self.session.do(LayRelief("Icosphere", "noise", {"size": 3.0, "height": 0.5}))
        pictures = {}
        for key, name in ((Qt.Key.Key_3, "form"), (Qt.Key.Key_5, "height"), (Qt.Key.Key_6, "slope"),
                          (Qt.Key.Key_7, "curvature"), (Qt.Key.Key_8, "stretch")):  # fmt: skip
            self.key(key)
            self.assertEqual(self.canvas.look, name)
            pictures[name] = self.pixels()
            self.assertEqual(self.canvas.overlay.marks.legend is not None, name != "form")
            self.assertEqual(self.window.card(LookCard).isVisible(), True)
        column = pictures["height"][180:560, 390].mean(axis=1)
        self.assertGreater(column[:60].mean(), column[-60:].mean() + 40, "higher is paler")
        column = pictures["slope"][160:560, 390].mean(axis=1)
        self.assertGreater(column[:40].mean(), column[-40:].mean() + 40, "steeper is darker")
        self.assertGreater(pictures["curvature"][250:480, 280:500].std(), 25)
        self.assertLess(pictures["stretch"][250:480, 280:500].std(), 25, "even triangles: none is pulled long")
        self.session.do(Stroke("Icosphere", "haul", ((0.0, 0, 20, 0, 0, -1), (4.0, 0, 20, 0, 0, -1)), {"radius": 3.0}))
        self.assertGreater(pictures["stretch"].std(), 0)
        pulled = self.pixels()
        self.assertGreater((np.abs(pulled - pictures["stretch"])[200:520, 250:560].mean(axis=2) > 20).mean(), 0.01)
        self.key(Qt.Key.Key_5)
        self.window.card(LookCard).stack.panels["height"].fields["interval"]._choose(4.0)
        self.assertGreater(np.abs(self.pixels() - pictures["height"]).mean(), 0.3)
        self.key(Qt.Key.Key_3)
        field = self.window.card(LookCard).stack.panels["form"].fields["bearing"]
        field._choose(120.0)
        self.assertGreater(np.abs(self.pixels() - pictures["form"])[250:480, 280:500].mean(), 5)

    def test_looks_follow_the_stroke_and_the_guard(self) -> None:
        self.key(Qt.Key.Key_7)
        before = self.pixels()
        self.drag(PATH)
        after = self.pixels()
        self.assertGreater(np.abs(after - before)[320:400, 320:460].mean(), 3)
        self.assertLess(np.abs(after - before)[600:, :150].mean(), 0.5)
        self.session.do(GuardFrom("Icosphere", "height", 0.0, 99.0))
        self.assertGreater(np.abs(self.pixels() - after)[200:340, 330:450].mean(), 5)


if __name__ == "__main__":
    unittest.main()
