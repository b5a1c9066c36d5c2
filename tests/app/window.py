"""A real window on a virtual screen, worked by mouse and keys."""

import atexit
import itertools
import os
import pathlib
import subprocess
import tempfile
import time
import unittest
from collections.abc import Callable
from typing import TypeVar

import numpy as np

_HOME = tempfile.TemporaryDirectory()
atexit.register(_HOME.cleanup)


def _screen() -> None:
    # settings, journal and files of the tests stay in a folder of their own, on a screen of their own
    cache = os.environ.get("XDG_CACHE_HOME") or str(pathlib.Path.home() / ".cache")
    os.environ.update(XDG_CACHE_HOME=cache, HOME=_HOME.name)
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME"):
        os.environ[name] = f"{_HOME.name}/{name}"
    os.environ.pop("WAYLAND_DISPLAY", None)
    size = os.environ.get("HULMO_TEST_SCREEN", "1400x900")
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", f"{size}x24", "-nolisten", "tcp"],
        pass_fds=(write,),
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    with os.fdopen(read) as stream:
        os.environ["DISPLAY"] = ":" + stream.readline().strip()
    atexit.register(server.terminate)


_screen()

from PyQt6.QtCore import QPoint, QPointF, Qt  # noqa: E402
from PyQt6.QtGui import QImage, QWheelEvent  # noqa: E402
from PyQt6.QtTest import QTest  # noqa: E402
from PyQt6.QtWidgets import QApplication, QDialogButtonBox, QFileDialog, QListView, QMessageBox, QTreeView, QWidget  # noqa: E402

from hulmo.app.cards.form_card import FormCard  # noqa: E402
from hulmo.app.main_window import MainWindow  # noqa: E402
from hulmo.app.session import Session  # noqa: E402
from hulmo.app.start import prepare_application  # noqa: E402

APPLICATION = prepare_application(["hulmo"])
HOME = pathlib.Path(_HOME.name)
Shown = TypeVar("Shown", bound=QWidget)
LEFT, RIGHT, MIDDLE = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton
NONE = Qt.KeyboardModifier.NoModifier


class WindowTest(unittest.TestCase):
    """Opens a window for each test. Mouse events go to the native window, as the system's own would."""

    def setUp(self) -> None:
        for file in HOME.glob("*.*"):
            if file.is_file():
                file.unlink()
        self.session = Session()
        self.window = MainWindow(self.session)
        self.window.resize(1280, 800)
        self.window.show()
        self.window.activateWindow()
        self.assertTrue(QTest.qWaitForWindowExposed(self.window))
        self.canvas = self.window.canvas
        self.settle()

    def tearDown(self) -> None:
        self.wait(lambda: not self.session.busy)  # what it reports to must still be there
        for other in APPLICATION.topLevelWidgets():
            if other is not self.window:
                other.close()
        self.window._dropped = True
        self.window.close()
        self.window.deleteLater()
        QTest.qWait(10)

    def wait(self, until: Callable[[], bool], seconds: float = 40.0) -> None:
        end = time.monotonic() + seconds
        while not until():
            self.assertLess(time.monotonic(), end, "waited in vain")
            QTest.qWait(10)

    def settle(self) -> None:
        """Wait until no job runs, cards have sent what they wait with, and the full picture is on the screen."""
        QTest.qWait(60)
        self.wait(lambda: not self.session.busy and self.canvas.resting)
        QTest.qWait(20)

    def mouse(
        self,
        what: str,
        widget: QWidget,
        at: QPoint | None = None,
        button: Qt.MouseButton = LEFT,
        keys: Qt.KeyboardModifier = NONE,
    ) -> None:
        top = widget.window()
        assert top is not None
        point = widget.mapTo(top, widget.rect().center() if at is None else at)
        handle = top.windowHandle()
        if what == "move":
            QTest.mouseMove(handle, point)
        else:
            getattr(QTest, f"mouse{what.capitalize()}")(handle, button, keys, point)

    def click(self, widget: QWidget, at: QPoint | None = None) -> None:
        self.assertTrue(widget.isVisible(), f"{widget.accessibleName() or widget} cannot be seen")
        self.assertTrue(widget.isEnabled(), f"{widget.accessibleName() or widget} is off")
        self.mouse("click", widget, at)
        QTest.qWait(10)

    def type_into(self, edit: object, text: str) -> None:
        self.click(edit)  # type: ignore[arg-type]
        QTest.keySequence(edit, "Ctrl+A")  # type: ignore[call-overload]
        QTest.keyClicks(edit, text)  # type: ignore[call-overload]
        QTest.keyClick(edit, Qt.Key.Key_Return)  # type: ignore[call-overload]
        QTest.qWait(20)

    def drag(
        self, points: list[tuple[int, int]], button: Qt.MouseButton = LEFT, keys: Qt.KeyboardModifier = NONE,
        on: QWidget | None = None,
    ) -> None:  # fmt: skip
        """Press on the canvas, or another widget, move along points, let go."""
        path, widget = [QPoint(*point) for point in points], on or self.canvas
        self.mouse("move", widget, path[0])
        self.mouse("press", widget, path[0], button, keys)
        for a, b in itertools.pairwise(path):
            for i in range(1, 9):
                self.mouse("move", widget, a + (b - a) * i / 8)
                QTest.qWait(1)
        self.mouse("release", widget, path[-1], button, keys)
        QTest.qWait(10)

    def wheel(self, at: QPoint, notches: int) -> None:
        where = QPointF(at)
        glob = QPointF(self.canvas.mapToGlobal(at))
        event = QWheelEvent(
            where,
            glob,
            QPoint(),
            QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton,
            NONE,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(self.canvas, event)

    def key(self, key: Qt.Key, keys: Qt.KeyboardModifier = NONE) -> None:
        QTest.keyClick(self.window.windowHandle(), key, keys)
        QTest.qWait(10)

    def pixels(self) -> np.ndarray:
        """(H, W, 3) what the canvas shows, marks left out."""
        self.settle()
        image = self.canvas.grab_picture().convertToFormat(QImage.Format.Format_RGB888)
        bits = image.constBits()
        assert bits is not None
        bits.setsize(image.sizeInBytes())
        rows = np.frombuffer(bits, np.uint8).reshape(image.height(), image.bytesPerLine())
        return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)

    def stage(self, name: str, tool: str) -> None:
        self.click(self.window.route.stage_buttons[name])
        self.click(self.window.route.tool_buttons[tool])

    def build(self, form: str = "icosphere") -> None:
        """Build a base form with its first settings, by mouse."""
        self.stage("block", f"form {form}")
        self.click(self.window.card(FormCard).build)
        self.settle()

    def dialog(self) -> QFileDialog:
        found = self._opened(QFileDialog)
        QTest.qWait(50)
        return found

    def question(self) -> QMessageBox:
        return self._opened(QMessageBox)

    def _opened(self, kind: type[Shown]) -> Shown:
        found: list[Shown] = []

        def there() -> bool:
            found[:] = [w for w in APPLICATION.topLevelWidgets() if isinstance(w, kind) and w.isVisible()]
            return bool(found)

        self.wait(there)
        return found[0]

    def accept(self, dialog: QFileDialog) -> None:
        box = dialog.findChild(QDialogButtonBox)
        assert box is not None
        button = next(b for b in box.buttons() if box.buttonRole(b) == QDialogButtonBox.ButtonRole.AcceptRole)
        self.click(button)
        self.settle()

    def pick(self, dialog: QFileDialog, name: str) -> None:
        """Choose a file in a dialog's list and accept."""
        view = next(
            view
            for view in dialog.findChildren((QListView, QTreeView))
            if view.isVisible() and "View" in view.objectName()
        )
        model = view.model()
        assert model is not None
        root = view.rootIndex()
        self.wait(lambda: any(model.index(r, 0, root).data() == name for r in range(model.rowCount(root))))
        index = next(
            model.index(r, 0, root) for r in range(model.rowCount(root)) if model.index(r, 0, root).data() == name
        )
        viewport = view.viewport()
        assert viewport is not None
        at = view.visualRect(index).center()
        self.click(viewport, at)
        QTest.qWait(100)
        self.accept(dialog)

    @property
    def position(self) -> np.ndarray:
        body = self.session.body
        assert body is not None
        return body.vertices["position"]

    @property
    def weight(self) -> np.ndarray:
        body = self.session.body
        assert body is not None
        return body.vertices["weight"]


def keys_of(text: str) -> tuple[Qt.Key, Qt.KeyboardModifier]:
    """The key and what is held with it, for a shortcut such as "Shift+S"."""
    held = Qt.KeyboardModifier.ShiftModifier if text.startswith("Shift+") else NONE
    return getattr(Qt.Key, f"Key_{text.removeprefix('Shift+')}"), held
