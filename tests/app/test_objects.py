"""Objects of the scene by mouse: placed, dragged, hidden, looked from, named, taken away."""

import unittest

import numpy as np
from PyQt6.QtCore import QPoint, Qt

from hulmo.app.cards.object_card import ObjectCard
from hulmo.app.cards.still_card import StillCard
from hulmo.app.stages import tool_named
from hulmo.core.commands import AddBody, ChangeObject
from tests.app.window import WindowTest


class ObjectTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("sheet", {"size": 20.0, "depth": 20.0, "edge": 1.0}, "Ground"))
        self.canvas.frame_all()
        self.key(Qt.Key.Key_O, Qt.KeyboardModifier.ShiftModifier)
        self.card = self.window.card(ObjectCard)

    def figures(self) -> list[tuple[float, float, float]]:
        return [entry.at for entry in self.session.project.objects if entry.kind == "figure"]

    def screen(self, at: tuple[float, float, float]) -> QPoint:
        x, y, _ = self.canvas.camera.to_screen(np.array(at), self.canvas.width(), self.canvas.height())[0]
        return QPoint(round(x), round(y))

    def test_figures_are_placed_and_dragged_along_the_ground(self) -> None:
        middle = self.canvas.rect().center()
        before = self.pixels()
        for aside in (-60, 60):
            self.click(self.card.figure)
            self.click(self.canvas, middle + QPoint(aside, 0))
        self.assertEqual(len(self.figures()), 2)
        self.settle()
        self.assertGreater(int((np.abs(self.pixels() - before).max(axis=2) > 30).sum()), 100)
        first, second = self.figures()
        # pressing one chooses it and moves nothing, however little the hand shakes
        self.mouse("press", self.canvas, self.screen(first) - QPoint(0, 4))
        self.mouse("move", self.canvas, self.screen(first) - QPoint(1, 4))
        self.mouse("release", self.canvas, self.screen(first) - QPoint(1, 4))
        self.assertEqual((self.figures(), self.session.object.ident), ([first, second], 1))  # type: ignore[union-attr]
        start = self.screen(first) - QPoint(0, 4)
        self.drag([(start.x(), start.y()), (start.x() - 30, start.y() + 40)])
        moved = self.figures()[0]
        self.assertNotEqual(moved, first)
        self.assertEqual(self.figures()[1], second)
        self.assertAlmostEqual(moved[1], 0.0, places=4)  # the sheet is level
        self.settle()
        self.assertLess((self.screen(moved) - QPoint(start.x() - 30, start.y() + 40)).manhattanLength(), 4)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.figures(), [first, second], "one drag is one step")
        field = self.card.panel.fields["north"]
        self.type_into(field.edit, "3.5 m")  # type: ignore[union-attr]
        self.assertEqual(self.figures()[0], (first[0], first[1], -3.5))
        self.click(self.card.remove)
        self.assertEqual(self.figures(), [second])

    def test_views_have_pictures_an_order_a_frame_and_a_lock(self) -> None:
        self.click(self.card.keep)
        self.drag([(300, 300), (420, 340)], Qt.MouseButton.RightButton)
        self.click(self.card.keep)
        first, second = (view.name for view in self.session.project.viewpoints)
        self.click(self.card.earlier)
        self.assertEqual([view.name for view in self.session.project.viewpoints], [second, first])
        self.settle()
        idents = [entry.ident for entry in self.session.project.objects]
        self.wait(lambda: all(self.card.list.picture_of(ident) is not None for ident in idents))
        picture = self.card.list.picture_of(idents[0])
        assert picture is not None
        self.assertGreater(picture.width(), picture.height())
        own = self.card.own["viewpoint"].fields
        self.session.do(ChangeObject(second, values={"frame": "9:16"}))
        self.settle()
        self.wait(lambda: self.card.list.picture_of(idents[0]).height() > self.card.list.picture_of(idents[0]).width())
        self.window.cards.ensureWidgetVisible(own["locked"])
        self.settle()
        self.click(own["locked"], QPoint(9, own["locked"].height() // 2))
        self.assertTrue(self.session.object.values["locked"])
        at = self.session.object.at
        self.session.do(ChangeObject(second, at=(0.0, 9.0, 0.0)))
        self.assertIn("is locked; unlock it first", self.window.notice.text.text())
        self.click(self.card.remove)
        self.assertEqual(self.session.object.at, at)
        # pictures of it are as its frame says
        self.session.choose_tool(tool_named("still", "still"))
        card = self.window.card(StillCard)
        card.of.setCurrentIndex(1)
        card.of.activated.emit(1)
        self.assertEqual(card.values["height"], round(1920 * 16 / 9))

    def test_a_view_is_kept_and_looked_from_again(self) -> None:
        self.click(self.card.keep)
        eye = self.canvas.camera.eye.copy()
        self.type_into(self.card.name, "From the south")
        self.assertEqual([view.name for view in self.session.project.viewpoints], ["From the south"])
        self.drag([(300, 300), (420, 340)], Qt.MouseButton.RightButton)
        self.assertGreater(float(np.linalg.norm(self.canvas.camera.eye - eye)), 1.0)
        self.settle()
        self.click(self.card.go)
        self.assertTrue(self.canvas.glide.going, "a short flight")
        self.settle()
        np.testing.assert_allclose(self.canvas.camera.eye, eye, atol=1e-6)
        width = self.canvas.camera.field
        self.type_into(self.card.own["viewpoint"].fields["field"].edit, "70")  # type: ignore[union-attr]
        self.click(self.card.go)
        self.settle()
        self.assertEqual((width, self.canvas.camera.field), (40.0, 70.0))
        self.drag([(300, 300), (420, 340)], Qt.MouseButton.RightButton)
        self.wheel(self.canvas.rect().center(), -4)
        self.settle()
        seen = self.pixels()
        self.session.do(ChangeObject("From the south", shown=False))
        self.settle()
        self.assertGreater(
            int((np.abs(self.pixels() - seen).max(axis=2) > 10).sum()), 20, "its sign is there, and goes"
        )


if __name__ == "__main__":
    unittest.main()
