"""The card for seeing inside bodies: a section plane, and a lamp at the eye."""

import math

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.setting import Choice, Number, Switch, Values, number
from hulmo.render.inside import Inside

SETTINGS = (
    Switch("cut", "Section plane", True, "Leaves out what lies on one side of a plane."),
    Choice(
        "plane",
        "Plane",
        (
            ("bearing", "Upright", "An upright plane that faces a bearing."),
            ("level", "Level", "A level plane: a view from above into the ground."),
        ),
        "bearing",
        "How the plane stands.",
    ),
    Number("bearing", "Faces", "°", 0.0, 360.0, 180.0, "Bearing of what is left out: 0 north, 90 east, 180 south.",
           only=(("plane", "bearing"),)),
    Number("tilt", "Tilt", "°", -90.0, 90.0, 0.0, "Leans the plane back or forward."),
    Number("place", "Place", "m", -100_000.0, 100_000.0, 0.0, "Distance of the plane from the middle of the scene.",
           comfort=(-60.0, 60.0)),
    Number("lamp", "Lamp at the eye", "%", 0.0, 400.0, 0.0, "Light from where you look, for caves."),
)  # fmt: skip


def inside_of(values: Values, centre: np.ndarray) -> Inside:
    """Plane and lamp of the card's values; the plane's place counts from a point."""
    lamp = number(values, "lamp") / 100.0
    if not values["cut"]:
        return Inside(None, lamp)
    tilt = math.radians(number(values, "tilt"))
    bearing = math.radians(number(values, "bearing"))
    level = np.array([math.sin(bearing), 0.0, -math.cos(bearing)])
    up = np.array([0.0, 1.0, 0.0])
    first, second = (level, up) if values["plane"] == "bearing" else (up, level)
    normal = math.cos(tilt) * first + math.sin(tilt) * second
    away = float(normal @ centre) + number(values, "place")
    return Inside((float(normal[0]), float(normal[1]), float(normal[2]), away), lamp)


class InsideCard(Card):
    """Settings of section and lamp; shown while the heading's Inside is on.

    Signals
    -------
    changed : dict
        The present values; empty when it is off.
    """

    changed = pyqtSignal(dict)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(
            "Seeing inside", "Cuts the view, not the body. Drag the handle in the scene; with Shift it turns.", parent
        )
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(lambda *_: self.changed.emit(dict(self.panel.values)))
        self.body.addWidget(self.panel)
        self.setVisible(False)

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def set_values(self, values: Values) -> None:
        """Have other values, as if they were typed."""
        self.panel.set_values(values)
        self.changed.emit(dict(self.panel.values))

    def turn(self, on: bool) -> None:
        """Show the card and the section, or neither."""
        self.setVisible(on)
        self.changed.emit(dict(self.panel.values) if on else {})
