"""A line for a name: Escape gives it up."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QWidget


class NameEdit(QLineEdit):
    """Keeps what it held when the focus came, and shows it again when Escape is pressed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._held = ""

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Remember what there was."""
        self._held = self.text()
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape: as it was, and no longer typing."""
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.setText(self._held)
            self.clearFocus()
            return
        super().keyPressEvent(event)
