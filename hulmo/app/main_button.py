"""The button of a card that does what the card is about."""

from PyQt6.QtWidgets import QPushButton, QWidget

KEY = "Ctrl+Return"


class MainButton(QPushButton):
    """Drawn in the accent; its key presses it from wherever the keyboard is."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setObjectName("main")

    def setToolTip(self, text: str | None) -> None:
        """What it does, and its key."""
        super().setToolTip(f"{text} ({KEY})" if text else "")


def main_button(cards: QWidget) -> MainButton | None:
    """The uppermost main button that can be pressed now; None when there is none."""
    there = [button for button in cards.findChildren(MainButton) if button.isVisible() and button.isEnabled()]
    return min(there, key=lambda button: button.mapTo(cards, button.rect().center()).y(), default=None)
