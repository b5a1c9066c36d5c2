"""The card of outlines and tracks: which there are, and what the chosen one carries."""

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.ground_field import GroundField
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.number_field import NumberField
from hulmo.app.fields.object_list import ObjectList
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import ChangeObject, ChooseParts
from hulmo.core.errors import InvalidInput
from hulmo.core.objects.line import FEWEST, OF_OUTLINE, OF_TRACK, line_of, settings_of
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import Number, Value

WIDTH_HERE = Number(
    "here", "Width at the point", "m", 0.0, 1000.0, 0.0, "Of the point that was pressed last; 0: as the track.",
    comfort=(0.0, 10.0), curve=2.0,
)  # fmt: skip

PAUSE = 300
"""Milliseconds after the last change of a point's width until the track is laid anew."""


HINT = "Press on the ground to place points; press the first or the last one to end."


class LineCard(Card):
    """List of the lines; the chosen one's name, settings and figures."""

    KINDS = ("line",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Lines on the ground", HINT, parent)
        self._session, self._theme = session, theme
        self.list = ObjectList("Outlines and tracks", "Outlines and tracks of the project")
        self.list.picked.connect(session.lines.choose)
        self.list.eye_pressed.connect(lambda name, shown: session.do(ChangeObject(name, shown=shown)))
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen line")
        self.name.setToolTip("Name of the chosen line")
        self.name.editingFinished.connect(self._renamed)
        self.ground = GroundField("Ground", "None", "What lies inside, beneath hand paint")
        self.ground.changed.connect(lambda: self._session.lines.set_values({"ground": self.ground.value}))
        self.panels = {
            kind: SettingsPanel(tuple(s for s in settings if s.name != "ground"), theme)
            for kind, settings in (("outline", OF_OUTLINE), ("track", OF_TRACK))
        }
        for panel in self.panels.values():
            panel.changed.connect(self._set)
        self.figures = Label()
        self.figures.setObjectName("number")
        self.figures.setWordWrap(True)
        self.figures.setAccessibleName("Figures of the line")
        self.new = self._button("Draw new", "The next press on the ground begins another line")
        self.new.clicked.connect(session.lines.begin)
        self.inside = self._button("Choose inside", "Choose all faces inside the line")
        self.inside.clicked.connect(lambda: self._choose("inside"))
        self.rim = self._button("Choose rim", "Choose the edges that were cut along the line")
        self.rim.clicked.connect(lambda: self._choose("rim"))
        self.remove = self._button("Take away", "Take the line away with all it carries; undo brings it back")
        self.remove.clicked.connect(session.lines.remove)
        for part in (self.list, self.name, self.figures):
            self.body.addWidget(part)
        grid = QGridLayout()
        grid.setSpacing(5)
        for i, button in enumerate((self.new, self.remove, self.inside, self.rim)):
            grid.addWidget(button, i // 2, i % 2)
        self.body.addLayout(grid)
        self.here = NumberField(WIDTH_HERE, theme)
        self.here.changed.connect(lambda _: self._wide.start())
        self._wide = QTimer(self)
        self._wide.setSingleShot(True)
        self._wide.setInterval(PAUSE)
        self._wide.timeout.connect(lambda: self._session.lines.set_width(self.here.value))
        for field in (self.here, self.ground, *self.panels.values()):
            self.body.addWidget(field)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.fields else None)
        session.lines.changed.connect(self.refresh)
        session.tool_changed.connect(self.refresh)
        session.job_changed.connect(self._enable)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        for panel in self.panels.values():
            panel.set_theme(theme)
        self.here.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Show what there is."""
        work = self._session.lines
        self.setVisible(self.seen(self._session))
        if self._session.tool.kind != "line" or work.moved is not None:
            return
        entries = work.entries
        self.list.show_entries(((entry, entry.kind.capitalize()) for entry in entries), self._theme)
        self.list.mark(work.ident)
        self.list.setVisible(bool(entries))
        chosen = work.entry
        for kind, panel in self.panels.items():
            panel.setVisible(chosen is not None and chosen.kind == kind)
        for part in (self.name, self.ground, self.figures):
            part.setVisible(chosen is not None)
        points = () if chosen is None or chosen.kind != "track" else line_of(chosen).points
        self.here.setVisible(0 <= work.point < len(points))
        if 0 <= work.point < len(points) and not self._wide.isActive():
            self.here.set_value(points[work.point].width)
        self._enable()
        if chosen is not None:
            self._show(chosen)

    def _show(self, entry: SceneObject) -> None:
        if not self.name.hasFocus():
            self.name.setText(entry.name)
        try:
            values = settings_of(entry, line_of(entry))
        except InvalidInput as error:
            self.figures.setText(str(error))
            return
        self.panels[entry.kind].set_values(values)
        self.ground.show_grounds([ground.name for ground in self._session.project.grounds], str(values["ground"]))
        self.figures.setText(self._told(entry))

    def _told(self, entry: SceneObject) -> str:
        work = self._session.lines
        body, count = work.body_of(entry), len(line_of(entry).points)
        if body is None:
            return "The body that it lay on is gone."
        fewest = FEWEST[entry.kind]
        if count < fewest:
            return f"{count} of at least {fewest} points placed."
        try:
            found = work.measured(entry)
        except InvalidInput as error:
            return str(error)
        if entry.kind == "outline":
            return f"{count} points, {found.length:.4g} m around, {found.area:.4g} m² inside."
        return (
            f"{count} points, {found.length:.4g} m long, {found.slope:.3g}° on the whole, {found.steepest:.3g}° at the "
            "steepest metre."
        )

    def _enable(self) -> None:
        there = self._session.lines.entry is not None and not self._session.busy
        for button in (self.remove, self.inside, self.rim):
            button.setEnabled(there)
        self.new.setEnabled(not self._session.busy)

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button

    def _renamed(self) -> None:
        entry, text = self._session.lines.entry, self.name.text().strip()
        if entry is not None and text and text != entry.name:
            self._session.do(ChangeObject(entry.name, name=text))
        entry = self._session.lines.entry
        if entry is not None:
            self.name.setText(entry.name)

    def _set(self, name: str, value: Value) -> None:
        self._session.lines.set_values({name: [list(p) for p in value] if isinstance(value, tuple) else value})

    def _choose(self, part: str) -> None:
        entry = self._session.lines.entry
        body = None if entry is None else self._session.lines.body_of(entry)
        if entry is not None and body is not None:
            domain = "face" if part == "inside" else "edge"
            self._session.do_if_any(ChooseParts(body.name, domain, "line", name=entry.name))
