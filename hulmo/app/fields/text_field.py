"""A few words."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCompleter, QHBoxLayout, QLineEdit, QWidget

from hulmo.app.label import Label, plain_tip
from hulmo.core.setting import MOST_LETTERS, Text


class TextField(QWidget):
    """Label and a line to write in.

    Signals
    -------
    changed : str
        The user wrote something else.
    """

    changed = pyqtSignal(str)

    def __init__(self, setting: Text, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setting = setting
        self.line = QLineEdit(setting.default)
        self.line.setMaxLength(MOST_LETTERS)
        self.line.setAccessibleName(setting.label)
        self.line.setToolTip(plain_tip(setting.help))
        self.line.editingFinished.connect(lambda: self.changed.emit(self.value))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(Label(setting.label), 1)
        row.addWidget(self.line)
        self.setToolTip(plain_tip(setting.help))

    def suggest(self, words: list[str]) -> None:
        """Offer words while somebody writes."""
        helper = QCompleter(words, self)
        helper.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        helper.setCompletionMode(QCompleter.CompletionMode.PopupCompletion)
        self.line.setCompleter(helper)
        self.line.setPlaceholderText("none")

    @property
    def value(self) -> str:
        """The present words."""
        return self.line.text().strip()

    def set_value(self, value: str) -> None:
        """Show words; no signal."""
        if self.line.text() != value and not self.line.hasFocus():
            self.line.setText(value)
