"""A number with its unit: typed, dragged, or reset."""

import math

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QGridLayout, QLineEdit, QToolButton, QWidget

from hulmo.app.fields.read_number import read_number
from hulmo.app.fields.ruler import STEPS, Ruler
from hulmo.app.fields.value_edit import ValueEdit
from hulmo.app.icons import icon
from hulmo.app.label import Label, plain_tip
from hulmo.app.theme import Theme
from hulmo.core.errors import InvalidInput
from hulmo.core.setting import Number


class NumberField(QWidget):
    """Label and value over a ruler.

    Signals
    -------
    changed : float
        The user chose another value.
    """

    changed = pyqtSignal(float)

    def __init__(self, setting: Number, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setting = setting
        self._value = setting.default
        low, high = setting.comfort or (setting.low, setting.high)
        self._low, self._high = low, high
        unit = f" {setting.unit}" if setting.unit else ""
        tip = f"{setting.help}\n{setting.low:g} to {setting.high:g}{unit}. Type, drag the ruler, or press ↺ to reset."
        self._label = Label(setting.label)
        self._edit = ValueEdit()
        self._edit.setObjectName("value")
        self._edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._edit.setFixedWidth(92)
        self._edit.setAccessibleName(setting.label)
        self._edit.setAccessibleDescription(setting.help)
        self._edit.editingFinished.connect(self._typed)
        # after Enter the letters are shortcuts again, not text
        self._edit.returnPressed.connect(lambda: self.ruler.setFocus())
        self.ruler = Ruler(theme)
        self.ruler.setAccessibleName(f"{setting.label} ruler")
        self.ruler.valueChanged.connect(self._dragged)
        self._said = Label()
        self._said.setObjectName("wrong")
        self._said.setWordWrap(True)
        self._said.hide()
        self._reset = QToolButton()
        self._reset.setObjectName("reset")
        self._reset.setAccessibleName(f"Reset {setting.label}")
        self._reset.setToolTip(f"Back to {self._text(setting.default)}")
        self._reset.setFixedSize(20, 20)
        self._reset.setIconSize(QSize(13, 13))
        self._reset.setStyleSheet("padding: 0;")
        self._reset.clicked.connect(self.reset)
        for widget in (self, self._label, self._edit, self.ruler):
            widget.setToolTip(plain_tip(tip))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(2)
        grid.setVerticalSpacing(1)
        grid.addWidget(self._label, 0, 0)
        grid.addWidget(self._edit, 0, 1)
        grid.addWidget(self._reset, 0, 2)
        grid.addWidget(self.ruler, 1, 0, 1, 3)
        grid.addWidget(self._said, 2, 0, 1, 3)
        grid.setColumnStretch(0, 1)
        self.set_theme(theme)
        self.set_value(setting.default)

    @property
    def value(self) -> float:
        """The present value."""
        return float(self._value)

    @property
    def edit(self) -> QLineEdit:
        """Where the value is typed."""
        return self._edit

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.ruler.set_theme(theme)
        self._reset.setIcon(icon("reset", theme))

    def set_value(self, value: float) -> None:
        """Show a value; no signal."""
        self._value = value
        self._said.hide()
        self._edit.setText(self._text(value))
        self._edit.setCursorPosition(0)
        self.ruler.blockSignals(True)
        self.ruler.setValue(round(STEPS * self._share(value)))
        self.ruler.blockSignals(False)
        self._reset.setEnabled(not math.isclose(value, self.setting.default, rel_tol=1e-9, abs_tol=1e-12))

    def reset(self) -> None:
        """Back to the default."""
        self._choose(self.setting.default)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape gives typing up."""
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.set_value(self._value)
            self.ruler.setFocus()
        else:
            super().keyPressEvent(event)

    @property
    def said(self) -> str:
        """What is wrong with what was typed; empty when nothing is."""
        return self._said.text() if self._said.isVisibleTo(self) else ""

    def _choose(self, value: float) -> None:
        value = min(max(value, self.setting.low), self.setting.high)
        if self.setting.whole:
            value = float(round(value))
        differs = value != self._value
        self.set_value(value)
        if differs:
            self.changed.emit(value)

    def _typed(self) -> None:
        text = self._edit.text()
        if text == self._text(self._value):
            self._said.hide()
            return
        try:
            value = read_number(text, self.setting.unit)
        except InvalidInput as error:
            self._tell(f"{error}. It stays {self._text(self._value)}.")
            return
        low, high = self.setting.low, self.setting.high
        if not low <= value <= high:
            self._tell(f"{self._text(value)} is out of range: {self._text(low)} to {self._text(high)}.")
            return
        self._choose(value)

    def _tell(self, text: str) -> None:
        # what was typed is not swallowed without a word; the value stays
        self.set_value(self._value)
        self._said.setText(text)
        self._said.show()

    def _dragged(self, position: int) -> None:
        value = self._low + (self._high - self._low) * (position / STEPS) ** self.setting.curve
        step = 10.0 ** (math.floor(math.log10(max(abs(value), 1e-4))) - 1)
        self._choose(round(value / step) * step)

    def _share(self, value: float) -> float:
        part = (value - self._low) / (self._high - self._low)
        return float(min(max(part, 0.0), 1.0) ** (1.0 / self.setting.curve))

    def _text(self, value: float) -> str:
        number = f"{value:.4g}" if abs(value) < 10000 else f"{value:.0f}"
        return f"{number} {self.setting.unit}".strip()
