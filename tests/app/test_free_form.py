"""Growing meshes, passages with points in depth, sections and mesh care in the window, by mouse."""

import dataclasses

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from hulmo.app.cards.bore_card import BoreCard
from hulmo.app.cards.care_card import CareCard
from hulmo.app.cards.inside_card import InsideCard
from hulmo.core.care import CHECKS
from hulmo.core.commands import AddBody, Bore, Stroke
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.measure import measure
from hulmo.core.setting import number
from tests.app.window import NONE, WindowTest

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class FreeFormTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("icosphere", {"radius": 8.0, "edge": 0.8}, "Islet"))
        self.click(self.window.route.stage_buttons["block"])
        self.settle()

    @property
    def body(self) -> Body:
        return self.session.project.bodies[0]

    def on_screen(self, point: np.ndarray) -> QPoint:
        x, y, _ = self.canvas.camera.to_screen(point, self.canvas.width(), self.canvas.height())[0]
        return QPoint(round(float(x)), round(float(y)))

    def pull(self, start: QPoint, end: QPoint, keys: Qt.KeyboardModifier = NONE) -> None:
        """Drag with a modifier key held down."""
        self.mouse("move", self.canvas, start)
        self.mouse("press", self.canvas, start, keys=keys)
        QTest.qWait(10)
        for i in range(1, 6):
            at = (start + (end - start) * i / 5).toPointF()
            where = self.canvas.mapToGlobal(at)
            event = QMouseEvent(
                QEvent.Type.MouseMove, at, where, Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, keys
            )
            QApplication.sendEvent(self.canvas, event)
        self.mouse("release", self.canvas, end, keys=keys)
        QTest.qWait(10)

    def test_a_growing_stroke_on_the_ceiling_of_a_cave(self) -> None:
        self.session.do(Bore("Islet", ((-12.0, 0, 0), (4.0, 0, 0)), radius=3.0, irregularity=0.0))
        self.stage("sculpt", "brush raise")
        # from the mouth of the cave, a little upward: the ceiling is in the middle of the picture
        camera = dataclasses.replace(
            self.canvas.camera, target=np.array([-1.0, 2.6, 0.0]), distance=7.0, bearing=1.5 * np.pi, altitude=-0.3
        )
        self.canvas.hand.look(camera)
        values = {"radius": 1.2, "height": 0.5, "edge": 0.15, "grow": "finer"}
        for name, value in values.items():
            self.session.brushes.set("raise", name, value)
        self.settle()
        before, triangles = self.pixels(), self.body.corners.live_count
        middle = (self.canvas.width() // 2, self.canvas.height() // 2)
        self.drag([(middle[0] - 40, middle[1]), (middle[0] + 40, middle[1])])
        self.settle()
        body = self.body
        self.assertGreater(body.corners.live_count, triangles + 500)
        fresh = body.vertices["position"][body.corners.first_corner >= 0][-300:]
        self.assertTrue((fresh[:, 1] > 0.5).all(), "only the ceiling")
        self.assertTrue((np.linalg.norm(fresh, axis=1) < 7.5).all(), "inside, not on the outer shell")
        self.assertTrue(measure(body).closed)
        self.assertGreater(np.abs(self.pixels() - before)[middle[1] - 60 : middle[1] + 60].mean(), 1)
        self.assertIn(f"{body.corners.live_count:,} triangles", self.window.reading._counts.text())
        self.key(Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.body.corners.live_count, triangles)
        self.assertLess(np.abs(self.pixels() - before).mean(), 0.1)

    def test_refine_and_thin_out_and_an_edge_that_is_far_too_short(self) -> None:
        self.stage("sculpt", "brush refine")
        self.session.brushes.set("refine", "edge_by", "view")
        self.session.brushes.set("refine", "edge_share", 1.5)
        self.settle()
        middle = (self.canvas.width() // 2, self.canvas.height() // 2)
        start = self.body.corners.live_count
        shape = self.body.bounds().high
        self.drag([middle, (middle[0] + 30, middle[1])])
        finer = self.body.corners.live_count
        self.assertGreater(finer, start + 200)
        np.testing.assert_allclose(self.body.bounds().high, shape, atol=1e-5)
        stroke = self.session.history.last_command
        assert isinstance(stroke, Stroke)
        per_pixel = self.canvas.camera.metres_per_pixel(self.canvas.camera.distance - 8.0, self.canvas.height())
        wanted = 0.015 * self.canvas.height() * per_pixel
        self.assertAlmostEqual(stroke.settings["edge"] / wanted, 1.0, delta=0.1)
        self.click(self.window.route.tool_buttons["brush thin_out"])
        self.drag([middle, (middle[0] + 30, middle[1])])
        self.assertLess(self.body.corners.live_count, finer - 200)
        self.click(self.window.route.tool_buttons["brush refine"])
        self.session.brushes.set("refine", "edge_by", "metres")
        self.session.brushes.set("refine", "edge", 0.0005)
        steps = len(self.session.history.commands)
        self.drag([middle, (middle[0] + 30, middle[1])])
        self.assertEqual(len(self.session.history.commands), steps)
        self.assertRegex(self.window.notice.text.text(), "would make about .* triangles in one dab")

    def test_points_of_a_passage_are_dragged_aside_and_in_depth(self) -> None:
        self.key(Qt.Key.Key_O)
        card = self.window.card(BoreCard)
        card.panel.fields["how"].box.setCurrentIndex(1)
        card.panel.fields["how"].box.activated.emit(1)
        middle = QPoint(self.canvas.width() // 2, self.canvas.height() // 2)
        for x in (-120, 0, 120):
            self.click(self.canvas, middle + QPoint(x, 0))
            card.panel.fields["radius"]._choose(1.5)
        points = [point.copy() for point in self.session.bore.points]
        self.assertEqual(self.session.bore.radii, [2.0, 1.5, 1.5])
        self.pull(middle, middle + QPoint(0, 40))
        aside = self.session.bore.points[1] - points[1]
        camera = self.canvas.camera
        self.assertLess(float(aside @ camera.up), -1.0)
        self.assertAlmostEqual(float(aside @ camera.back), 0.0, places=4)
        self.pull(middle + QPoint(0, 40), middle + QPoint(0, -60), CONTROL)
        deep = self.session.bore.points[1] - points[1] - aside
        self.assertLess(float(deep @ camera.back), -2.0)
        self.assertAlmostEqual(float(deep @ camera.right), 0.0, places=4)
        before = self.body.corners.live_count
        card.panel.fields["rough"]._choose(0.2)
        self.click(card.cut)
        self.settle()
        self.assertTrue(measure(self.body).closed)
        self.assertNotEqual(self.body.corners.live_count, before)
        self.assertIn("rough=0.2", repr(self.session.history.last_command))
        # undoing brings the path back, and then its points one by one; redoing goes the same way
        undo, redo = (Qt.Key.Key_Z, CONTROL), (Qt.Key.Key_Z, CONTROL | SHIFT)
        self.assertEqual(self.session.bore.points, [])
        self.key(*undo)
        self.assertEqual(self.body.corners.live_count, before)
        self.assertEqual((len(self.session.bore.points), self.session.bore.radii), (3, [2.0, 1.5, 1.5]))
        self.key(*undo)
        self.assertEqual((len(self.session.bore.points), self.body.corners.live_count), (2, before))
        self.assertIn("Point of the passage", self.window.heading.buttons["undo"].toolTip())
        self.click(self.window.heading.buttons["redo"])
        self.assertEqual((len(self.session.bore.points), self.session.bore.radii[-1]), (3, 1.5))
        self.key(*redo)
        self.assertNotEqual(self.body.corners.live_count, before)
        self.assertEqual(self.session.bore.points, [])

    def test_the_section_is_dragged_and_turned_and_takes_points_on_its_page(self) -> None:
        self.key(Qt.Key.Key_9)
        self.settle()
        card, grips = self.window.card(InsideCard), self.canvas.hand.section
        assert grips.section is not None
        before = self.pixels()
        handle = self.on_screen(grips.handle)
        self.canvas.hand.look(dataclasses.replace(self.canvas.camera, bearing=0.75 * np.pi))
        handle = self.on_screen(grips.handle)
        self.pull(handle, handle + QPoint(40, 0))
        place = number(card.panel.values, "place")
        self.assertGreater(abs(place), 1.0)
        kept = self.canvas.camera
        for bearing in (0.1, 1.0, 2.2, 3.0, 4.4, 5.5):  # its handle is to be had wherever one stands
            for distance in (0.3, 4.0, 40.0):
                for altitude in (-0.4, 0.8):
                    camera = dataclasses.replace(kept, bearing=bearing, altitude=altitude, distance=distance)
                    self.canvas.camera = camera.shifted(0.4 * distance, 0.2 * distance)
                    x, y, away = self.canvas.camera.to_screen(
                        grips.handle, self.canvas.width(), self.canvas.height()
                    )[0]  # fmt: skip
                    self.assertGreater(away, 0.0)
                    self.assertTrue(27 < x < self.canvas.width() - 27 and 27 < y < self.canvas.height() - 27, (x, y))
        self.canvas.camera = kept
        self.assertGreater(np.abs(self.pixels() - before).mean(), 1)
        handle = self.on_screen(grips.handle)
        self.pull(handle, handle + QPoint(50, 25), SHIFT)
        self.assertAlmostEqual(number(card.panel.values, "bearing"), 200.0, delta=0.5)
        self.assertAlmostEqual(number(card.panel.values, "tilt"), -10.0, delta=0.5)
        self.assertEqual(number(card.panel.values, "place"), place)
        # the page shows the inside of the solid: a point pressed there lies on it
        card.set_values({**card.panel.values, "bearing": 135.0, "tilt": 0.0, "place": 0.0})
        self.canvas.hand.look(dataclasses.replace(self.canvas.camera, bearing=0.75 * np.pi, altitude=0.3))
        self.key(Qt.Key.Key_O)
        bore = self.window.card(BoreCard)
        bore.panel.fields["how"].box.setCurrentIndex(1)
        bore.panel.fields["how"].box.activated.emit(1)
        self.click(self.canvas, QPoint(self.canvas.width() // 2 + 40, self.canvas.height() // 2 + 30))
        assert grips.section is not None
        normal = grips.section[1]
        self.assertAlmostEqual(float(normal @ self.session.bore.points[0]), 0.0, delta=0.01)
        self.assertLess(float(np.linalg.norm(self.session.bore.points[0])), 5.0)

    def test_a_row_of_mesh_care_is_seen_led_to_and_cured(self) -> None:
        self.session.do(
            Stroke("Islet", "haul", ((0.0, 8.0, 0.0), (0.0, 22.0, 0.0)), {"radius": 1.6, "strength": 100.0})
        )
        self.key(Qt.Key.Key_M)
        card = self.window.card(CareCard)
        self.assertTrue(card.isVisible())
        self.canvas.frame_all()
        before = self.pixels()
        self.click(card.look)
        self.settle()
        names = list(CHECKS)
        counts = {name: int(card.table.item(row, 1).text().replace(",", "")) for row, name in enumerate(names)}
        self.assertGreater(counts["thin"], 3)
        self.assertGreater(counts["stretched"], 10)
        self.assertEqual((counts["doubles"], counts["crossing"]), (0, 0))
        for name in ("thin", "stretched"):
            rect = card.table.visualItemRect(card.table.item(names.index(name), 0))
            self.click(card.table.viewport(), rect.center())
            self.assertEqual(card.chosen.name, name)
            self.assertRegex(card.worst.text(), "Worst: .* times as long")
            marked = np.abs(self.pixels() - before).max(axis=2) > 80
            self.assertGreater(int(marked.sum()), 200, "marks are seen")
        eye = self.canvas.camera.eye.copy()
        self.click(card.lead)
        self.assertGreater(float(np.linalg.norm(self.canvas.camera.eye - eye)), 3.0)
        self.assertGreater(float(self.canvas.camera.target[1]), 7.0, "the spike, not the ball")
        self.click(card.cure)
        self.wait(lambda: not self.session.busy)
        self.settle()
        left = int(card.table.item(names.index("stretched"), 1).text().replace(",", ""))
        self.assertLess(left, counts["stretched"] // 5)
        self.assertTrue(measure(self.body).closed)
        self.key(Qt.Key.Key_Z, CONTROL)
        self.assertEqual(card.table.item(0, 1).text(), "–")
        self.assertTrue(card.state.text().startswith("Not looked through"))
        self.click(self.window.route.stage_buttons["sculpt"])
        self.assertFalse(card.isVisible())
        self.assertFalse(self.canvas.picture is not None and self.canvas.picture.renderer.marked)
