"""A grey image: one of the shipped ones, or a file."""

import pathlib

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from hulmo.app.fields.drop_down import DropDown
from hulmo.app.files import ask_image
from hulmo.app.label import Label, plain_tip
from hulmo.core.grey_image import image_file, shipped_images
from hulmo.core.setting import Picture

SIDE = 34


class PictureField(QWidget):
    """Label and a drop-down with small pictures; its last entry asks for a file.

    Signals
    -------
    changed : str
        The user chose another image.
    """

    changed = pyqtSignal(str)

    def __init__(self, setting: Picture, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setting = setting
        self._value = setting.default
        self.box = DropDown()
        self.box.setAccessibleName(setting.label)
        self.box.setAccessibleDescription(setting.help)
        self.box.setToolTip(plain_tip(setting.help))
        self.box.setIconSize(QSize(SIDE, SIDE))
        self.box.setMinimumWidth(150)
        self.box.activated.connect(self._chosen)
        title = Label(setting.label)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 2)
        row.addWidget(title, 1)
        row.addWidget(self.box)
        self.setToolTip(plain_tip(setting.help))
        self.set_value(setting.default)

    @property
    def value(self) -> str:
        """The present image."""
        return self._value

    def set_value(self, value: str) -> None:
        """Show an image; no signal."""
        self._value = value
        self.box.clear()
        for name in shipped_images():
            self.box.addItem(self._icon(name), name.capitalize(), name)
        if self.box.findData(value) < 0:
            self.box.addItem(self._icon(value), pathlib.Path(value).name, value)
        self.box.addItem("From a file…", "")
        self.box.setCurrentIndex(self.box.findData(value))

    def _icon(self, name: str) -> QIcon:
        pixmap = QPixmap(str(image_file(name)))
        if pixmap.isNull():
            return QIcon()
        return QIcon(
            pixmap.scaled(SIDE, SIDE, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
        )

    def _chosen(self, _: int) -> None:
        value = str(self.box.currentData())
        if value:
            self._choose(value)
            return
        self.set_value(self._value)
        ask_image(self.window() or self, lambda path: self._choose(str(path)))

    def _choose(self, value: str) -> None:
        if value != self._value:
            self.set_value(value)
            self.changed.emit(value)
