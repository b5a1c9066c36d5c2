"""A drop-down of the project's grounds."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from hulmo.app.fields.drop_down import DropDown
from hulmo.app.label import Label


class GroundField(QWidget):
    """Label and a drop-down of the project's grounds, with one entry for none.

    Signals
    -------
    changed
        The user chose another one.
    """

    changed = pyqtSignal()

    def __init__(self, label: str, none: str, text: str) -> None:
        super().__init__()
        self._none = none
        self.box = DropDown()
        self.box.setAccessibleName(label)
        self.box.setMinimumWidth(132)
        self.box.activated.connect(lambda _: self.changed.emit())
        self.setToolTip(text)
        self.box.setToolTip(text)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(Label(label), 1)
        row.addWidget(self.box)

    @property
    def value(self) -> str:
        """Name of the ground; empty for none."""
        return str(self.box.currentData() or "")

    def show_grounds(self, names: list[str], value: str | None = None) -> None:
        """Offer other grounds, and choose one; None leaves the choice as it is where it can."""
        now = self.value if value is None else value
        self.box.clear()
        self.box.addItem(self._none, "")
        for name in names:
            self.box.addItem(name, name)
        self.box.setCurrentIndex(max(0, self.box.findData(now)))
