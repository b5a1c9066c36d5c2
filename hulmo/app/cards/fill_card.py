"""The card of Fill: the ground in hand over all of a body, or over a part of it."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import Fill
from hulmo.core.ground.rules import Condition
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.setting import Choice, Number, Switch, number

SETTINGS = (
    Choice(
        "part",
        "Fill",
        (
            ("all", "All of the body", "Without ground rules it becomes the base that everything is laid on."),
            ("chosen", "Chosen vertices", "What was chosen with By vertex."),
            ("connected", "What hangs together", "Press on the canvas: the connected part under the pointer."),
        ),
        "all",
        "What the ground in hand is laid over.",
    ),
    Number("strength", "Strength", "%", 0.0, 100.0, 100.0, "Share of the way to nothing but this ground."),
    Switch("by_slope", "Only by slope", False, "Only what is steeper than one angle and flatter than another."),
    Number("slope_low", "From", "°", 0.0, 180.0, 0.0, "Least slope.", only=(("by_slope", True),)),
    Number("slope_high", "To", "°", 0.0, 180.0, 35.0, "Largest slope.", only=(("by_slope", True),)),
    Switch("by_height", "Only by height", False, "Only what lies between two heights."),
    Number("height_low", "From", "m", -1e5, 1e5, -1e5, "Least height.", comfort=(-50.0, 100.0), only=(("by_height", True),)),
    Number("height_high", "To", "m", -1e5, 1e5, 2.0, "Largest height.", comfort=(-50.0, 100.0),
           only=(("by_height", True),)),
    Number("soft", "Soft", "%", 0.0, 100.0, 20.0, "How gradually the limits fade, as a share of 45° or of 10 m.",
           only=(("by_slope", True), ("by_height", True))),
)  # fmt: skip


class FillCard(Card):
    """Settings of Fill and its button; shown with Fill in hand.

    Signals
    -------
    filled
        Something was filled.
    """

    KINDS = ("fill",)

    filled = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Fill", "Lays the ground in hand.", parent)
        self._session = session
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(lambda *_: self.refresh())
        self.go = QPushButton("Fill")
        self.go.setToolTip("Lay the ground in hand over what is chosen above")
        self.go.clicked.connect(lambda: self.fill(None))
        self.body.addWidget(self.panel)
        self.body.addWidget(self.go)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show it with Fill in hand."""
        self.setVisible(self.seen(self._session))
        by_press = self.panel.values["part"] == "connected"
        self.go.setEnabled(not by_press)
        self.go.setText("Press on the canvas" if by_press else "Fill")

    def fill(self, hit: SurfacePoint | None) -> None:
        """Do it; what hangs together needs a point of the surface."""
        body, values = self._session.body, self.panel.values
        if body is None:
            self._session.noticed.emit("There is no body to fill yet. Build a base form first.")
            return
        part = str(values["part"])
        if part == "connected" and hit is None:
            return
        soft = number(values, "soft") / 100.0
        where = []
        for name, unit in (("slope", 45.0), ("height", 10.0)):
            if values[f"by_{name}"]:
                low, high = sorted((number(values, f"{name}_low"), number(values, f"{name}_high")))
                where.append(Condition(name, {}, low, high, soft * unit, soft * unit))
        at = (0.0, 0.0, 0.0) if hit is None else tuple(float(x) for x in hit.position)
        command = Fill(
            body.name, self._session.project.grounds[self._session.ground].name, part, tuple(where),
            number(values, "strength") / 100.0, at,  # type: ignore[arg-type]
        )  # fmt: skip
        if self._session.do(command):
            self.filled.emit()
