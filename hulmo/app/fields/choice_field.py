"""One of a few possibilities."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from hulmo.app.fields.drop_down import DropDown
from hulmo.app.label import Label, plain_tip
from hulmo.core.setting import Choice


class ChoiceField(QWidget):
    """Label and a drop-down.

    Signals
    -------
    changed : str
        The user chose another value.
    """

    changed = pyqtSignal(str)

    def __init__(self, setting: Choice, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setting = setting
        self.box = DropDown()
        self.box.setAccessibleName(setting.label)
        self.box.setAccessibleDescription(setting.help)
        for value, label, text in setting.choices:
            self.box.addItem(label, value)
            self.box.setItemData(self.box.count() - 1, text, Qt.ItemDataRole.ToolTipRole)
        self.box.activated.connect(lambda _: self.changed.emit(self.value))
        self.box.currentIndexChanged.connect(self._tell)
        self.box.setMinimumWidth(132)
        title = Label(setting.label)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(title, 1)
        row.addWidget(self.box)
        self.set_value(setting.default)
        self._tell()

    @property
    def value(self) -> str:
        """The present value."""
        return str(self.box.currentData())

    def set_value(self, value: str) -> None:
        """Show a value; no signal."""
        self.box.setCurrentIndex(self.box.findData(value))

    def _tell(self) -> None:
        text = next((text for value, _, text in self.setting.choices if value == self.value), "")
        for widget in (self, self.box):
            widget.setToolTip(plain_tip(f"{self.setting.help}\n{text}"))
