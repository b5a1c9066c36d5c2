"""The card of the guard as a whole: change it, or make it from what the surface is like."""

from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import ChangeGuard, Command, GuardFrom
from hulmo.core.setting import Choice, Number, Switch, number

SETTINGS = (
    Number("steps", "Steps", "", 1, 100, 2, "Rings of vertices that Grow, Shrink and Soften reach.", comfort=(1, 20),
           whole=True),
    Choice(
        "source",
        "Make from",
        (
            ("slope", "Slope", "What is steeper than one angle and flatter than another."),
            ("height", "Height", "What lies between two heights."),
            ("ridge", "Ridges", "What is rounded tighter than a radius, outward."),
            ("hollow", "Hollows", "What is rounded tighter than a radius, inward."),
            ("ground", "Ground in hand", "As much as there is of the ground in hand."),
            ("chosen", "Chosen vertices", "What was chosen with By vertex in the Ground stage."),
        ),
        "slope",
        "What the guard is made from.",
    ),
    Number("slope_low", "From", "°", 0.0, 180.0, 45.0, "Least slope.", only=(("source", "slope"),)),
    Number("slope_high", "To", "°", 0.0, 180.0, 180.0, "Largest slope.", only=(("source", "slope"),)),
    Number("height_low", "From", "m", -1e5, 1e5, 0.0, "Least height.", comfort=(-50.0, 100.0), only=(("source", "height"),)),
    Number("height_high", "To", "m", -1e5, 1e5, 10.0, "Largest height.", comfort=(-50.0, 100.0),
           only=(("source", "height"),)),
    Number("radius", "Tighter than", "m", 0.01, 1000.0, 4.0, "Radius that the surface is rounded with.",
           comfort=(0.1, 40.0), curve=3.0, only=(("source", "ridge"), ("source", "hollow"))),
    Switch("add", "On top of what is guarded", False, "Otherwise what was guarded before is freed."),
)  # fmt: skip


class GuardCard(Card):
    """Buttons for the whole guard; shown with the Guard brush."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Whole guard", "Hatched surface is kept from every change.", parent)
        self._session = session
        self.panel = SettingsPanel(SETTINGS, theme)
        self.buttons: dict[str, QPushButton] = {}
        grid = QGridLayout()
        grid.setSpacing(4)
        for place, (way, label, text) in enumerate(
            (
                ("invert", "Invert", "Guard what is free and free what is guarded"),
                ("grow", "Grow", "Spread the guard outward by so many steps"),
                ("shrink", "Shrink", "Draw the guard inward by so many steps"),
                ("soften", "Soften", "Make the rim of the guard softer"),
                ("clear", "Clear", "Free everything"),
                ("all", "Guard all", "Guard everything"),
            )
        ):
            grid.addWidget(self._button(way, label, text), place // 3, place % 3)
        make = self._button("make", "Make guard", "Make the guard from what is chosen above")
        self.body.addLayout(grid)
        self.body.addWidget(self.panel)
        self.body.addWidget(make)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        return session.tool.kind == "brush" and session.tool.name == "guard"

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show it with the Guard brush."""
        self.setVisible(self.seen(self._session))

    def _button(self, way: str, label: str, text: str) -> QPushButton:
        button = QPushButton(label)
        button.setToolTip(text)
        button.setStyleSheet("padding: 4px 6px;")
        button.clicked.connect(lambda: self._press(way))
        self.buttons[way] = button
        return button

    def _press(self, way: str) -> None:
        body = self._session.body
        if body is None:
            return
        values = self.panel.values
        command: Command = ChangeGuard(body.name, way, int(number(values, "steps")))
        if way == "make":
            source, add = str(values["source"]), bool(values["add"])
            low, high, ground = 0.0, 1e9, ""
            if source in ("slope", "height"):
                low, high = number(values, f"{source}_low"), number(values, f"{source}_high")
            elif source == "chosen":
                pass
            elif source == "ground":
                ground = self._session.project.grounds[self._session.ground].name
            else:
                low = 1.0 / number(values, "radius")
            command = GuardFrom(body.name, source, low, high, 0.0, ground, add)
        self._session.do_long(command)
