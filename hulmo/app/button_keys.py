"""Keys that every button of the window answers: Return presses it, an arrow down opens the menu that hangs on it."""

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication, QPushButton, QToolButton, QWidget

PRESS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class ButtonKeys(QObject):
    """Watches the keys of one window; dialogs have their own manners."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        # while the window is made, tens of thousands of events come by that are no keys
        QTimer.singleShot(0, self._watch)

    def _watch(self) -> None:
        application = QApplication.instance()
        assert application is not None
        application.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Press, or open a menu; every other event goes on."""
        # every event of the application comes by here: what it is is only asked where it can matter
        if not isinstance(event, QKeyEvent) or not isinstance(watched, QAbstractButton):
            return False
        if event.type() != QEvent.Type.KeyPress or watched.window() is not self._window or not watched.isEnabled():
            return False
        if event.key() in PRESS:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                return False  # that is for the main button of the card
            if not event.isAutoRepeat():
                watched.click()
            return True
        if event.key() == Qt.Key.Key_Down and isinstance(watched, QToolButton | QPushButton):
            menu = watched.menu()
            if menu is not None:
                menu.popup(watched.mapToGlobal(QPoint(0, watched.height())))
                menu.setActiveAction(next(iter(menu.actions()), None))
                return True
        return False
