"""A notice: something the user should read, over the canvas, without stopping the work."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hulmo.app.label import Label


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
        self.close_button = QPushButton("Put away")
        self.close_button.clicked.connect(self.hide)
        self._row.addWidget(self.close_button)
        self.hide()

    def say(self, text: str, answers: list[tuple[str, Callable[[], None]]] | None = None) -> None:
        """Show a text, with buttons that do something and put the notice away."""
        for old in self._answers:
            old.deleteLater()
        self._answers = []
        for label, act in answers or []:
            button = QPushButton(label)
            button.clicked.connect(self.hide)
            button.clicked.connect(act)
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
