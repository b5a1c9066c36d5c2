"""The card of By vertex: choose vertices, see and set the exact share of every ground on them."""

import numpy as np
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QGridLayout, QInputDialog, QMenu, QPushButton, QVBoxLayout, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.chooser import SETTINGS
from hulmo.app.fields.number_field import NumberField
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import Choose, MarkVertices, SetWeight
from hulmo.core.counted import counted
from hulmo.core.edit import Change
from hulmo.core.ground.marked import CHOSEN, chosen_rows, marked_names
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.setting import Number

LATER = 120
"""Milliseconds after which the shares of what is chosen are read again."""


class VertexCard(Card):
    """How to choose, what is chosen, and a slider for each ground; shown with By vertex in hand."""

    KINDS = ("vertices",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("By vertex", "Choose vertices, then give each ground its share.", parent)
        self._session = session
        self._theme = theme
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(session.chooser.set_value)
        self.count = Label()
        self.count.setObjectName("quiet")
        self.fields: list[NumberField] = []
        self._rows = QVBoxLayout()
        self._rows.setSpacing(3)
        self.buttons: dict[str, QPushButton] = {}
        grid = QGridLayout()
        grid.setSpacing(4)
        for place, (by, label, text) in enumerate(
            (
                ("all", "All", "Choose every vertex"),
                ("none", "None", "Choose nothing"),
                ("invert", "Invert", "Choose what is not chosen"),
                ("grow", "Grow", "One ring of vertices more"),
                ("shrink", "Shrink", "One ring of vertices less"),
                ("connected", "Connected", "All that hangs together with what is chosen"),
            )
        ):
            grid.addWidget(self._button(by, label, text), place // 3, place % 3)
        self.sets = QPushButton("Sets and rules")
        self.sets.setStyleSheet("padding: 4px 6px;")
        self.sets.setToolTip(
            "Choose a kept set, or where a rule holds; keep what is chosen, so that rules can ask for the distance to it"
        )
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.sets.setMenu(self._menu)
        self.body.addWidget(self.panel)
        self.body.addLayout(grid)
        self.body.addWidget(self.sets)
        self.body.addWidget(self.count)
        self.body.addLayout(self._rows)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER)
        self._later.timeout.connect(self._read)
        session.chooser.chosen.connect(session.do_if_any)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self._later.start)
        session.replaced.connect(self.rebuild)
        session.changed.connect(self._changed)
        self.rebuild()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.panel.set_theme(theme)
        for field in self.fields:
            field.set_theme(theme)

    def rebuild(self) -> None:
        """A slider for each ground of the palette."""
        for field in self.fields:
            self._rows.removeWidget(field)
            field.deleteLater()
        self.fields = []
        for column, ground in enumerate(self._session.project.grounds):
            setting = Number(
                ground.name, ground.name, "%", 0.0, 100.0, 0.0, f"Share of {ground.name} at the chosen vertices."
            )
            field = NumberField(setting, self._theme)
            field.changed.connect(lambda value, column=column: self._set(column, value))
            self._rows.addWidget(field)
            self.fields.append(field)
        self.refresh()

    def refresh(self) -> None:
        """Show it with By vertex in hand."""
        self.setVisible(self.seen(self._session))
        self._read()

    def _changed(self, change: Change) -> None:
        if "grounds" in change.fields:
            self.rebuild()
        elif change.bodies or any(column in (CHOSEN, WEIGHT) for _, column, _ in change.rows):
            self._later.start()

    def _read(self) -> None:
        if self._session.tool.kind != "vertices":
            return
        body = self._session.body
        rows = np.empty(0, np.int32) if body is None else chosen_rows(body)
        there = rows.size > 0 and body is not None and WEIGHT in body.vertices
        if there and body is not None:
            weight = np.take(body.vertices[WEIGHT], rows, axis=0)
            means, low, high = weight.mean(axis=0), weight.min(axis=0), weight.max(axis=0)
            mixed = int((high - low > 0.005).sum())
            same = "" if not mixed else " Sliders show the mean; it differs among them."
            self.count.setText(f"{counted(int(rows.size), 'vertex', 'vertices')} chosen.{same}")
            for field, mean in zip(self.fields, means, strict=False):
                field.set_value(round(100.0 * float(mean), 2))
        else:
            self.count.setText("Nothing is chosen yet: press or drag on the canvas.")
        for field, ground in zip(self.fields, self._session.project.grounds, strict=False):
            field.setEnabled(there and not ground.locked)
        self.count.setWordWrap(True)

    def _set(self, column: int, value: float) -> None:
        body = self._session.body
        if body is None:
            return
        ground = self._session.project.grounds[column].name
        self._session.drags.merged(SetWeight(body.name, ground, value / 100.0), f"weight {ground}")
        self._read()

    def _button(self, by: str, label: str, text: str) -> QPushButton:
        button = QPushButton(label)
        button.setToolTip(text)
        button.setStyleSheet("padding: 4px 6px;")
        button.clicked.connect(lambda: self._press(by))
        self.buttons[by] = button
        return button

    def _press(self, by: str) -> None:
        body = self._session.body
        if body is not None:
            self._session.do_if_any(Choose(body.name, by))

    def _fill_menu(self) -> None:
        self._menu.clear()
        body = self._session.body
        if body is None:
            return
        for name in marked_names(body):
            action = self._menu.addAction(name)
            assert action is not None
            action.triggered.connect(
                lambda _, name=name: self._session.do_if_any(Choose(body.name, "marked", name=name))
            )
        self._menu.addSection("By rule")
        for number, rule in enumerate(body.rules, 1):
            action = self._menu.addAction(f"Where rule {number} lays {rule.ground}")
            assert action is not None
            action.triggered.connect(
                lambda _, rule=rule: self._session.do_long(Choose(body.name, "where", where=rule.conditions))
            )
        self._menu.addSeparator()
        keep = self._menu.addAction("Keep what is chosen as…")
        assert keep is not None
        keep.setEnabled(chosen_rows(body).size > 0)
        keep.triggered.connect(lambda: self._ask_name(body.name))

    def _ask_name(self, body: str) -> None:
        dialog = QInputDialog(self.window())
        dialog.setWindowTitle("Keep a set of vertices")
        dialog.setLabelText("Name of the set:")
        dialog.textValueSelected.connect(lambda name: self._session.do(MarkVertices(body, name.strip())))
        dialog.finished.connect(dialog.deleteLater)
        dialog.open()
