"""The card of sun and sky."""

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QToolButton, QWidget

from hulmo.app.cards.light_panel_card import LightPanelCard
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetLight
from hulmo.core.dress.light import SETTINGS, Light
from hulmo.core.setting import Number


class LightCard(LightPanelCard):
    """Sun and sky.

    Signals
    -------
    metered
        The user wants the exposure that the picture asks for.
    """

    metered = pyqtSignal()

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
        self.mean = QPushButton("Exposure by the picture")
        self.mean.setToolTip("Brings the mean of what you see to middle grey")
        self.mean.clicked.connect(self.metered)
        self.body.addWidget(self.panel)
        self.body.addWidget(self.mean)
        self.follow()

    def show_light(self, light: Light) -> None:
        """See `LightPanelCard.show_light`."""
        self.panel.set_values(msgspec.structs.asdict(light))
        for name in ("bearing", "altitude"):
            self.panel.fields[name].setEnabled(light.latitude is None)

    def set_exposure(self, stops: float) -> None:
        """Expose by so many stops, as far as can be."""
        setting = next(setting for setting in SETTINGS if setting.name == "exposure")
        assert isinstance(setting, Number)
        self._session.do(
            SetLight(
                **{
                    **msgspec.structs.asdict(self._session.project.light),
                    "exposure": round(min(max(stops, setting.low), setting.high), 2),
                }
            )
        )
