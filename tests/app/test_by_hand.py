"""By hand, by mouse: choosing that never moves, grips, and what is done with what is chosen."""

import unittest

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from hulmo.app.cards.hand_card import HandCard
from hulmo.app.cards.operation_card import OperationCard
from hulmo.app.stages import STAGES, tool_named
from hulmo.core.by_hand.choice import as_domain, chosen
from hulmo.core.commands import AddBody, ChooseParts
from hulmo.core.mesh.measure import measure
from tests.app.window import NONE, WindowTest

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class ByHandTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("block", {"size": 4.0, "height": 4.0, "depth": 4.0, "edge": 1.0}, "Block"))
        self.canvas.frame_all()
        self.card = self.window.card(HandCard)

    @property
    def body(self):  # type: ignore[no-untyped-def]
        return self.session.project.bodies[0]

    def take(self, kind: str, name: str) -> None:
        self.session.choose_stage(next(stage for stage in STAGES if stage.name == "hand"))
        self.click(self.window.route.tool_buttons[tool_named(kind, name).ident])
        self.settle()

    def screen(self, point: tuple[float, float, float] | np.ndarray) -> QPoint:
        x, y, _ = self.canvas.camera.to_screen(np.asarray(point, float), self.canvas.width(), self.canvas.height())[0]
        return QPoint(round(x), round(y))

    def press(self, at: QPoint, keys: Qt.KeyboardModifier = NONE) -> None:
        self.mouse("move", self.canvas, at)
        self.mouse("press", self.canvas, at, keys=keys)
        self.mouse("release", self.canvas, at, keys=keys)
        QTest.qWait(20)

    def choose_with(self, name: str, value: str) -> None:
        self.card.panel.fields[name].set_value(value)  # type: ignore[union-attr]
        self.card.panel.changed.emit(name, value)
        QTest.qWait(20)

    def count(self, domain: str) -> int:
        mask = chosen(self.body, domain)
        return int(mask.sum())

    def test_choosing_never_moves(self) -> None:
        self.take("hand", "choose")
        before = self.body.vertices["position"].tobytes()
        top = self.screen((0.4, 4.0, 0.2))
        self.press(top)
        self.assertEqual(self.count("face"), 1)
        self.press(self.screen((-0.8, 4.0, -0.6)), SHIFT)
        self.assertEqual(self.count("face"), 2)
        self.press(top, CONTROL)
        self.assertEqual(self.count("face"), 1)
        self.choose_with("how", "box")
        corners = [self.screen((x, 4.0, z)) for x in (-2.1, 2.1) for z in (-2.1, 2.1)]
        low = QPoint(min(p.x() for p in corners) - 4, min(p.y() for p in corners) - 4)
        high = QPoint(max(p.x() for p in corners) + 4, max(p.y() for p in corners) + 4)
        self.drag([(low.x(), low.y()), (high.x(), high.y())])
        faces = chosen(self.body, "face")
        self.assertGreaterEqual(int(faces.sum()), 18)
        seen = self.body.vertices["position"][self.body.corners.triangles[faces]]
        self.assertTrue((seen.min(axis=1) > -2.0 - 1e-6).all())
        self.choose_with("domain", "edge")
        self.assertEqual(self.count("edge"), int(as_domain(self.body, faces, "face", "edge").sum()))
        self.choose_with("domain", "face")
        self.choose_with("how", "click")
        self.press(QPoint(8, 300))  # beside the body
        self.assertEqual(self.count("face"), 0)
        self.assertEqual(self.body.vertices["position"].tobytes(), before)
        self.take("hand", "move")  # nor is anything moved by a drag that misses the grips
        self.click(self.card.buttons["all"])
        self.drag([(self.screen((1.5, 1.0, 2.0)).x(), self.screen((1.5, 1.0, 2.0)).y()), (300, 300)])
        self.assertEqual(self.body.vertices["position"].tobytes(), before)

    def test_grips_move_turn_and_scale_what_is_chosen(self) -> None:
        self.take("hand", "move")
        self.click(self.card.buttons["facing"])
        self.settle()
        rows = as_domain(self.body, chosen(self.body, "face"), "face", "vertex")
        before = self.body.vertices["position"].copy()
        shown = self.pixels()
        spots = self.canvas.hand.tool._spots(self.canvas.hand.tool.middle())  # type: ignore[attr-defined]
        start = spots[2].toPoint()  # the arm that goes up
        self.drag([(start.x(), start.y()), (start.x(), start.y() - 40)])
        step = self.body.vertices["position"] - before
        self.assertGreater(float(step[rows, 1].min()), 0.1)
        self.assertLess(float(np.ptp(step[rows, 1])), 1e-5)
        self.assertEqual(float(np.abs(step[rows][:, (0, 2)]).max()), 0.0)
        self.assertEqual(float(np.abs(step[~rows]).max()), 0.0)
        self.settle()
        self.assertGreater(int((np.abs(self.pixels() - shown).max(axis=2) > 20).sum()), 300)
        self.key(Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.body.vertices["position"].tobytes(), before.tobytes(), "one drag is one step")
        self.take("hand", "scale")
        middle = self.canvas.hand.tool._spots(self.canvas.hand.tool.middle())[0].toPoint()  # type: ignore[attr-defined]
        self.drag([(middle.x(), middle.y()), (middle.x() - 60, middle.y())])
        size = np.ptp(self.body.vertices["position"][rows], axis=0) / np.ptp(before[rows], axis=0).clip(1e-9)
        self.assertAlmostEqual(float(size[0]), float(size[2]), places=4)
        self.assertLess(float(size[0]), 0.8)
        self.take("hand", "turn")
        self.session.hand_values["step_turn"] = 45.0
        arm = self.canvas.hand.tool._spots(self.canvas.hand.tool.middle())[2].toPoint()  # type: ignore[attr-defined]
        self.drag([(arm.x(), arm.y()), (arm.x() + 95, arm.y())])
        place = self.body.vertices["position"][rows].astype(float)
        corner = place[np.hypot(place[:, 0], place[:, 2]).argmax()]
        self.assertLess(min(abs(corner[0]), abs(corner[2])), 1e-3, "a square turned by 45 degrees stands on a corner")

    def test_planes_points_numbers_and_whole_bodies(self) -> None:
        self.take("hand", "move")
        self.click(self.card.buttons["facing"])
        self.settle()
        rows = as_domain(self.body, chosen(self.body, "face"), "face", "vertex")
        before = self.body.vertices["position"].copy()
        tool = self.canvas.hand.tool
        up = tool._spots(tool.middle())[2].toPoint()  # type: ignore[attr-defined]
        self.drag([(up.x(), up.y()), (up.x() + 30, up.y() + 12), (up.x() + 60, up.y() + 24)], keys=CONTROL)
        step = self.body.vertices["position"] - before
        self.assertGreater(float(np.abs(step[rows]).max()), 0.2)
        self.assertLess(float(np.abs(step[rows, 1]).max()), 1e-4, "in the level plane that the arm is square to")
        self.session.undo()
        drag = self.card.drag
        drag.fields["what"].set_value("body")  # type: ignore[union-attr]
        drag.changed.emit("what", "body")
        self.session.settings_changed.emit()
        up = tool._spots(tool.middle())[2].toPoint()  # type: ignore[attr-defined]
        self.drag([(up.x(), up.y()), (up.x(), up.y() - 40)])
        step = self.body.placed(self.body.vertices["position"].astype(float)) - before
        self.assertGreater(float(step[:, 1].min()), 0.1)
        self.assertLess(float(np.ptp(step[:, 1])), 1e-4)
        self.session.undo()
        drag.fields["what"].set_value("chosen")  # type: ignore[union-attr]
        drag.changed.emit("what", "chosen")
        drag.fields["about"].set_value("place")  # type: ignore[union-attr]
        drag.changed.emit("about", "place")
        self.press(self.screen((2.0, 4.0, 2.0)) + QPoint(-6, 2))
        np.testing.assert_allclose(tool.middle(), (2.0, 4.0, 2.0), atol=0.3)  # type: ignore[attr-defined]
        self.take("handwork", "by_numbers")
        operation = self.window.card(OperationCard)
        panel = operation.stack.panels["by_numbers"]
        panel.fields["move_up"].set_value(0.75)  # type: ignore[union-attr]
        panel.changed.emit("move_up", 0.75)
        self.click(operation.do)
        self.settle()
        step = self.body.vertices["position"] - before
        np.testing.assert_allclose(step[rows], np.broadcast_to((0, 0.75, 0), (int(rows.sum()), 3)), atol=1e-5)
        self.click(self.card.fold)
        self.card.more.fields["by"].set_value("height")  # type: ignore[union-attr]
        self.card.more.set_values({"by": "height", "low": 4.5, "high": 5.0, "name": "Top"})
        self.click(self.card.these)
        self.assertEqual(self.count("face"), 32)
        self.click(self.card.keep)
        self.click(self.card.buttons["none"])
        self.card.more.set_values({"by": "named"})
        self.click(self.card.these)
        self.assertEqual(self.count("face"), 32)

    def test_extrude_turn_and_plant_by_card_and_press(self) -> None:
        self.take("handwork", "extrude")
        operation = self.window.card(OperationCard)
        self.click(self.card.buttons["facing"])
        panel = operation.stack.panels["extrude"]
        panel.fields["lip"].set_value(0.5)  # type: ignore[union-attr]
        panel.changed.emit("lip", 0.5)
        self.click(operation.do)
        self.settle()
        self.assertAlmostEqual(float(measure(self.body).volume or 0), 64.0 + 25.0, places=3)
        self.assertIn("32 faces", operation.result.text())
        chosen_area = 25.0
        triangles = self.body.corners.triangles[chosen(self.body, "face")]
        a, b, c = (self.body.vertices["position"][triangles[:, k]].astype(float) for k in range(3))
        self.assertAlmostEqual(float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2), chosen_area, places=3)
        self.take("hand", "plant")
        before = self.body.vertices.live_count
        self.press(self.screen((0.35, 5.0, 0.25)))
        self.settle()
        self.assertEqual(self.body.vertices.live_count, before + 1)
        self.assertGreaterEqual(self.count("face"), 34, "what was chosen stays so")
        self.take("handwork", "turn_edge")
        self.choose_with("domain", "edge")
        self.click(self.card.buttons["none"])
        # an edge on top, pressed in its middle
        corners = self.body.corners
        height = self.body.vertices["position"][:, 1][corners.triangles].min(axis=1)
        at = next(
            c
            for c in np.flatnonzero(corners.opposite >= 0).tolist()
            if min(height[c // 3], height[corners.opposite[c] // 3]) > 4.9
        )
        base = at - at % 3
        ends = [int(corners.vertex[base + (at + k) % 3]) for k in (1, 2)]
        middle = self.body.vertices["position"][ends].mean(axis=0)
        inner = self.body.vertices["position"][corners.vertex[at]] * 0.06 + middle * 0.94
        self.press(self.screen(inner))
        self.assertEqual(self.count("edge"), 2)
        self.click(operation.do)
        self.settle()
        after = self.body.corners
        again = np.flatnonzero(chosen(self.body, "edge").reshape(-1))
        base = int(again[0]) - int(again[0]) % 3
        now = {int(after.vertex[base + (int(again[0]) + k) % 3]) for k in (1, 2)}
        self.assertNotEqual(now, set(ends))
        while self.session.undo_label and "Add" not in self.session.undo_label:
            self.session.undo()
        self.assertAlmostEqual(float(measure(self.body).volume or 0), 64.0, places=3)

    def test_a_ring_of_a_column_is_scaled(self) -> None:
        self.session.do(ChooseParts("Block", "face", "none"))
        self.take("handwork", "levels")
        self.click(self.window.card(OperationCard).do)
        self.settle()
        self.choose_with("domain", "edge")
        self.assertGreater(self.count("edge"), 100)
        self.choose_with("how", "row")
        self.press(self.screen((0.1, 2.0, 2.0)))
        rows = as_domain(self.body, chosen(self.body, "edge"), "edge", "vertex")
        self.assertGreaterEqual(int(rows.sum()), 4)
        self.assertLess(float(np.ptp(self.body.vertices["position"][rows, 1])), 1e-4)


if __name__ == "__main__":
    unittest.main()
