"""The card of sun and sky."""

import msgspec
from PyQt6.QtWidgets import QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetLight
from hulmo.core.dress.light import Light
from hulmo.core.setting import Number

_FIRST = Light()

SETTINGS = (
    Number("bearing", "Bearing", "°", 0, 360, _FIRST.bearing, "Where the sun stands: 0 north, 90 east, 180 south."),
    Number("altitude", "Altitude", "°", 1, 90, _FIRST.altitude, "How high the sun stands above the horizon."),
    Number("sun", "Sun", "", 0, 20, _FIRST.sun, "Strength of sunlight; 3 is a clear day.", comfort=(0, 8)),
    Number("sky", "Sky", "", 0, 10, _FIRST.sky, "Strength of sky light; 1 is a clear day.", comfort=(0, 3)),
    Number("exposure", "Exposure", "stops", -6, 6, _FIRST.exposure, "Brightness of the picture.", comfort=(-3, 3)),
)


class LightCard(Card):
    """Sun and sky, changed live; one drag of a ruler is one step of the history."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Sun and sky", "Where the sun stands and how strong light is.", parent)
        self._session = session
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._changed)
        reset = QToolButton()
        reset.setText("Reset")
        reset.setToolTip("Back to the first light")
        reset.setAccessibleName("Reset light")
        reset.clicked.connect(lambda: session.do(SetLight()))
        self.corner.addWidget(reset)
        self.body.addWidget(self.panel)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if "light" in change.fields else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show the project's light."""
        self.setVisible(self._session.tool.kind == "light")
        self.panel.set_values(msgspec.structs.asdict(self._session.project.light))

    def _changed(self, name: str, value: float) -> None:
        values = {**msgspec.structs.asdict(self._session.project.light), name: value}
        self._session.drags.merged(SetLight(**values), f"light {name}")
