"""Any tool, look or command found by a word; the route without a scroll bar."""

import unittest

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QScrollArea

from hulmo.app.finder import Found, ranked
from hulmo.app.stages import STAGES
from hulmo.app.window_keys import ASKED
from hulmo.render.looks import LOOKS
from tests.app.window import WindowTest


class FinderTest(WindowTest):
    def test_a_word_and_return_take_a_tool_in_hand(self) -> None:
        self.build("sheet")
        for typed, ident in (
            ("terr", "relief terraces"),
            ("repose", "brush slump"),
            ("bore", "bore bore"),
            ("binary", "export glb"),
        ):
            self.key(Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
            self.assertTrue(self.window.finder.isVisible())
            QTest.keyClicks(self.window.finder.field, typed)
            QTest.keyClick(self.window.finder.field, Qt.Key.Key_Return)
            self.assertEqual(self.session.tool.ident, ident, typed)
            self.assertFalse(self.window.finder.isVisible())
        # with nothing typed: what was used last, the last one first
        self.click(self.window.route.finder)
        labels = [self.window.finder.list.item(i).text().split("  ")[0] for i in range(3)]  # type: ignore[union-attr]
        self.assertEqual(labels, ["glTF binary", "Bore", "Slump"])
        QTest.keyClick(self.window.finder.field, Qt.Key.Key_Down)
        QTest.keyClick(self.window.finder.field, Qt.Key.Key_Return)
        self.assertEqual(self.session.tool.ident, "bore bore")
        self.key(Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(self.window.finder.field, "slope")
        QTest.keyClick(self.window.finder.field, Qt.Key.Key_Return)
        self.assertEqual(self.canvas.look, "slope")
        self.key(Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(self.window.finder.field, "no such thing")
        QTest.keyClick(self.window.finder.field, Qt.Key.Key_Return)
        QTest.keyClick(self.window.finder.field, Qt.Key.Key_Escape)
        self.assertFalse(self.window.finder.isVisible())

    def test_every_tool_is_the_first_found_by_its_name(self) -> None:
        entries = self.window.finder._entries
        for tool in (tool for stage in STAGES for tool in stage.tools):
            found = ranked(entries, tool.label, [])
            self.assertEqual(found[0].label, tool.label)
        self.assertEqual(ranked([Found("a", "Smooth", "", "", "", int)], "roo", []), [])

    def test_a_key_means_one_thing(self) -> None:
        keys = [stage.key for stage in STAGES] + [tool.key for stage in STAGES for tool in stage.tools if tool.key]
        keys += [look.key for look in LOOKS.values()] + list(ASKED)
        self.assertEqual([key for key in keys if keys.count(key) > 1], [])
        declared = [entry.key().toString() for entry in self.window.findChildren(QShortcut)]
        self.assertLessEqual({QKeySequence(key).toString() for key in keys}, set(declared))

    def test_the_route_needs_no_scroll_bar(self) -> None:
        self.window.resize(1280, 776)
        for stage in STAGES:
            self.session.choose_stage(stage)
            QTest.qWait(30)
            bar = self.window.route.findChild(QScrollArea, "routescroll").verticalScrollBar()
            self.assertEqual(bar.maximum(), 0, stage.name)
            for tool in stage.tools:
                button = self.window.route.tool_buttons[tool.ident]
                wanted = button.fontMetrics().horizontalAdvance(button.text()) + button.iconSize().width()
                self.assertLessEqual(wanted, button.width(), tool.label)


if __name__ == "__main__":
    unittest.main()
