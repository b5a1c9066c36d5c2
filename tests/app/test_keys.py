"""The window by keys alone: from nothing to a delivered hill, in the order of reading, and at twice the size."""

import json
import os
import subprocess
import sys
import unittest

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QMenu, QWidget

from hulmo.app.cards.export_card import ExportCard
from hulmo.app.cards.form_card import FormCard
from hulmo.app.cards.ground_card import GroundCard
from hulmo.app.cards.relief_card import ReliefCard
from hulmo.app.session import STAGES
from hulmo.core.commands import AddBody, LayRelief
from tests.app.window import HOME, NONE, WindowTest

ALT, CONTROL, SHIFT = (
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
RETURN, ARROWS = Qt.Key.Key_Return, (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)

AT_TWICE_THE_SIZE = """
import json
from tests.app.window import WindowTest, QTest
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication
from hulmo.app import start
from hulmo.app.main_window import MainWindow
from hulmo.app.session import Session
from hulmo.core.commands import AddBody
screen = QApplication.primaryScreen()
session = Session()
window = MainWindow(session)
window.resize(start.SIZE.boundedTo(screen.availableSize() - start.FRAME))
window.show()
QTest.qWaitForWindowExposed(window)
session.do(AddBody("icosphere", {"radius": 5.0}, "Ball"))
session.start_job(lambda progress: [progress.step(0.5, "counting") or QTest.qWait(1) for _ in range(300)], lambda _: None)
QTest.qWait(50)
def corner(widget):
    at = widget.mapTo(window, QPoint(widget.width(), widget.height()))
    return [at.x(), at.y()]
print(json.dumps({
    "ratio": window.devicePixelRatioF(), "screen": [screen.availableSize().width(), screen.availableSize().height()],
    "window": [window.width(), window.height()], "stop": corner(window.reading.stop), "cards": corner(window.cards),
    "canvas": [window.canvas.width(), window.canvas.height()],
    "pixels": [window.canvas.grab_picture().width(), window.canvas.grab_picture().height()],
}))
session.job.cancel()
QTest.qWait(200)
session.history.mark_saved()
window.close()
"""


class KeysTest(WindowTest):
    def tab_to(self, wanted: QWidget, back: bool = False) -> int:
        """Press Tab until a widget has the keys; how often."""
        presses = 0
        while not wanted.hasFocus():
            presses += 1
            self.assertLess(presses, 150, f"Tab never comes to {wanted.accessibleName() or wanted}")
            self.key(Qt.Key.Key_Backtab if back else Qt.Key.Key_Tab, SHIFT if back else NONE)
        return presses

    def hold_return(self, moves: tuple[Qt.Key, ...]) -> None:
        handle = self.window.windowHandle()
        QTest.keyPress(handle, RETURN)
        for move in moves:
            self.key(move)
        QTest.keyRelease(handle, RETURN)
        QTest.qWait(20)

    def test_a_delivered_hill_by_keys_alone(self) -> None:
        window = self.window
        self.key(Qt.Key.Key_1, ALT)
        self.tab_to(window.card(FormCard).build)
        self.key(RETURN)
        self.settle()
        self.assertEqual(len(self.session.project.bodies), 1)
        self.key(Qt.Key.Key_1, CONTROL)
        self.settle()
        self.tab_to(window.card(ReliefCard).keep)
        self.key(Qt.Key.Key_Space)
        self.settle()
        self.assertEqual(len(self.session.body.layers), 1)  # type: ignore[union-attr]
        self.key(Qt.Key.Key_R)
        self.tab_to(self.canvas)
        before, camera = self.position.copy(), self.canvas.camera
        self.key(Qt.Key.Key_Right, CONTROL)
        self.assertGreater(float((self.canvas.camera.target - camera.target) @ camera.right), 0.1)
        self.key(Qt.Key.Key_Left, CONTROL)
        self.key(RETURN)
        self.assertIsNotNone(self.canvas.key_cursor.at)
        self.assertIn("height", self.window.reading.under)
        for _ in range(4):
            self.key(Qt.Key.Key_Left)
        start = self.canvas.hand.hit
        self.hold_return((Qt.Key.Key_Right,) * 6)
        assert start is not None
        moved = np.linalg.norm(self.position - before, axis=1) > 0
        self.assertTrue(moved.any())
        self.assertEqual(len(self.session.history.commands), 3)
        self.assertLess(np.linalg.norm(self.position[moved] - start.position, axis=1).min(), 1.0)
        self.key(Qt.Key.Key_L)
        self.assertEqual(self.session.tool.name, "lay")
        self.assertNotEqual(self.session.ground, 0)  # what lies everywhere already would show nothing
        self.tab_to(window.card(GroundCard).swatches[3], back=True)
        self.key(Qt.Key.Key_Space)
        self.tab_to(self.canvas)
        self.key(RETURN)
        self.hold_return((Qt.Key.Key_Up,) * 4)
        self.assertGreater(float(self.weight[:, 3].max()), 0.3)
        self.key(Qt.Key.Key_C)
        self.hold_return(())
        self.assertIsNotNone(self.session.project.figure)
        self.key(Qt.Key.Key_Escape)
        self.assertIsNone(self.canvas.key_cursor.at)
        bearing = self.canvas.camera.bearing
        self.key(Qt.Key.Key_Right)
        self.assertNotEqual(self.canvas.camera.bearing, bearing)
        self.key(Qt.Key.Key_F7)
        self.tab_to(window.card(ExportCard).button)
        self.key(RETURN)
        name = self.dialog().findChild(QLineEdit)
        assert name is not None
        QTest.keyClick(name, RETURN)
        self.wait(lambda: any(HOME.glob("*.glb")))
        self.settle()

    def test_tab_goes_as_one_reads(self) -> None:
        self.session.do(AddBody("icosphere", {"radius": 5.0, "edge": 1.0}, "Ball"))
        self.session.do(LayRelief("Ball", "noise", {}, "Bumps"))
        for stage in STAGES[:3]:
            self.session.choose_stage(stage)
            self.settle()
            self.window.heading.buttons["new"].setFocus()
            stops: list[QWidget] = []
            while (here := QApplication.focusWidget()) not in stops and len(stops) < 200:
                assert here is not None
                stops.append(here)
                self.key(Qt.Key.Key_Tab)
            parts = (self.window.heading, self.window.route, self.canvas, self.window.cards)
            part = [next(i for i, p in enumerate(parts) if p is stop or p.isAncestorOf(stop)) for stop in stops]
            self.assertEqual(part, sorted(part))
            self.assertEqual(set(part), {0, 1, 2, 3})
            inside = [s for s, p in zip(stops, part, strict=True) if p == 3]
            height = [s.mapTo(self.window.cards.widget(), s.rect().center()).y() for s in inside]
            self.assertGreater(min(np.diff(height), default=0), -10)
            self.key(Qt.Key.Key_Backtab, SHIFT)
            self.assertIs(QApplication.focusWidget(), stops[-1])

    def test_an_arrow_down_opens_the_lists_of_undo_and_open(self) -> None:
        self.session.do(AddBody("icosphere", {"radius": 5.0, "edge": 1.0}, "Ball"))
        for name in ("undo", "open"):
            self.tab_to(self.window.heading.buttons[name])
            self.key(Qt.Key.Key_Down)
            menu = QApplication.activePopupWidget()
            self.assertIsInstance(menu, QMenu)
            QTest.keyClick(menu, Qt.Key.Key_Escape)
            self.assertIsNone(QApplication.activePopupWidget())

    def test_a_relief_is_shown_when_it_is_chosen_and_goes_without_a_word(self) -> None:
        self.session.do(AddBody("icosphere", {"radius": 5.0, "edge": 0.5}, "Ball"))
        before = self.position.copy()
        self.key(Qt.Key.Key_1, CONTROL)
        self.wait(lambda: self.session.history.previewed is not None)
        self.assertFalse(np.array_equal(self.position, before))
        self.key(Qt.Key.Key_R)
        self.settle()
        np.testing.assert_array_equal(self.position, before)
        self.assertFalse(self.window.notice.isVisible())
        self.key(Qt.Key.Key_1, CONTROL)
        self.wait(lambda: self.session.preview.pending)
        self.window.card(ReliefCard).keep.click()  # while it is still being prepared
        self.settle()
        self.assertEqual([layer.laid is not None for layer in self.session.body.layers], [True])  # type: ignore[union-attr]
        self.assertEqual(len(self.session.history.commands), 2)

    def test_at_twice_the_size_it_stays_on_the_screen(self) -> None:
        environment = {**os.environ, "QT_SCALE_FACTOR": "2", "HULMO_TEST_SCREEN": "1920x1080"}
        done = subprocess.run(
            [sys.executable, "-c", AT_TWICE_THE_SIZE], env=environment, capture_output=True, text=True, check=True
        )
        seen = json.loads(done.stdout.strip().splitlines()[-1])
        self.assertEqual((seen["ratio"], seen["screen"]), (2.0, [960, 540]))
        for name in ("window", "stop", "cards"):
            self.assertLessEqual(seen[name][0], 960, name)
            self.assertLessEqual(seen[name][1], 500, name)
        self.assertGreater(seen["canvas"][0], 300)
        self.assertEqual(seen["pixels"], [2 * side for side in seen["canvas"]])


if __name__ == "__main__":
    unittest.main()
