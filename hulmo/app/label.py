"""Words on the window: always as they stand, never as mark-up, since names come from files of other people."""

import html

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel


class Label(QLabel):
    """A label that shows `<b>` as `<b>`."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def plain_tip(text: str) -> str:
    """A tooltip that shows a text as it stands."""
    return f"<span>{html.escape(text)}</span>" if "<" in text else text
