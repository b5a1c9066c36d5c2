"""The card of a sky that is taken from a picture."""

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from hulmo.app.cards.light_panel_card import LightPanelCard
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetSky, SunFromSky
from hulmo.core.dress.light import PICTURE, Light


class SkyCard(LightPanelCard):
    """A picture of all directions in place of the air; it lights the scene, too.

    Signals
    -------
    asked
        The user wants to choose a file.
    """

    asked = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(
            "Sky from a picture",
            "A picture of all directions, which lights the scene, too.",
            PICTURE,
            session,
            theme,
            parent,
        )
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("Picture of the sky")
        self.choose = QPushButton("Choose a picture…")
        self.choose.setToolTip("HDR, EXR, TIFF, PNG or JPEG, twice as wide as high")
        self.choose.clicked.connect(self.asked)
        self.sun = QPushButton("Sun from it")
        self.sun.setToolTip("Put the sun where the picture is brightest")
        self.sun.clicked.connect(lambda: session.do(SunFromSky()))
        self.away = QPushButton("Take away")
        self.away.setToolTip("Back to the sky of the air")
        self.away.clicked.connect(lambda: session.do(SetSky()))
        row = QHBoxLayout()
        row.setSpacing(5)
        row.addWidget(self.sun)
        row.addWidget(self.away)
        for part in (self.told, self.panel, self.choose):
            self.body.addWidget(part)
        self.body.addLayout(row)
        session.changed.connect(lambda change: self.refresh() if "sky" in change.fields else None)
        self.follow()

    def show_light(self, light: Light) -> None:
        """See `LightPanelCard.show_light`."""
        sky = self._session.project.sky
        for part in (self.told, self.panel, self.sun, self.away):
            part.setVisible(sky is not None)
        if sky is not None:
            self.told.setText(f"{sky.name}, {sky.light.shape[1]} × {sky.light.shape[0]}")
        self.choose.setText("Choose a picture…" if sky is None else "Choose another…")
        values = msgspec.structs.asdict(light)
        self.panel.set_values({name: values[name] for name in self.panel.fields})
