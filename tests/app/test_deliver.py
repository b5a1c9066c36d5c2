"""Deliveries by mouse: what would go wrong is cured and waived, and all of it is written."""

import json
import pathlib
import re
import tempfile
import unittest

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit, QPushButton

from hulmo.app.cards.deliver_card import DeliverCard
from hulmo.app.stages import tool_named
from hulmo.core.commands import AddBody, ChangeUv, LayRelief, LayUv
from hulmo.core.deliver.write import deliver_to
from hulmo.core.progress import silent
from tests.app.window import LEFT, WindowTest


class DeliverTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.do(AddBody("sheet", {"size": 20.0, "depth": 20.0, "edge": 0.5}, "Land"))
        self.session.do(LayRelief("Land", "noise", {"height": 2.0}))
        self.session.do(LayUv("Land", "above", unit=2.0))
        self.session.choose_tool(tool_named("deliver", "deliver"))
        self.settle()
        self.card = self.window.card(DeliverCard)
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))

    def button(self, text: str) -> QPushButton:
        return next(b for b in self.card.list.findChildren(QPushButton) if b.text() == text and b.isVisible())

    def check(self) -> None:
        self.click(self.card.look)
        self.wait(lambda: not self.session.busy and bool(self.card.told.text()))
        self.settle()

    def test_a_row_is_cured_another_waived_and_patches_with_levels_are_delivered(self) -> None:
        self.check()
        self.assertIn("Ready to be delivered", self.card.told.text())
        words = [label.text() for label in self.card.list.findChildren(type(self.card.told))]
        self.assertTrue(any("outside the image" in text for text in words))
        steps = len(self.session.history.commands)
        self.click(self.button("Waive"))
        self.settle()
        field = next(edit for edit in self.card.list.findChildren(QLineEdit) if edit.isVisible())
        QTest.keyClicks(field, "it repeats")
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.wait(lambda: bool(self.session.project.waivers))
        self.settle()
        self.assertIn("1 thing waived", self.card.told.text())
        self.session.undo()
        self.assertEqual(self.session.project.waivers, ())
        self.check()
        self.click(self.button("Cure"))
        self.wait(lambda: len(self.session.history.commands) > steps and not self.session.busy)
        self.settle()
        words = [label.text() for label in self.card.list.findChildren(type(self.card.told)) if label.isVisible()]
        self.assertFalse(any("outside the image" in text for text in words), "it is packed now")
        for name, text in (("levels", "2"), ("patch", "10")):
            self.type_into(self.card.panel.fields[name].edit, text)
        self.window.cards.ensureWidgetVisible(self.card.write)
        self.settle()
        self.click(self.card.write)
        dialog = self.dialog()
        edit = dialog.findChild(QLineEdit)
        assert edit is not None
        edit.setText(str(self.folder))
        self.accept(dialog)
        self.wait(lambda: self.card.told.text().startswith("Wrote"), 120.0)
        told = json.loads((self.folder / "manifest.json").read_text())
        self.assertEqual([len(piece["levels"]) for piece in told["pieces"]], [3] * 4)
        self.assertEqual(sorted({*told["files"], "manifest.json"}), sorted(p.name for p in self.folder.iterdir()))
        self.assertRegex(self.card.told.text(), r"Wrote 13 files, .* levels lie up to 0\.\d+ m off")

    def test_levels_are_seen_by_distance_and_any_change_ends_it(self) -> None:
        for name, text in (("levels", "2"), ("away", "300")):
            self.type_into(self.card.panel.fields[name].edit, text)
        self.window.cards.ensureWidgetVisible(self.card.levels)
        self.settle()
        before = self.pixels()
        self.click(self.card.levels)
        self.wait(lambda: self.canvas.levels.on, 120.0)
        self.settle()
        self.assertIn("level 0, 3,200 triangles", self.card.told.text())
        self.assertLess(float(np.abs(self.pixels().astype(int) - before).mean()), 2.0)
        drawn = [body for body in self.canvas.picture.renderer.project.bodies if body.shown]
        self.assertEqual([body.corners.live_count for body in drawn], [3200])
        for _ in range(60):  # the wheel leads away
            self.wheel(QPoint(self.canvas.width() // 2, self.canvas.height() // 2), -1)
        self.settle()
        self.assertRegex(self.card.told.text(), r"Shown: level [12], ")
        drawn = [body for body in self.canvas.picture.renderer.project.bodies if body.shown]
        self.assertEqual(len(drawn), 1)
        self.assertLess(drawn[0].corners.live_count, 3200)
        self.session.do(LayRelief("Land", "noise", {"height": 1.0}))
        self.settle()
        self.assertFalse(self.canvas.levels.on or self.card.levels.isChecked())
        self.assertIs(self.canvas.picture.renderer.project, self.session.project)

    def test_a_row_is_shown_and_a_delivered_file_is_drawn_beside_the_scene(self) -> None:
        self.session.do(ChangeUv("Land", "mirror"))
        self.check()
        shown = self.pixels()
        self.click(self.button("Show"))
        self.settle()
        self.assertTrue(self.canvas.picture.renderer.marked)
        self.assertGreater(int((np.abs(self.pixels() - shown).max(axis=2) > 20).sum()), 500)
        self.session.undo()
        self.settle()
        self.assertFalse(self.canvas.picture.renderer.marked)
        deliver_to(self.session.project, self.card.profile, self.folder, silent())
        name = next(path.name for path in self.folder.iterdir() if path.suffix == ".glb")
        self.window.cards.ensureWidgetVisible(self.card.compare)
        self.settle()
        self.click(self.card.compare)
        dialog = self.dialog()
        edit = dialog.findChild(QLineEdit)
        assert edit is not None
        edit.setText(str(self.folder / name))
        self.accept(dialog)
        self.wait(lambda: self.window.delivering.dialog is not None, 120.0)
        both = self.window.delivering.dialog
        assert both is not None
        self.settle()
        self.assertGreater(float(re.match(r"([\d.]+) dB", both.told.text())[1]), 40.0, both.told.text())
        view = both.view
        frame = view.frame
        at = QPoint(frame.left() + frame.width() // 2, frame.center().y())
        self.mouse("press", view, at, LEFT)
        self.mouse("move", view, QPoint(frame.left() + frame.width() // 5, at.y()), LEFT)
        self.mouse("release", view, QPoint(frame.left() + frame.width() // 5, at.y()), LEFT)
        self.assertAlmostEqual(view.share, 0.2, places=2)
        QTest.keyClick(view, Qt.Key.Key_Right)
        self.assertAlmostEqual(view.share, 0.22, places=2)
        both.close()


if __name__ == "__main__":
    unittest.main()
