"""Outlines and tracks by mouse: drawn, moved after sculpting, and what they carry."""

import unittest

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from hulmo.app.cards.line_card import LineCard
from hulmo.app.stages import STAGES, tool_named
from hulmo.core.by_hand.choice import amount, chosen
from hulmo.core.commands import AddBody
from hulmo.core.objects.line import line_of
from tests.app.window import NONE, WindowTest
from tests.bodies import stroke

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class LineTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.told: list[str] = []
        self.session.noticed.connect(self.told.append)
        self.session.do(AddBody("sheet", {"size": 16.0, "depth": 16.0, "edge": 0.5}, "Body"))
        self.canvas.frame_all()
        self.card = self.window.card(LineCard)
        self.session.choose_stage(next(stage for stage in STAGES if stage.name == "hand"))

    @property
    def body(self):  # type: ignore[no-untyped-def]
        return self.session.project.bodies[0]

    def take(self, name: str) -> None:
        self.click(self.window.route.tool_buttons[tool_named("line", name).ident])
        self.settle()

    def screen(self, x: float, z: float) -> QPoint:
        place = self.body.nearest(np.array([x, 0.0, z])).position
        at = self.canvas.camera.to_screen(place, self.canvas.width(), self.canvas.height())[0]
        return QPoint(round(at[0]), round(at[1]))

    def press(self, x: float, z: float, keys: Qt.KeyboardModifier = NONE) -> None:
        at = self.screen(x, z)
        self.mouse("move", self.canvas, at, keys=keys)
        self.mouse("press", self.canvas, at, keys=keys)
        self.mouse("release", self.canvas, at, keys=keys)
        self.laid()

    def grabbed(self) -> np.ndarray:
        image = self.window.grab(self.canvas.geometry()).toImage().convertToFormat(QImage.Format.Format_RGB888)
        data = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8)
        return data.reshape(image.height(), -1)[:, : 3 * image.width()].reshape(image.height(), -1, 3).astype(int)

    def laid(self) -> None:
        QTest.qWait(20)
        self.wait(lambda: not self.session.busy)

    def points(self, at: int = -1) -> np.ndarray:
        return line_of(self.session.project.objects[at]).array

    def test_a_track_is_drawn_and_moved_after_sculpting(self) -> None:
        self.take("track")
        shown = self.grabbed()
        for x, z in ((-5.0, 2.0), (-1.0, 1.0), (3.0, 3.0)):
            self.press(x, z)
        self.press(3.0, 3.0)  # the last point again: done
        self.assertFalse(self.session.lines.drawing)
        np.testing.assert_allclose(self.points()[:, (0, 2)], ((-5, 2), (-1, 1), (3, 3)), atol=0.1)
        self.settle()
        self.assertGreater(int((np.abs(self.grabbed() - shown).max(axis=2) > 20).sum()), 300, "it is to be seen")
        self.assertIn("3 points", self.card.figures.text())
        sand = self.session.project.ground_named("Shell sand", "")
        self.card.ground.box.setCurrentIndex(self.card.ground.box.findData("Shell sand"))
        self.card.ground.changed.emit()
        self.wait(lambda: "weight" in self.body.vertices and self.body.vertices["weight"][:, sand].max() == 1.0)
        self.session.do(stroke("raise", (-1.0, 0.0, 1.0), radius=3.0, height=2.0, direction="up"))
        self.assertGreater(float(self.points()[1, 1]), 0.9, "the point rides on the hill")
        before = self.points()
        one, two = self.screen(-1.0, 1.0), self.screen(-1.0, -3.0)
        self.drag([(one.x(), one.y()), ((one.x() + two.x()) // 2, (one.y() + two.y()) // 2), (two.x(), two.y())])
        self.laid()
        moved = self.points()
        self.assertGreater(float(np.linalg.norm(moved[1] - before[1])), 2.0)
        np.testing.assert_allclose(moved[[0, 2]], before[[0, 2]], atol=1e-5)
        place = self.body.vertices["position"]
        old = np.hypot(place[:, 0] + 1.0, place[:, 2] - 1.0) < 0.4
        new = np.linalg.norm(place - moved[1], axis=1) < 0.5
        weight = self.body.vertices["weight"][:, sand]
        self.assertEqual(float(weight[old].max()), 0.0)
        self.assertEqual(float(weight[new].min()), 1.0, "the ground goes along")
        self.key(Qt.Key.Key_Z, CONTROL)
        np.testing.assert_array_equal(self.points(), before)
        self.press(3.0, 3.0)
        self.assertTrue(self.card.here.isVisible())
        self.session.lines.set_width(4.0)
        self.laid()
        self.assertEqual([point.width for point in line_of(self.session.project.objects[-1]).points], [0.0, 0.0, 4.0])
        place = self.body.vertices["position"]
        weight = self.body.vertices["weight"][:, sand]
        beside = np.abs(np.hypot(place[:, 0] - 3.0, place[:, 2] - 3.0) - 1.5) < 0.2
        self.assertGreater(float(weight[beside].mean()), 0.9, "wider there")

    def test_an_outline_is_closed_cut_and_chosen(self) -> None:
        self.take("outline")
        for x, z in ((-4.0, -3.0), (-4.0, 3.0), (3.0, 3.0), (3.0, -3.0)):
            self.press(x, z)
        self.press(-4.0, -3.0)
        self.assertEqual(len(self.points()), 4)
        self.press(-4.0, 3.0, SHIFT)
        self.assertTrue(line_of(self.session.project.objects[-1]).points[1].corner)
        panel = self.card.panels["outline"]
        for kind in ("press", "release"):
            self.mouse(kind, panel.fields["cut"], QPoint(10, 10))
        self.wait(lambda: "cut line" in self.body.corners.slots or bool(self.told))
        self.assertFalse(self.told)
        self.laid()
        self.click(self.card.inside)
        faces = amount(self.body, "face", chosen(self.body, "face"))
        self.assertGreater(faces.size, 38.0)
        self.assertIn(f"{faces.size:.4g}"[:3], self.card.figures.text())
        self.click(self.card.rim)
        rim = amount(self.body, "edge", chosen(self.body, "edge"))
        self.assertGreater(rim.size, 24.0)
        self.press(3.0, -3.0, CONTROL)
        self.assertEqual(len(self.points()), 3)
        middle = (self.points()[0] + self.points()[1]) / 2
        sketch = self.session.lines.sketch(self.session.project.objects[-1])
        self.assertIsNotNone(sketch)
        near = sketch[0][np.linalg.norm(sketch[0] - middle, axis=1).argmin()]
        self.press(float(near[0]), float(near[2]))
        self.assertEqual(len(self.points()), 4, "a press on the line puts a point in")
        self.click(self.card.remove)
        self.laid()
        self.assertFalse(self.session.project.objects)
        self.assertNotIn("cut line", self.body.corners.slots)

    def test_freehand_needs_few_points(self) -> None:
        self.take("track")
        way = [self.screen(-5.0 + 0.5 * i, 2.0 * np.sin(0.4 * i)) for i in range(20)]
        self.drag([(at.x(), at.y()) for at in way])
        self.laid()
        points = self.points()
        self.assertTrue(4 <= len(points) <= 16, len(points))
        off = np.abs(points[:, 2] - 2.0 * np.sin(0.8 * (points[:, 0] + 5.0)))
        self.assertLess(float(off.max()), 0.6)


if __name__ == "__main__":
    unittest.main()
