"""A drop-down that the wheel passes over, unless it has been clicked."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QComboBox, QWidget

from hulmo.app.fields.wheel import takes_wheel


class DropDown(QComboBox):
    """A combo box in a card that scrolls: turning the wheel over it scrolls the card and changes nothing."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Turn through the entries only with the keyboard's focus."""
        if takes_wheel(self, event):
            super().wheelEvent(event)
