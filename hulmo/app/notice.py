"""A notice: something the user should read, over the canvas, without stopping the work."""

import time
from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hulmo.app.label import Label

SHORTEST = 1.5
"""Seconds that a notice stays at least, whatever happens meanwhile."""


class Notice(QFrame):
    """A strip with a text, one or two answers and a way to put it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.text = Label()
        self.text.setWordWrap(True)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 8, 10, 8)
        self._row.addWidget(self.text, 1)
        self._answers: list[QPushButton] = []
        self._offers: list[tuple[str, list[tuple[str, Callable[[], None]]]]] = []
        self._since = 0.0
        self.close_button = QPushButton("Put away")
        self.close_button.setToolTip("Take this message away")
        self.close_button.clicked.connect(self._put_away)
        self._row.addWidget(self.close_button)
        self.hide()

    def say(self, text: str, answers: list[tuple[str, Callable[[], None]]] | None = None) -> None:
        """Show a text, with buttons that do something and put the notice away.

        What asks something comes back once what came after it has been put away, until it is answered.
        """
        self._since = time.monotonic()
        if answers:
            self._offers = [*(offer for offer in self._offers if offer[0] != text), (text, answers)]
        self._show(text, answers or [])

    def expire(self, now: bool = False) -> None:
        """What was merely said may no longer be true: put it away, but for what has only just come, unless it is `now`."""
        if self.isVisible() and not self._answers and (now or time.monotonic() - self._since > SHORTEST):
            self._put_away()

    def forget(self) -> None:
        """Nothing of what was said or asked holds any more."""
        self._offers.clear()
        self.hide()

    def withdraw(self, text: str) -> None:
        """Something that was asked is no question any more."""
        shown = bool(self._answers) and self.isVisible() and self.text.text() == text
        self._offers = [offer for offer in self._offers if offer[0] != text]
        if shown:
            self._go_back()

    def _put_away(self) -> None:
        if self._answers and self._offers:
            self._offers.pop()  # put away by hand is an answer, too
        self._go_back()

    def _answered(self, act: Callable[[], None]) -> None:
        self._put_away()
        act()

    def _go_back(self) -> None:
        self.hide()
        if self._offers:
            self._show(*self._offers[-1])

    def _show(self, text: str, answers: list[tuple[str, Callable[[], None]]]) -> None:
        for old in self._answers:
            old.deleteLater()
        self._answers = []
        for label, act in answers:
            button = QPushButton(label)
            button.clicked.connect(lambda _, act=act: self._answered(act))
            self._row.insertWidget(self._row.count() - 1, button)
            self._answers.append(button)
        self.text.setText(text)
        self.show()
        self.place()
        self.raise_()

    def place(self) -> None:
        """Lie along the top of the parent."""
        parent = self.parentWidget()
        if parent is not None:
            width = min(parent.width() - 24, 760)
            self.resize(width, self._row.totalHeightForWidth(width))
            self.move((parent.width() - width) // 2, 12)
