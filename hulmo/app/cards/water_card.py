"""The card of level waters and ponds."""

import numpy as np
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.object_list import ObjectList
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import AddWater, ChangeObject, RemoveObject
from hulmo.core.errors import InvalidInput
from hulmo.core.objects import KINDS
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.water import OF_LEVEL, OF_POND, body_of, is_water, water_settings
from hulmo.core.setting import Value, number

HINTS = {
    "level_water": "Press on the land where the water is to stand; drag up or down for another level.",
    "pond": "Press in a hollow: it fills to where it would run out. Drag up or down for another level.",
}


class WaterCard(Card):
    """List of the waters; figures and settings of the chosen one."""

    KINDS = ("water",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Water", "", parent)
        self._session = session
        self._theme = theme
        self.list = ObjectList("Waters", "Level waters and ponds of the project")
        self.list.picked.connect(session.choose_object)
        self.list.eye_pressed.connect(lambda name, shown: session.do(ChangeObject(name, shown=shown)))
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen water")
        self.name.setToolTip("Name of the chosen water")
        self.name.editingFinished.connect(self._renamed)
        self.figures = Label("")
        self.figures.setObjectName("quiet")
        self.figures.setWordWrap(True)
        self.figures.setAccessibleName("Figures of the water")
        self.panels = {"level_water": SettingsPanel(OF_LEVEL, theme), "pond": SettingsPanel(OF_POND, theme)}
        self.brim = self._button("To the brim", "Raise the chosen pond to where it runs out next")
        self.brim.clicked.connect(self._fill)
        self.another = self._button("Add another", "Lay one more level water a metre above the chosen one")
        self.another.clicked.connect(self._add)
        self.remove = self._button("Take away", "Take the chosen water out of the scene; undo brings it back")
        self.remove.clicked.connect(self._remove)
        buttons = QHBoxLayout()
        buttons.setSpacing(5)
        buttons.addWidget(self.brim)
        buttons.addWidget(self.another)
        buttons.addWidget(self.remove)
        for part in (self.list, self.name, self.figures):
            self.body.addWidget(part)
        self.body.addLayout(buttons)
        for panel in self.panels.values():
            panel.changed.connect(self._changed)
            self.body.addWidget(panel)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "objects" in change.fields else None)
        session.settings_changed.connect(self._show)
        session.tool_changed.connect(self.refresh)
        session.waters.found.connect(self._show)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        for panel in self.panels.values():
            panel.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Show what there is."""
        tool = self._session.tool
        self.setVisible(self.seen(self._session))
        if tool.kind != "water":
            return
        self.set_title("Water", HINTS[tool.name])
        entries = [entry for entry in self._session.project.objects if is_water(entry)]
        self.list.show_entries(((entry, KINDS[entry.kind].label) for entry in entries), self._theme)
        self.list.setVisible(bool(entries))
        self._show()

    @property
    def entry(self) -> SceneObject | None:
        """The chosen water, or the only one."""
        entry = self._session.object
        if entry is not None and is_water(entry):
            return entry
        waters = [entry for entry in self._session.project.objects if is_water(entry)]
        return waters[0] if len(waters) == 1 else None

    def _show(self) -> None:
        entry = self.entry
        for part in (self.name, self.figures, self.remove):
            part.setVisible(entry is not None)
        for kind, panel in self.panels.items():
            panel.setVisible(entry is not None and entry.kind == kind)
        self.brim.setVisible(entry is not None and entry.kind == "pond")
        self.another.setVisible(entry is not None and entry.kind == "level_water")
        if entry is None or self._session.tool.kind != "water":
            return
        self.list.mark(entry.ident)
        if not self.name.hasFocus():
            self.name.setText(entry.name)
        try:
            self.panels[entry.kind].set_values(water_settings(entry))
        except InvalidInput as error:
            self.figures.setText(str(error))
            return
        self.figures.setText(self._told(entry))

    def _told(self, entry: SceneObject) -> str:
        waters = self._session.waters
        if entry.ident in waters.problems:
            return waters.problems[entry.ident]
        found = waters.surfaces.get(entry.ident)
        self.brim.setEnabled(found is not None and found.spill is not None)
        if found is None:
            return "Hidden." if not entry.shown else "Finding where it stands…"
        over = f", {_figure(found.volume)} m³ over ground, {found.deepest:.3g} m at the deepest" if found.volume else ""
        text = f"{_figure(found.area)} m²{over}, {_figure(found.shore_length)} m of shore."
        if found.runs_out:
            text += f" It would run out: it stands at {found.level:.3f} m."
        if found.spill is not None:
            x, y, z = (value + 0.0 for value in np.round(found.spill.at, 2).tolist())
            text += f" Runs out at {found.spill.height:.3f} m, {x:g} m east, {y:g} m up, {-z + 0.0:g} m north."
        return text

    def _changed(self, name: str, value: Value) -> None:
        entry = self.entry
        if entry is not None:
            self._session.give_way()
            self._session.drags.merged(ChangeObject(entry.name, values={name: value}), f"water {entry.ident} {name}")

    def _fill(self) -> None:
        entry = self.entry
        found = None if entry is None else self._session.waters.surfaces.get(entry.ident)
        if entry is not None and found is not None and found.spill is not None:
            self._session.do(ChangeObject(entry.name, values={"level": found.spill.height - 1e-3}))

    def _add(self) -> None:
        entry = self.entry
        if entry is None:
            return
        values = {name: value for name, value in entry.values.items() if name not in ("body", "level")}
        body = next((b.name for b in self._session.project.bodies if b.ident == body_of(entry)), "")
        level = number(water_settings(entry), "level") + 1.0
        if self._session.do(AddWater("level_water", entry.at, body, level, values=values)):
            self._session.choose_object(self._session.project.objects[-1].ident)

    def _remove(self) -> None:
        entry = self.entry
        if entry is not None:
            self._session.do(RemoveObject(entry.name))

    def _renamed(self) -> None:
        entry, text = self.entry, self.name.text().strip()
        if entry is not None and text and text != entry.name:
            self._session.do(ChangeObject(entry.name, name=text))

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button


def _figure(value: float) -> str:
    return f"{value:,.0f}" if value >= 1000 else f"{value:.3g}"
