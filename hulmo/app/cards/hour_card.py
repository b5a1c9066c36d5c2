"""The card that places the sun by place, day and hour."""

import msgspec
from PyQt6.QtWidgets import QCheckBox, QWidget

from hulmo.app.cards.light_panel_card import LightPanelCard
from hulmo.app.label import Label, plain_tip
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetLight
from hulmo.core.dress.light import Light
from hulmo.core.dress.sun_path import rise_and_set
from hulmo.core.errors import InvalidInput
from hulmo.core.setting import Number, Setting, Text

SETTINGS: tuple[Setting, ...] = (
    Number("hour", "Hour", "h", 0.0, 24.0, 12.0, "Of the clock there."),
    Text("day", "Day", "2026-06-21", "Year, month and day, as 2026-06-21."),
    Number("latitude", "Latitude", "°", -90.0, 90.0, 57.0, "Degrees north; south below 0."),
    Number("longitude", "Longitude", "°", -180.0, 180.0, 0.0, "Degrees east; west below 0."),
    Number("zone", "Clock ahead by", "h", -14.0, 14.0, 0.0, "Hours that the clock there is ahead of universal time."),
)


class HourCard(LightPanelCard):
    """Sunrise to sunset by one ruler, for any place and day."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(
            "Hour of the day", "Where the sun stands at a place, a day and an hour.", SETTINGS, session, theme, parent
        )
        self.on = QCheckBox("Sun by place and hour")
        self.on.setToolTip(plain_tip("The sun stands where it does at that place, on that day and at that hour"))
        self.on.clicked.connect(self._turn)
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("Sunrise and sunset")
        for part in (self.on, self.panel, self.told):
            self.body.addWidget(part)
        self.follow()

    def show_light(self, light: Light) -> None:
        """See `LightPanelCard.show_light`."""
        placed = light.latitude is not None and light.longitude is not None
        self.on.setChecked(placed)
        self.panel.setVisible(placed)
        self.told.setVisible(placed)
        if light.latitude is None or light.longitude is None:
            return
        values = msgspec.structs.asdict(light)
        self.panel.set_values({name: values[name] for name in self.panel.fields})
        if not self.isVisible():
            return
        try:
            found = rise_and_set(light.latitude, light.longitude, light.day, light.zone)
        except InvalidInput as error:
            self.told.setText(str(error))
            return
        where = f"The sun stands at {light.bearing:.0f}°, {light.altitude:.1f}° high."
        if found is None:
            self.told.setText(f"{where} It neither rises nor sets on this day.")
        else:
            self.told.setText(f"{where} Sunrise {_clock(found[0])}, sunset {_clock(found[1])}.")

    def _turn(self, on: bool) -> None:
        values = msgspec.structs.asdict(self._session.project.light)
        for setting in SETTINGS:
            if setting.name in ("latitude", "longitude"):
                values[setting.name] = setting.default if on else None
        self._session.do(SetLight(**values))


def _clock(hour: float) -> str:
    minutes = round(hour * 60) % 1440
    return f"{minutes // 60}:{minutes % 60:02d}"
