"""A line for one value: a click selects all of it, so that typing replaces it."""

from PyQt6.QtGui import QFocusEvent, QMouseEvent
from PyQt6.QtWidgets import QLineEdit, QWidget


class ValueEdit(QLineEdit):
    """The first click selects everything, and so does a double-click; further ones place the cursor."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._fresh = False

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Select all, whichever way the focus came."""
        super().focusInEvent(event)
        self._fresh = True
        self.selectAll()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """A click that has just brought the focus leaves all selected, unless it was a drag."""
        super().mouseReleaseEvent(event)
        if self._fresh and not self.hasSelectedText():
            self.selectAll()
        self._fresh = False

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Select the whole value, not only its digits."""
        self.selectAll()
