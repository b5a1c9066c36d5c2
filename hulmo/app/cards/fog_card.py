"""The card of fog."""

import msgspec
from PyQt6.QtWidgets import QCheckBox, QPushButton, QWidget

from hulmo.app.cards.light_panel_card import LightPanelCard
from hulmo.app.label import plain_tip
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.dress.light import FOG, Light

FIRST = {setting.name: setting.default for setting in FOG}


class FogCard(LightPanelCard):
    """How thick fog is, and where it lies."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Fog", "How far one sees, and how high it lies.", FOG, session, theme, parent)
        self.sky = QCheckBox("Colour of the sky")
        self.sky.setToolTip(plain_tip("Fog has the colour of the sky at the horizon, wherever one looks"))
        self.sky.clicked.connect(lambda on: self._changed("fog_colour", "" if on else str(FIRST["fog_colour"])))
        self.pick = QPushButton("Colour from the picture")
        self.pick.setToolTip("Press on the picture where fog is to take its colour from")
        self.pick.clicked.connect(self._pick)
        for part in (self.panel, self.sky, self.pick):
            self.body.addWidget(part)
        self.follow()

    def show_light(self, light: Light) -> None:
        """See `LightPanelCard.show_light`."""
        values = msgspec.structs.asdict(light)
        self.panel.set_values({name: values[name] or FIRST[name] for name in self.panel.fields})
        foggy = light.sight > 0
        for name in ("fog_level", "fog_fall"):
            self.panel.fields[name].setVisible(foggy)
        self.panel.fields["fog_colour"].setVisible(foggy and bool(light.fog_colour))
        self.sky.setVisible(foggy)
        self.pick.setVisible(foggy)
        self.sky.setChecked(not light.fog_colour)

    def _pick(self) -> None:
        self._session.do_once("fog colour")
        self._session.noticed.emit("Press where fog is to take its colour from. Escape leaves it.")
