"""A list of objects of the scene, each with its eye."""

from collections.abc import Callable, Iterable

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.theme import Theme
from hulmo.core.objects.scene_object import SceneObject

ROW = 26
HIGHEST = 6 * ROW + 60
"""Pixels."""


class ObjectList(QListWidget):
    """Shows objects and says which one is pressed.

    Signals
    -------
    picked : int
        Number of the object that the user chose.
    eye_pressed : str, bool
        Name of an object, and whether it is to be shown from now on.
    """

    picked = pyqtSignal(int)
    eye_pressed = pyqtSignal(str, bool)

    def __init__(self, name: str, tip: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.currentItemChanged.connect(self._chosen)
        self.picture_of: Callable[[int], QPixmap | None] = lambda ident: None
        """Gives the picture of an object by its number."""

    def show_entries(self, entries: Iterable[tuple[SceneObject, str]], theme: Theme) -> None:
        """Show objects, each with a word about it."""
        self.blockSignals(True)
        self.clear()
        for entry, word in entries:
            item = QListWidgetItem()
            item.setSizeHint(QSize(0, ROW))
            item.setData(Qt.ItemDataRole.UserRole, entry.ident)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, entry.name)
            row = LayerRow(entry.name, word, entry.shown, False, theme)
            row.hide_lock()
            self._picture(item, row, entry.ident)
            row.eye_pressed.connect(lambda entry=entry: self.eye_pressed.emit(entry.name, not entry.shown))
            self.addItem(item)
            self.setItemWidget(item, row)
        self._fit()
        self.blockSignals(False)

    def show_picture(self, ident: int) -> None:
        """There is another picture of an object."""
        for place in range(self.count()):
            item = self.item(place)
            row = self.itemWidget(item)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == ident and isinstance(row, LayerRow):
                self._picture(item, row, ident)
        self._fit()

    def _picture(self, item: QListWidgetItem, row: LayerRow, ident: int) -> None:
        picture = self.picture_of(ident)
        if picture is not None:
            row.show_picture(picture)
            item.setSizeHint(QSize(0, max(ROW, round(picture.deviceIndependentSize().height()) + 4)))

    def _fit(self) -> None:
        heights = [self.sizeHintForRow(place) for place in range(self.count())]
        self.setFixedHeight(min(max(sum(heights), ROW), HIGHEST) + 4)

    def mark(self, ident: int) -> None:
        """Show one as the chosen one; no signal."""
        for row in range(self.count()):
            item = self.item(row)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == ident:
                self.blockSignals(True)
                self.setCurrentRow(row)
                self.blockSignals(False)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.picked.emit(int(item.data(Qt.ItemDataRole.UserRole)))
