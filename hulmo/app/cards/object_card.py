"""The card of what stands in the scene beside the bodies: figures, and viewpoints to look from."""

import numpy as np
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QListWidget, QListWidgetItem, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import ChangeObject, RemoveObject
from hulmo.core.mesh.origin import OUTERMOST
from hulmo.core.objects import KINDS, standing
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.viewpoint import FIELD, VIEWPOINT
from hulmo.core.setting import Number

ROW = 26
MOST_ROWS = 6

SETTINGS = (
    Number("east", "East", "m", -OUTERMOST, OUTERMOST, 0.0, "Where it is: metres to the east.", comfort=(-100, 100)),
    Number("up", "Up", "m", -OUTERMOST, OUTERMOST, 0.0, "Where it is: metres up.", comfort=(-50, 50)),
    Number("north", "North", "m", -OUTERMOST, OUTERMOST, 0.0, "Where it is: metres to the north.", comfort=(-100, 100)),
    Number("turn", "Turned", "°", -360.0, 360.0, 0.0, "About the upright axis, counter-clockwise seen from above."),
    FIELD,
)


class ObjectCard(Card):
    """List of the objects; the chosen one can be moved, renamed, hidden, taken away, and looked from.

    Signals
    -------
    asked : str
        "figure": the next press places one. "here": keep the present view.
    went : int
        Number of the viewpoint to look from.
    """

    asked = pyqtSignal(str)
    went = pyqtSignal(int)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("In the scene", "Press one to choose it, drag it to move it.", parent)
        self._session = session
        self._theme = theme
        self.list = QListWidget()
        self.list.setAccessibleName("Objects of the scene")
        self.list.setToolTip("Figures and viewpoints of the project")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._chosen)
        self.list.itemDoubleClicked.connect(lambda _: self._go())
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen object")
        self.name.setToolTip("Name of the chosen object")
        self.name.editingFinished.connect(self._renamed)
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._changed)
        self.figure = self._button("Add figure", "Stand another person of 1.8 m where you press next")
        self.figure.clicked.connect(lambda: self.asked.emit("figure"))
        self.keep = self._button("Keep view", "Keep what you see now as a viewpoint")
        self.keep.clicked.connect(lambda: self.asked.emit("here"))
        self.go = self._button("Look from", "Look from the chosen viewpoint")
        self.go.clicked.connect(self._go)
        self.remove = self._button("Take away", "Take the chosen object out of the scene; undo brings it back")
        self.remove.clicked.connect(self._remove)
        for part in (self.list, self.name, self.panel):
            self.body.addWidget(part)
        buttons = QGridLayout()
        buttons.setSpacing(5)
        for i, button in enumerate((self.figure, self.keep, self.go, self.remove)):
            buttons.addWidget(button, i // 2, i % 2)
        self.body.addLayout(buttons)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "objects" in change.fields else None)
        session.settings_changed.connect(self._mark)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.panel.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Show what there is."""
        objects = standing(self._session.project.objects)
        self.setVisible(self._session.tool.kind == "objects")
        self.list.blockSignals(True)
        self.list.clear()
        for entry in objects:
            item = QListWidgetItem()
            item.setSizeHint(QSize(0, ROW))
            item.setData(Qt.ItemDataRole.UserRole, entry.ident)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, entry.name)
            kind = KINDS.get(entry.kind)
            row = LayerRow(
                entry.name, "not known here" if kind is None else kind.label, entry.shown, False, self._theme
            )
            row.hide_lock()
            row.eye_pressed.connect(
                lambda entry=entry: self._session.do(ChangeObject(entry.name, shown=not entry.shown))
            )
            self.list.addItem(item)
            self.list.setItemWidget(item, row)
        self.list.setFixedHeight(ROW * max(1, min(MOST_ROWS, len(objects))) + 4)
        self.list.blockSignals(False)
        self._mark()

    def _mark(self) -> None:
        entry = self._session.object
        there, looks = entry is not None, entry is not None and entry.kind == VIEWPOINT.name
        for part in (self.list, self.name, self.panel):
            part.setVisible(there)
        self.remove.setEnabled(there)
        self.go.setEnabled(looks)
        if entry is None:
            return
        kind = KINDS.get(entry.kind)
        self.panel.fields["turn"].setVisible(kind is not None and kind.turns)
        self.panel.fields["field"].setVisible(looks)
        x, y, z = entry.at
        field = entry.values.get("field", FIELD.default)
        values = {"east": x, "up": y, "north": -z if z else 0.0, "turn": entry.turn[1]}
        self.panel.set_values({**values, **({"field": field} if looks else {})})
        if not self.name.hasFocus():
            self.name.setText(entry.name)
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == entry.ident:
                self.list.blockSignals(True)
                self.list.setCurrentRow(row)
                self.list.blockSignals(False)

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._session.choose_object(int(item.data(Qt.ItemDataRole.UserRole)))

    def _changed(self, name: str, value: float) -> None:
        entry = self._session.object
        if entry is None:
            return
        if name == "field":
            command = ChangeObject(entry.name, values={"field": value})
        elif name == "turn":
            command = ChangeObject(entry.name, turn=(entry.turn[0], value, entry.turn[2]))
        else:
            command = self._put(entry, name, value)
        self._session.drags.merged(command, f"object {entry.ident} {name}")

    def _put(self, entry: SceneObject, name: str, value: float) -> ChangeObject:
        way = np.zeros(3)
        axis = ("east", "up", "north").index(name)
        way[axis] = (value if name != "north" else -value) - entry.at[axis]
        kind = KINDS.get(entry.kind)
        if kind is None:
            x, y, z = (np.array(entry.at) + way).tolist()
            return ChangeObject(entry.name, at=(x, y, z))
        new = kind.moved(entry, way)
        return ChangeObject(entry.name, at=new.at, values=new.values)

    def _renamed(self) -> None:
        entry, text = self._session.object, self.name.text().strip()
        if entry is not None and text and text != entry.name:
            self._session.do(ChangeObject(entry.name, name=text))
        entry = self._session.object
        if entry is not None:
            self.name.setText(entry.name)

    def _go(self) -> None:
        entry = self._session.object
        if entry is not None and entry.kind == VIEWPOINT.name:
            self.went.emit(entry.ident)

    def _remove(self) -> None:
        entry = self._session.object
        if entry is not None:
            self._session.do(RemoveObject(entry.name))
