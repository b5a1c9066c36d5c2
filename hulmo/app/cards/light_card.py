"""The card of sun and sky."""

import msgspec
from PyQt6.QtWidgets import QToolButton, QWidget

from hulmo.app.cards.light_panel_card import LightPanelCard
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetLight
from hulmo.core.dress.light import SETTINGS, Light


class LightCard(LightPanelCard):
    """Sun and sky."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(
            "Sun and sky", "Where the sun stands and how strong light is.", SETTINGS, session, theme, parent
        )
        reset = QToolButton()
        reset.setText("Reset")
        reset.setToolTip("Back to the first light")
        reset.setAccessibleName("Reset light")
        reset.clicked.connect(lambda: session.do(SetLight()))
        self.corner.addWidget(reset)
        self.body.addWidget(self.panel)
        self.follow()

    def show_light(self, light: Light) -> None:
        """See `LightPanelCard.show_light`."""
        self.panel.set_values(msgspec.structs.asdict(light))
        for name in ("bearing", "altitude"):
            self.panel.fields[name].setEnabled(light.latitude is None)
