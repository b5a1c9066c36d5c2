"""A colour."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QHBoxLayout, QPushButton, QWidget

from hulmo.app.label import Label, plain_tip
from hulmo.core.setting import Colour


class ColourField(QWidget):
    """Label and a patch that asks for a colour when it is pressed.

    Signals
    -------
    changed : str
        The user chose another one, #rrggbb.
    """

    changed = pyqtSignal(str)

    def __init__(self, setting: Colour, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setting = setting
        self.patch = QPushButton()
        self.patch.setFixedSize(72, 24)
        self.patch.setAccessibleName(setting.label)
        self.patch.setToolTip(plain_tip(setting.help))
        self.patch.clicked.connect(self._ask)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(Label(setting.label), 1)
        row.addWidget(self.patch)
        self.setToolTip(plain_tip(setting.help))
        self.set_value(setting.default)

    @property
    def value(self) -> str:
        """The present colour."""
        return self._value

    def set_value(self, value: str) -> None:
        """Show a colour; no signal."""
        self._value = value
        self.patch.setStyleSheet(f"background: {value}; border: 1px solid palette(mid); border-radius: 4px;")

    def _ask(self) -> None:
        dialog = QColorDialog(QColor(self._value), self.window())
        dialog.setWindowTitle(self.setting.label)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.colorSelected.connect(lambda colour: self._chosen(colour.name()))
        dialog.open()

    def _chosen(self, value: str) -> None:
        self.set_value(value)
        self.changed.emit(value)
