"""A pointer that is moved by keys: what the mouse does on the canvas, without one."""

from typing import Protocol

from PyQt6.QtCore import QObject, QPointF, Qt, pyqtSignal

STEP, SMALL_STEP = 12.0, 1.0
"""Pixels that an arrow moves the pointer, and with Alt."""

WAYS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}

PRESS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Pointed(Protocol):
    """What is pressed and moved over: the hand."""

    def press(self, at: QPointF, button: Qt.MouseButton) -> None:
        """The pointer goes down."""

    def move(self, at: QPointF) -> None:
        """It goes elsewhere."""

    def release(self, button: Qt.MouseButton) -> None:
        """It is lifted."""

    def leave(self) -> None:
        """It is gone."""


class KeyCursor(QObject):
    """Return puts it on the canvas; then arrows move it and Return presses: held, with arrows, it draws a stroke.

    Escape takes it away, and so does the mouse.

    Signals
    -------
    moved
        It is somewhere else, or gone.
    """

    moved = pyqtSignal()

    def __init__(self, hand: Pointed, parent: QObject) -> None:
        super().__init__(parent)
        self._hand = hand
        self.at: QPointF | None = None
        """Where it is, pixels of the canvas; None while it is away."""
        self._down = False

    def key(self, key: int, keys: Qt.KeyboardModifier, down: bool, width: float, height: float) -> bool:
        """A key went down or up over a canvas of so many pixels; False when the cursor has no use for it."""
        if key in PRESS:
            self._return(down, width, height)
            return True
        if self.at is None or not down:
            return False
        if key == Qt.Key.Key_Escape:
            self.put_away()
            return True
        way = next((step for known, step in WAYS.items() if known == key), None)
        views = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        if way is None or (keys & views and not self._down):
            return False
        step = SMALL_STEP if keys & Qt.KeyboardModifier.AltModifier else STEP
        x = min(max(self.at.x() + way[0] * step, 0.0), width - 1)
        y = min(max(self.at.y() + way[1] * step, 0.0), height - 1)
        self.at = QPointF(x, y)
        self._hand.move(self.at)
        self.moved.emit()
        return True

    def put_away(self) -> None:
        """It is lifted and gone."""
        if self.at is None:
            return
        self._lift()
        self.at = None
        self._hand.leave()
        self.moved.emit()

    def _return(self, down: bool, width: float, height: float) -> None:
        if not down:
            self._lift()
        elif self.at is None:
            self.at = QPointF(width // 2, height // 2)
            self._hand.move(self.at)
            self.moved.emit()
        elif not self._down:
            self._down = True
            self._hand.press(self.at, Qt.MouseButton.LeftButton)

    def _lift(self) -> None:
        if self._down:
            self._down = False
            self._hand.release(Qt.MouseButton.LeftButton)
