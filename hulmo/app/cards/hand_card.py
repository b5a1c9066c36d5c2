"""The card of By hand: how to choose, what is chosen, and how it is dragged."""

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.handwork import HAND_SETTINGS
from hulmo.app.label import Label
from hulmo.app.part_chooser import SETTINGS
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.app.told import told
from hulmo.core.by_hand.choice import chosen
from hulmo.core.commands import ChooseParts, KeepChoice
from hulmo.core.edit import Change
from hulmo.core.setting import Choice, Number, Setting, Text, Value, number

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

MORE: tuple[Setting, ...] = (
    Choice("by", "All", (
        ("slope", "Of a slope", "Faces between two slopes."), ("height", "At a height", "Vertices between two heights."),
        ("size", "Of a length", "Edges between two lengths."), ("facing", "Facing up", "Faces within so many degrees."),
        ("sharp", "Bent edges", "Edges that bend by so many degrees or more."),
        ("ground", "Of the ground in hand", "Vertices at which it has half or more."),
        ("flat", "Drawn flat", "Faces with a normal of their own."), ("region", "Of a region", "Faces of its number."),
        ("region_rim", "Between regions", "Edges there."), ("ring", "Of a ring", "Faces so many rings in from a border."),
        ("random", "By chance", "A share of what is chosen."), ("named", "Kept as", "What was kept under a name."),
    ), "slope", "What is chosen by the button."),
    Number("low", "From", "", -1e6, 1e6, 0.0, "Degrees of slopes; metres of heights and lengths.", comfort=(0.0, 90.0),
           only=(("by", "slope"), ("by", "height"), ("by", "size"))),
    Number("high", "To", "", -1e6, 1e6, 30.0, "Degrees of slopes; metres of heights and lengths.", comfort=(0.0, 90.0),
           only=(("by", "slope"), ("by", "height"), ("by", "size"))),
    Number("angle", "Angle", "°", 0.0, 180.0, 40.0, "The limit.", only=(("by", "facing"), ("by", "sharp"))),
    Number("steps", "Number", "", 1, 1000, 2, "Of the ring, or the region.", whole=True, comfort=(1, 20),
           only=(("by", "ring"), ("by", "region"))),
    Number("share", "Share", "%", 0.0, 100.0, 50.0, "About so much of what is chosen.", only=(("by", "random"),)),
    Text("name", "Name", "", "Under which what is chosen is kept."),
)  # fmt: skip
"""More ways to choose, with what they want to know."""


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
        self.more = SettingsPanel(MORE, theme)
        self.fold = QToolButton()
        self.fold.setCheckable(True)
        self.fold.setText("More ways")
        self.fold.setToolTip("Choose by slope, height, length, ground and more; keep what is chosen under a name")
        self.fold.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.fold.setArrowType(Qt.ArrowType.RightArrow)
        self.fold.toggled.connect(self._unfold)
        self.these = QPushButton("Choose these")
        self.these.setToolTip("Choose what is said above")
        self.these.clicked.connect(self._find)
        self.keep = QPushButton("Keep as named")
        self.keep.setToolTip("Keep what is chosen under the name; with nothing chosen, forget what was kept under it")
        self.keep.clicked.connect(self._keep)
        self.drag = SettingsPanel(HAND_SETTINGS, theme)
        self.drag.changed.connect(self._dragged_with)
        self.body.addWidget(self.panel)
        self.body.addLayout(grid)
        self.body.addWidget(self.count)
        self.body.addWidget(self.fold)
        self.body.addWidget(self.more)
        row = QHBoxLayout()
        row.addWidget(self.these)
        row.addWidget(self.keep)
        self.body.addLayout(row)
        self._unfold(False)
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

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        return session.stage.name == "hand" and session.tool.kind != "line"

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)
        self.drag.set_theme(theme)
        self.more.set_theme(theme)

    def refresh(self) -> None:
        """Show it in its stage; how things are dragged only with what drags them."""
        here = self.seen(self._session)
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

    def _unfold(self, on: bool) -> None:
        self.fold.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        for part in (self.more, self.these, self.keep):
            part.setVisible(on)

    def _find(self) -> None:
        body, values = self._session.body, self.more.values
        if body is None:
            return
        by = str(values["by"])
        self._rolls += by == "random"
        x, y, z = (float(value) for value in body.up(body.bounds().centre[None])[0])
        angle = number(values, "angle")
        low, high = number(values, "low"), number(values, "high")
        grounds = self._session.project.ground_names
        self._session.do_if_any(
            ChooseParts(
                body.name, self._session.parts.domain, by, seed=self._rolls, toward=(x, y, z),
                low=angle if by == "sharp" else low, high=angle if by == "facing" else high,
                steps=int(number(values, "steps")), share=0.5 if by == "ground" else number(values, "share") / 100,
                name=grounds[self._session.ground] if by == "ground" else str(values["name"]),
            )
        )  # fmt: skip

    def _keep(self) -> None:
        body = self._session.body
        if body is not None:
            self._session.do_if_any(KeepChoice(body.name, self._session.parts.domain, str(self.more.values["name"])))

    def _read(self) -> None:
        body = self._session.body
        if body is None or self._session.stage.name != "hand":
            self.count.setText("There is no body yet.")
            return
        text = told(self._session.parts.domain)(body, {})
        self.count.setText(text)
