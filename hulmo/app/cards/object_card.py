"""The card of what stands in the scene beside the bodies: figures, and viewpoints to look from."""

import math

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.number_field import NumberField
from hulmo.app.fields.object_list import ObjectList
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.app.view_pictures import ViewPictures
from hulmo.core.commands import ChangeObject, MoveObject, RemoveObject
from hulmo.core.mesh.origin import OUTERMOST
from hulmo.core.objects import KINDS, standing
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.viewpoint import FIELD, VIEWPOINT
from hulmo.core.setting import Number, Value

SETTINGS = (
    Number("east", "East", "m", -OUTERMOST, OUTERMOST, 0.0, "Where it is: metres to the east.", comfort=(-100, 100)),
    Number("up", "Up", "m", -OUTERMOST, OUTERMOST, 0.0, "Where it is: metres up.", comfort=(-50, 50)),
    Number("north", "North", "m", -OUTERMOST, OUTERMOST, 0.0, "Where it is: metres to the north.", comfort=(-100, 100)),
    Number("turn", "Turned", "°", -360.0, 360.0, 0.0, "About the upright axis, counter-clockwise seen from above."),
)

OWN = {name: kind.settings for name, kind in KINDS.items() if kind.settings and not kind.on_body}
"""Settings that only some kinds have."""

MILLIMETRES = Number(
    "lens", "Lens", "mm", 5.0, 400.0, 33.0, "The same as a lens before film of 24 mm.", comfort=(12, 200), curve=2.0
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

    KINDS = ("objects",)

    asked = pyqtSignal(str)
    went = pyqtSignal(int)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("In the scene", "Press one to choose it, drag it to move it.", parent)
        self._session = session
        self._theme = theme
        self.list = ObjectList("Objects of the scene", "Figures, viewpoints and waters of the project")
        self.list.picked.connect(session.choose_object)
        self.list.eye_pressed.connect(lambda name, shown: session.do(ChangeObject(name, shown=shown)))
        self.list.itemDoubleClicked.connect(lambda _: self._go())
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen object")
        self.name.setToolTip("Name of the chosen object")
        self.name.editingFinished.connect(self._renamed)
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._changed)
        self.own = {name: SettingsPanel(settings, theme) for name, settings in OWN.items()}
        for panel in self.own.values():
            panel.changed.connect(self._changed_own)
        self.lens = NumberField(MILLIMETRES, theme)
        self.lens.changed.connect(lambda value: self._changed_own("field", 2 * math.degrees(math.atan(12.0 / value))))
        self.figure = self._button("Add figure", "Stand another person of 1.8 m where you press next")
        self.figure.clicked.connect(lambda: self.asked.emit("figure"))
        self.keep = self._button("Keep view", "Keep what you see now as a viewpoint")
        self.keep.clicked.connect(lambda: self.asked.emit("here"))
        self.go = self._button("Look from", "Look from the chosen viewpoint")
        self.go.clicked.connect(self._go)
        self.remove = self._button("Take away", "Take the chosen object out of the scene; undo brings it back")
        self.remove.clicked.connect(self._remove)
        for part in (self.list, self.name, self.panel, *self.own.values(), self.lens):
            self.body.addWidget(part)
        buttons = QGridLayout()
        buttons.setSpacing(5)
        self.lamp = self._button("Add lamp", "Hang a lamp where you press next, a little off the ground")
        self.lamp.clicked.connect(lambda: self.asked.emit("lamp"))
        self.earlier = self._button(
            "Earlier", "Fly through the chosen viewpoint before the one that comes before it now"
        )
        self.earlier.clicked.connect(lambda: self._shift(-1))
        self.later = self._button("Later", "Fly through the chosen viewpoint after the one that comes after it now")
        self.later.clicked.connect(lambda: self._shift(1))
        for i, button in enumerate((self.figure, self.keep, self.lamp, self.go, self.earlier, self.later, self.remove)):
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
        for panel in (self.panel, *self.own.values()):
            panel.set_theme(theme)
        self.lens.set_theme(theme)
        self.refresh()

    def show_pictures(self, pictures: ViewPictures) -> None:
        """Show small pictures of viewpoints in the list."""
        self.list.picture_of = pictures.of
        pictures.drawn.connect(self.list.show_picture)

    def refresh(self) -> None:
        """Show what there is."""
        objects = standing(self._session.project.objects)
        self.setVisible(self.seen(self._session))
        self.list.show_entries(
            ((entry, KINDS[entry.kind].label if entry.kind in KINDS else "not known here") for entry in objects),
            self._theme,
        )
        self._mark()

    def _mark(self) -> None:
        entry = self._session.object
        there, looks = entry is not None, entry is not None and entry.kind == VIEWPOINT.name
        for part in (self.list, self.name, self.panel):
            part.setVisible(there)
        for name, panel in self.own.items():
            panel.setVisible(entry is not None and entry.kind == name)
        self.lens.setVisible(looks)
        self.remove.setEnabled(there)
        self.go.setEnabled(looks)
        views = [view.ident for view in self._session.project.objects if view.kind == VIEWPOINT.name]
        place = views.index(entry.ident) if entry is not None and looks else -1
        self.earlier.setEnabled(place > 0)
        self.later.setEnabled(0 <= place < len(views) - 1)
        if entry is None:
            return
        kind = KINDS.get(entry.kind)
        self.panel.fields["turn"].setVisible(kind is not None and kind.turns)
        x, y, z = entry.at
        self.panel.set_values({"east": x, "up": y, "north": -z if z else 0.0, "turn": entry.turn[1]})
        own = self.own.get(entry.kind)
        if own is not None:
            own.set_values(
                {name: entry.values.get(name, s.default) for name, s in zip(own.fields, own.settings, strict=True)}
            )
        if looks:
            field = float(entry.values.get("field", FIELD.default))
            self.lens.set_value(12.0 / math.tan(math.radians(field) / 2))
        if not self.name.hasFocus():
            self.name.setText(entry.name)
        self.list.mark(entry.ident)

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button

    def _changed(self, name: str, value: float) -> None:
        entry = self._session.object
        if entry is None:
            return
        if name == "turn":
            command = ChangeObject(entry.name, turn=(entry.turn[0], value, entry.turn[2]))
        else:
            command = self._put(entry, name, value)
        self._session.drags.merged(command, f"object {entry.ident} {name}")

    def _changed_own(self, name: str, value: Value) -> None:
        entry = self._session.object
        if entry is not None:
            self._session.drags.merged(ChangeObject(entry.name, values={name: value}), f"object {entry.ident} {name}")

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

    def _shift(self, way: int) -> None:
        entry = self._session.object
        if entry is not None:
            alike = [other.ident for other in self._session.project.objects if other.kind == entry.kind]
            self._session.do(MoveObject(entry.name, alike.index(entry.ident) + way))

    def _remove(self) -> None:
        entry = self._session.object
        if entry is not None:
            self._session.do(RemoveObject(entry.name))
