"""Grounds by mouse: paint, vertices, rules, what is given back, the figure, files that change."""

from unittest import mock

import numpy as np
from PIL import Image
from PyQt6.QtCore import QPoint, Qt

from hulmo.app.cards.brush_card import BrushCard
from hulmo.app.cards.ground_card import GroundCard
from hulmo.app.cards.look_card import LookCard
from hulmo.app.cards.rule_card import RuleCard
from hulmo.app.cards.vertex_card import VertexCard
from hulmo.app.stages import tool_named
from hulmo.core.commands import ChangeLayer, LayRelief, MeasureRules, SetBlend, SetRules, Stroke
from hulmo.core.ground.evaluate import evaluate
from hulmo.core.ground.hand import hand_share
from hulmo.core.ground.marked import chosen_rows
from hulmo.core.ground.rules import Condition, Rule
from hulmo.render.looks import LOOKS
from tests.app.window import HOME, WindowTest


class GroundTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.build("sheet")
        self.stage("ground", "brush lay")
        self.middle = QPoint(self.canvas.width() // 2, self.canvas.height() // 2)
        self.x, self.y = self.middle.x(), self.middle.y()

    def share(self, column: int) -> np.ndarray:
        return self.session.body.vertices["weight"][:, column]

    def take(self, kind: str, name: str) -> None:
        self.click(self.window.route.tool_buttons[tool_named(kind, name).ident])

    def test_lay_feather_set_and_give_back(self) -> None:
        self.click(self.window.card(GroundCard).swatches[1])
        before = self.pixels()
        self.drag([(self.x - 60, self.y), (self.x + 60, self.y)])
        laid = self.share(1).copy()
        self.assertGreater(float(laid.max()), 0.45)
        self.assertGreater(float(np.abs(self.pixels() - before).max()), 30)
        self.take("brush", "feather")
        self.drag([(self.x - 60, self.y), (self.x + 60, self.y)])
        self.assertLess(float(self.share(1).max()), float(laid.max()))
        self.take("brush", "set")
        self.window.card(BrushCard).stack.panels["set"].fields["share"].edit.setText("70")
        self.window.card(BrushCard).stack.panels["set"].fields["share"].edit.editingFinished.emit()
        self.drag([(self.x, self.y), (self.x + 5, self.y)])
        self.assertAlmostEqual(float(self.share(1).max()), 0.7, places=4)
        self.take("brush", "give_back")
        self.session.brushes.set("give_back", "radius", 40.0)
        self.session.brushes.set("give_back", "core", 90.0)
        self.drag([(self.x, self.y), (self.x + 5, self.y)])
        self.assertEqual(float(hand_share(self.session.body, slice(None)).max()), 0.0)

    def test_a_locked_ground_is_refused_and_the_lock_can_be_seen(self) -> None:
        self.click(self.window.card(GroundCard).lock)
        self.drag([(self.x, self.y), (self.x + 20, self.y)])
        self.assertIn("locked", self.window.notice.text.text())
        self.click(self.window.card(GroundCard).swatches[1])
        self.drag([(self.x, self.y), (self.x + 20, self.y)])
        self.assertEqual(float(self.share(0).min()), 1.0)

    def test_vertices_are_chosen_by_box_click_and_row_and_get_their_share(self) -> None:
        self.take("vertices", "vertices")
        self.drag([(self.x - 40, self.y - 40), (self.x + 40, self.y + 40)])
        body = self.session.body
        box = chosen_rows(body)
        self.assertGreater(box.size, 20)
        seen = self.canvas.camera.to_screen(body.vertices["position"][box], self.canvas.width(), self.canvas.height())
        self.assertTrue((np.abs(seen[:, :2] - (self.x, self.y)) <= 41).all())
        field = self.window.card(VertexCard).fields[2]
        self.wait(lambda: field.isEnabled())
        field.edit.setText("40")
        field.edit.editingFinished.emit()
        np.testing.assert_allclose(self.share(2)[box], 0.4, atol=1e-6)
        other = np.setdiff1d(np.arange(body.vertices.count), box)
        self.assertEqual(float(self.share(2)[other].max()), 0.0)
        self.drag([(self.x - 10, self.y - 10), (self.x + 10, self.y + 10)], keys=Qt.KeyboardModifier.ControlModifier)
        self.assertLess(chosen_rows(body).size, box.size)
        panel = self.window.card(VertexCard).panel
        panel.fields["how"].box.setCurrentIndex(panel.fields["how"].box.findData("row"))
        panel.fields["how"].box.activated.emit(0)
        self.mouse("click", self.canvas, self.middle)
        row = chosen_rows(body)
        steps = np.ptp(body.vertices["position"][row], axis=0)
        self.assertGreater(float(steps.max()), 0.9 * float(np.ptp(body.vertices["position"][:, 0])))
        flat = Rule(
            "Thrift turf", (Condition("height", {}, -1.0, 1.0), Condition("facing", {"altitude": 90.0}, None, 1.0))
        )
        self.session.do(SetRules("Sheet", (flat,)))
        menu = self.window.card(VertexCard).sets.menu()
        menu.aboutToShow.emit()
        next(action for action in menu.actions() if "rule 1" in action.text()).trigger()
        self.settle()
        self.assertEqual(chosen_rows(body).size, body.vertices.count)
        self.click(self.window.card(VertexCard).buttons["none"])
        self.assertEqual(chosen_rows(body).size, 0)

    def test_a_rule_is_made_its_curve_is_dragged_and_paint_stays_on_top(self) -> None:
        self.session.brushes.set("lay", "strength", 100.0)
        self.click(self.window.card(GroundCard).swatches[3])
        self.drag([(self.x - 30, self.y), (self.x + 30, self.y)])
        painted = self.share(3) > 0.999
        self.assertGreater(int(painted.sum()), 0)
        self.click(self.window.card(GroundCard).swatches[1])
        self.take("rules", "rules")
        card = self.window.card(RuleCard)
        self.click(card.buttons["add"])
        self.settle()
        flat = ~painted & (hand_share(self.session.body, slice(None)) == 0)
        np.testing.assert_allclose(self.share(1)[flat], 1.0, atol=1e-6)
        sheet = card.conditions.boxes[0].sheet
        self.assertTrue(sheet.isVisible())
        steps = len(self.session.history.commands)
        for which, value in ((1, 80.0), (0, 60.0)):  # only what is steeper than 80 degrees, fading down to 60
            begin = sheet.handle(which).toPoint()
            end = QPoint(int(9 + value / 180 * (sheet.width() - 18)), begin.y())
            self.mouse("press", sheet, begin)
            for i in range(1, 6):
                self.mouse("move", sheet, begin + (end - begin) * i / 5)
            self.mouse("release", sheet, end)
        # the upper end first has to make way
        self.wait(lambda: self.session.body.rules[0].conditions[0].low is not None)
        self.settle()
        rule = self.session.body.rules[0]
        self.assertIsNotNone(rule.conditions[0].low)
        self.assertGreater(len(self.session.history.commands), steps)
        np.testing.assert_allclose(self.share(3)[painted], 1.0, atol=2e-3)
        card.conditions.boxes[0].open.setChecked(True)
        for name, text in (("high", ""), ("low", "80"), ("low_soft", "10")):
            card.conditions.boxes[0].edits[name].setText(text)
            card.conditions.boxes[0].edits[name].editingFinished.emit()
        self.wait(lambda: self.session.body.rules[0].conditions[0].high is None)
        self.settle()
        condition = self.session.body.rules[0].conditions[0]
        self.assertEqual((condition.low, condition.high, condition.low_soft), (80.0, None, 10.0))
        np.testing.assert_allclose(self.share(1)[flat], 0.0, atol=1e-6)
        kept = condition.ident
        card.conditions.boxes[0].sheet.setFocus()
        self.key(Qt.Key.Key_Right)
        self.wait(lambda: self.session.body.rules[0].conditions[0] != condition)
        self.settle()
        self.assertEqual(self.session.body.rules[0].conditions[0].ident, kept)
        moved = card.conditions.boxes[0].condition
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertNotEqual(
            card.conditions.boxes[0].condition, moved, "the sheet follows undo although it has the keys"
        )
        self.click(card.buttons["remove"])
        self.settle()
        self.assertEqual(self.session.body.rules, ())

    def test_sculpting_moves_what_the_rules_lay_while_the_hand_moves(self) -> None:
        self.session.do(SetRules("Sheet", (Rule("Dark basalt", (Condition("slope", {}, 25.0, None, 5.0),)),)))
        self.assertEqual(float(self.share(1).max()), 0.0)
        self.stage("sculpt", "brush raise")
        self.session.brushes.set("raise", "height", 6.0)
        self.mouse("move", self.canvas, self.middle)
        self.mouse("press", self.canvas, self.middle)
        self.mouse("move", self.canvas, self.middle + QPoint(30, 0))
        self.assertGreater(float(self.share(1).max()), 0.9)
        self.mouse("release", self.canvas, self.middle + QPoint(30, 0))
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(float(self.share(1).max()), 0.0)

    def test_shelter_follows_when_the_hand_rests_and_gives_way_to_it(self) -> None:
        rule = Rule("Dark basalt", (Condition("shelter", {}, None, 60.0, 0.0, 20.0),))
        self.session.do(SetRules("Sheet", (rule,)))
        self.take("rules", "rules")
        self.click(self.window.card(RuleCard).follow)
        body, column = self.session.body, self.session.body.rules[0].conditions[0].column
        self.stage("sculpt", "brush raise")
        self.session.brushes.set("raise", "height", 6.0)
        before = body.vertices[column].copy()
        self.drag([(self.x, self.y), (self.x + 30, self.y)])
        self.wait(lambda: isinstance(self.session.history.last_command, MeasureRules))
        self.assertGreater(float(np.abs(body.vertices[column] - before).max()), 5.0)
        now = body.vertices[column].copy()
        self.session.measures._timer.setInterval(1)
        self.drag([(self.x - 60, self.y), (self.x - 30, self.y)])
        self.wait(lambda: self.session.busy, 10)  # it measures
        self.session.measures._timer.setInterval(500)
        self.drag([(self.x - 60, self.y + 20), (self.x - 30, self.y + 20)])  # and gives way
        self.assertIsInstance(self.session.history.last_command, Stroke)
        self.wait(lambda: isinstance(self.session.history.last_command, MeasureRules))
        self.assertGreater(float(np.abs(body.vertices[column] - now).max()), 1.0)
        self.session.undo()  # of the measuring; nothing is measured anew for that
        self.session.undo()
        self.settle()
        self.assertFalse(self.session.measures._timer.isActive())

    def test_rules_of_a_large_body_catch_up_when_a_dragged_slider_rests(self) -> None:
        rule = Rule("Dark basalt", (Condition("slope", {}, 20.0, None, 5.0),))
        self.session.do(SetRules("Sheet", (rule,)))
        self.session.do(LayRelief("Sheet", "noise", {"height": 2.0, "size": 5.0}, "Hills"))
        self.session.do(ChangeLayer("Sheet", "Hills", strength=0.0))
        body = self.session.body
        self.assertEqual(float(self.share(1).max()), 0.0)
        with mock.patch("hulmo.app.dragged_steps.LARGE", 10):
            for strength in (0.5, 1.0, 1.5):
                self.session.drags.merged(ChangeLayer("Sheet", "Hills", strength=strength), "strength")
            self.assertEqual(float(self.share(1).max()), 0.0, "not while the slider is dragged")
            self.wait(lambda: float(self.share(1).max()) > 0.5)
        np.testing.assert_array_equal(body.vertices["ruled"], evaluate(body, self.session.project.ground_names))
        self.assertEqual(self.session.history.waiting_rules, set())

    def test_looks_pick_and_figure(self) -> None:
        self.click(self.window.card(GroundCard).swatches[2])
        self.session.brushes.set("lay", "strength", 100.0)
        self.session.brushes.set("lay", "falloff", "flat")
        self.drag([(self.x - 30, self.y), (self.x + 30, self.y)])
        self.click(self.window.card(GroundCard).swatches[0])
        self.mouse("move", self.canvas, self.middle)
        self.wait(lambda: "Thrift" in self.window.reading.under)
        self.click(self.window.route.tool_buttons["action pick"])
        self.assertEqual(self.session.once, "pick")
        self.mouse("click", self.canvas, self.middle)
        self.assertEqual(self.session.ground, 2)
        self.session.do(SetBlend(together=1))
        seen = []
        for name in (look.name for look in LOOKS.values() if look.weighted):
            self.window.show_look(name)
            seen.append(self.pixels())
            self.assertTrue(all(np.abs(seen[-1] - other).max() > 12 for other in seen[:-1]), name)
        self.window.show_look("coarse")
        triangles = self.session.body.corners.live_count
        cure = self.window.card(LookCard).cure
        self.assertLess(cure.mapTo(self.window, QPoint(0, cure.height())).y(), 800, "the cure is in sight")
        self.click(cure)
        self.wait(lambda: self.session.busy or self.session.body.corners.live_count > triangles)
        self.settle()
        self.assertGreater(self.session.body.corners.live_count, triangles)
        self.window.show_look("lit")
        before = self.pixels()
        self.click(self.window.heading.figure)
        self.mouse("click", self.canvas, self.middle)
        self.assertIsNotNone(self.session.project.figure)
        self.assertGreater(int((np.abs(self.pixels() - before).max(axis=2) > 40).sum()), 10)
        self.click(self.window.heading.figure)
        self.assertIsNone(self.session.project.figure)

    def test_a_texture_is_read_again_when_its_file_changes(self) -> None:
        Image.new("RGB", (16, 16), (200, 40, 40)).save(HOME / "clay_albedo.png")
        Image.new("L", (16, 16), 90).save(HOME / "clay_roughness.png")
        self.window._add_ground(HOME / "clay_albedo.png")
        ground = self.session.project.grounds[-1]
        self.assertEqual(set(self.session.project.textures[ground.texture]), {"albedo", "roughness"})
        before = self.session.project.textures[ground.texture]["albedo"]
        Image.new("RGB", (16, 16), (40, 40, 200)).save(HOME / "clay_albedo.png")
        self.wait(lambda: self.session.project.textures[ground.texture]["albedo"] != before)
        self.window.card(GroundCard).share(HOME)
        self.window._add_ground(HOME / "clay")
        self.assertEqual(self.session.project.grounds[-1].roughness, ground.roughness)
