"""The card of By hand: how to choose, what is chosen, and how it is dragged."""

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.handwork import HAND_SETTINGS, told
from hulmo.app.label import Label
from hulmo.app.part_chooser import SETTINGS
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.by_hand.choice import chosen
from hulmo.core.commands import ChooseParts
from hulmo.core.edit import Change
from hulmo.core.setting import Value

LATER = 60
"""Milliseconds after which what is chosen is counted again."""

BUTTONS: tuple[tuple[str, str, str, dict[str, float]], ...] = (
    ("all", "All", "Choose everything", {}),
    ("none", "None", "Choose nothing", {}),
    ("invert", "Invert", "Choose what is not chosen", {}),
    ("grow", "Grow", "One ring more", {}),
    ("shrink", "Shrink", "One ring less", {}),
    ("part", "Connected", "All that hangs together with what is chosen", {}),
    ("border", "Border", "What lies at a border", {}),
    ("rim", "Rim", "The edges around the chosen faces", {}),
    ("sharp", "Sharp", "What lies at edges that bend by 40° or more", {"low": 40.0}),
    ("facing", "Facing up", "What faces up within 40°", {"high": 40.0}),
    ("ring", "Second ring", "The second ring of faces in from a border", {"steps": 2}),
    ("random", "Half", "About half of what is chosen, by chance", {"share": 0.5}),
)
"""Way to choose, label, tooltip, and what else the command is told."""


class HandCard(Card):
    """Shown with any tool of the By hand stage in hand."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Choice", "Press or drag on the canvas; nothing is moved by choosing.", parent)
        self._session = session
        self._rolls = 0
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._chosen_with)
        self.count = Label()
        self.count.setObjectName("number")
        self.count.setWordWrap(True)
        self.buttons: dict[str, QPushButton] = {}
        grid = QGridLayout()
        grid.setSpacing(4)
        for place, (by, label, text, more) in enumerate(BUTTONS):
            button = QPushButton(label)
            button.setStyleSheet("padding: 3px 4px;")
            button.setToolTip(text)
            button.setAccessibleName(label)
            button.clicked.connect(lambda _, by=by, more=more: self._choose(by, more))
            self.buttons[by] = button
            grid.addWidget(button, place // 3, place % 3)
        self.drag = SettingsPanel(HAND_SETTINGS, theme)
        self.drag.changed.connect(self._dragged_with)
        self.body.addWidget(self.panel)
        self.body.addLayout(grid)
        self.body.addWidget(self.count)
        self.body.addWidget(self.drag)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER)
        self._later.timeout.connect(self._read)
        session.parts.chosen.connect(session.do_if_any)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self._later.start)
        session.replaced.connect(self.refresh)
        session.changed.connect(self._changed)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)
        self.drag.set_theme(theme)

    def refresh(self) -> None:
        """Show it in its stage; how things are dragged only with what drags them."""
        here = self._session.stage.name == "hand" and self._session.tool.kind != "line"
        self.setVisible(here)
        self.drag.setVisible(self._session.tool.kind == "hand" and self._session.tool.name in ("move", "turn", "scale"))
        if here:
            self._read()

    def _changed(self, change: Change) -> None:
        if change.bodies or change.slots or change.fields or any(column == "chosen" for _, column, _ in change.rows):
            self._later.start()

    def _chosen_with(self, name: str, value: Value) -> None:
        before, body = self._session.parts.domain, self._session.body
        self._session.parts.set_value(name, value)
        # what another domain holds goes along, unless nothing is chosen there: then the new one keeps its own
        if name == "domain" and body is not None and before != value and chosen(body, before).any():
            self._session.do_if_any(ChooseParts(body.name, str(value), "as", source=before))
        self._read()

    def _dragged_with(self, name: str, value: Value) -> None:
        self._session.hand_values[name] = value

    def _choose(self, by: str, more: dict[str, float]) -> None:
        body = self._session.body
        if body is None:
            return
        self._rolls += by == "random"
        x, y, z = (float(value) for value in body.up(body.bounds().centre[None])[0])
        domain, seed = self._session.parts.domain, self._rolls
        command = ChooseParts(body.name, domain, by, seed=seed, toward=(x, y, z), **more)  # type: ignore[arg-type]
        self._session.do_if_any(command)

    def _read(self) -> None:
        body = self._session.body
        if body is None or self._session.stage.name != "hand":
            self.count.setText("There is no body yet.")
            return
        text = told(self._session.parts.domain)(body, {})
        self.count.setText(text)
