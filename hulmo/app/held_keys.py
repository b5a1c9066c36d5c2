"""Keys that are held while the mouse is dragged, wherever the keyboard's focus is."""

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit, QTextEdit, QWidget

from hulmo.app.hand import Hand
from hulmo.app.tools.brush import SIZE_KEY

KEYS = (Qt.Key.Key_Space, SIZE_KEY)


class HeldKeys(QObject):
    """Tells the hand which of its keys are down, though a button or a list has the focus. Takes no key away from anyone."""

    def __init__(self, hand: Hand, window: QWidget) -> None:
        super().__init__(window)
        self._hand, self._window = hand, window
        # while the window is made, tens of thousands of events come by that are no keys
        QTimer.singleShot(0, self._watch)

    def _watch(self) -> None:
        application = QApplication.instance()
        assert application is not None
        application.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Note keys that go down and up; nothing is swallowed."""
        # every event of the application comes by here: what it is is only asked where it can matter
        if watched is self._window and event is not None and event.type() == QEvent.Type.WindowDeactivate:
            self._hand.let_go()
        if not isinstance(event, QKeyEvent):
            return False
        kind = event.type()
        if kind not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            return False
        if event.key() not in KEYS or event.isAutoRepeat() or QApplication.activeModalWidget() is not None:
            return False
        down = kind == QEvent.Type.KeyPress
        if not (down and isinstance(QApplication.focusWidget(), QLineEdit | QTextEdit | QPlainTextEdit)):
            self._hand.key(event.key(), down)
        return False
