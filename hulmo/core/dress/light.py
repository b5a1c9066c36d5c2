"""Sun, sky and fog."""

import math
import re

import msgspec
import numpy as np

from hulmo.core.colour import hex_to_linear, linear_to_srgb
from hulmo.core.dress.sky import from_above, sun_tint
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.setting import Colour, Number, Setting

LOWEST = -20.0
"""Degrees below the horizon beyond which it makes no difference where the sun stands."""

SETTINGS: tuple[Setting, ...] = (
    Number("bearing", "Bearing", "°", 0, 360, 220.0, "Where the sun stands: 0 north, 90 east, 180 south."),
    Number("altitude", "Altitude", "°", LOWEST, 90, 34.0, "How high the sun stands above the horizon; below 0 it has set."),
    Number("sun", "Sun", "", 0, 20, 3.0, "Strength of sunlight; 3 is a clear day.", comfort=(0, 8)),
    Number("sun_width", "Sun's width", "°", 0.0, 10.0, 0.53, "How wide its disc is: the wider, the softer a shadow far from "
           "what casts it.", comfort=(0.0, 4.0)),
    Number("sky", "Sky", "×", 0, 10, 1.0, "Strength of sky light; 1 is a clear day.", comfort=(0, 3)),
    Number("air", "Air", "×", 0, 10, 1.0, "Thickness of the air: 1 is a clear day, 0 a black sky.", comfort=(0, 3)),
    Number("haze", "Haze", "×", 0, 50, 1.0, "Dust and droplets near the ground: a pale horizon, a red sun.",
           comfort=(0, 10), curve=2.0),
    Number("exposure", "Exposure", "stops", -10, 10, 0.0, "Brightness of the picture.", comfort=(-3, 3)),
)  # fmt: skip
"""Of sun and sky."""

FOG: tuple[Setting, ...] = (
    Number("sight", "Seen as far as", "m", 0.0, 1_000_000.0, 0.0, "How far one sees in the fog; 0: there is none.",
           comfort=(0.0, 2000.0), curve=3.0),
    Number("fog_level", "Lies at", "m", -100_000.0, 100_000.0, 0.0, "Height at which it is so thick.",
           comfort=(-50.0, 100.0)),
    Number("fog_fall", "Thins out over", "m", 0.0, 100_000.0, 0.0,
           "Metres up over which it falls to a third; 0: it is as thick everywhere.", comfort=(0.0, 200.0), curve=2.0),
    Colour("fog_colour", "Colour", "#c9d3d8", "Of the fog in daylight."),
)  # fmt: skip
"""Of fog."""

PICTURE: tuple[Setting, ...] = (
    Number("sky_turn", "Turned", "°", 0.0, 360.0, 0.0, "Bearing that the middle of the picture looks to."),
)
"""Of a sky that is taken from a picture."""

CONTRAST = 3.912
"""How often light must fall by 1/e until 2 % of a contrast is left: how far one sees (Koschmieder 1924)."""

DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


class Light(msgspec.Struct, frozen=True):
    """Light of a scene.

    Attributes
    ----------
    bearing : float
        Where the sun stands, degrees clockwise from north (-Z) seen from above.
    altitude : float
        Degrees above the horizon.
    sun : float
        Strength of sunlight; 3 is a clear day.
    sky : float
        Strength of sky light; 1 is a clear day.
    exposure : float
        Stops; 0 leaves the picture as it is.
    air, haze : float
        Thickness; 1 is a clear day, no air a black sky.
    sight : float
        Metres that one sees in the fog; 0 for none.
    fog_level, fog_fall : float
        Height at which it is so thick, and metres up over which it falls by 1/e; 0: it does not.
    fog_colour : str
        #rrggbb in daylight; empty: that of the sky at the horizon, wherever one looks.
    sun_width : float
        Degrees; 0: shadows are as sharp as they can be drawn.
    sky_turn : float
        Degrees that a sky taken from a picture is turned by.
    latitude, longitude : float or None
        Degrees north and east, where the sun was placed by day and hour.
    day : str
        As 2026-06-21.
    hour, zone : float
        Hours of the clock there, and how many it is ahead of universal time.
    """

    bearing: float = 220.0
    altitude: float = 34.0
    sun: float = 3.0
    sky: float = 1.0
    exposure: float = 0.0
    air: float = 1.0
    haze: float = 1.0
    sight: float = 0.0
    fog_level: float = 0.0
    fog_fall: float = 0.0
    fog_colour: str = ""
    sky_turn: float = 0.0
    sun_width: float = 0.53
    latitude: float | None = None
    longitude: float | None = None
    day: str = "2026-06-21"
    hour: float = 12.0
    zone: float = 0.0

    def toward_sun(self) -> tuple[float, float, float]:
        """Unit vector from the ground to the sun."""
        bearing, altitude = math.radians(self.bearing), math.radians(self.altitude)
        level = math.cos(altitude)
        return level * math.sin(bearing), math.sin(altitude), -level * math.cos(bearing)

    def sun_light(self) -> tuple[float, float, float]:
        """Light of the sun, linear red, green and blue: redder the lower it stands, and less."""
        red, green, blue = sun_tint(self.altitude, self.air, self.haze)
        up = 1.0 if self.altitude >= 0 else 0.0
        return self.sun * red * up, 0.94 * self.sun * green * up, 0.84 * self.sun * blue * up

    def sky_light(self) -> tuple[float, float, float]:
        """Light of the sky, linear red, green and blue."""
        red, green, blue = from_above(self.altitude, self.air, self.haze)
        return self.sky * red, self.sky * green, self.sky * blue

    def extinction(self) -> float:
        """Share of light that a metre of the fog takes, where it is thickest."""
        return CONTRAST / self.sight if self.sight else 0.0

    def fog_light(self) -> tuple[float, float, float] | None:
        """Light that fog throws, linear red, green and blue; None where it has the colour of the sky."""
        if not self.fog_colour:
            return None
        colour, lit = hex_to_linear(self.fog_colour, "fog"), self._on_fog()
        return colour[0] * lit[0], colour[1] * lit[1], colour[2] * lit[2]

    def fog_colour_for(self, wanted: tuple[float, float, float]) -> str:
        """Colour with which fog throws some light, as #rrggbb; what is more than white does keeps its hue."""
        share = [value / max(lit, 1e-6) for value, lit in zip(wanted, self._on_fog(), strict=True)]
        most = max(1.0, *share)
        codes = np.rint(255 * linear_to_srgb([value / most for value in share])).astype(int).tolist()
        return "#{:02x}{:02x}{:02x}".format(*codes)

    def _on_fog(self) -> tuple[float, float, float]:
        # light that white fog throws; daylight of 1 at the reference
        sun, sky = self.sun_light(), self.sky_light()
        return (0.55 * sky[0] + 0.15 * sun[0], 0.55 * sky[1] + 0.15 * sun[1], 0.55 * sky[2] + 0.15 * sun[2])


def check_light(light: Light, where: str) -> None:
    """Refuse a light whose values cannot be used.

    Raises
    ------
    InvalidInput
    """
    for setting in (*SETTINGS, *FOG, *PICTURE):
        value = getattr(light, setting.name)
        if isinstance(setting, Number):
            if not setting.low <= value <= setting.high:
                raise InvalidInput(
                    f"{where}: {setting.name} is {value:g}; it must lie between {setting.low:g} and {setting.high:g}"
                )
        elif value:
            setting.check(value, where)
    if (light.latitude is None) != (light.longitude is None):
        raise InvalidInput(f"{where}: a place needs a latitude and a longitude")
    if light.latitude is not None and light.longitude is not None:
        for name, value, most in (("latitude", light.latitude, 90), ("longitude", light.longitude, 180)):
            if not abs(value) <= most:
                raise InvalidInput(f"{where}: {name} is {value:g}°; it must lie between -{most} and {most}°")
    if not 0.0 <= light.hour <= 24.0 or not -14.0 <= light.zone <= 14.0:
        raise InvalidInput(f"{where}: hour must lie between 0 and 24, zone between -14 and 14")
    if not DAY.fullmatch(light.day):
        raise InvalidInput(f"{where}: day is {shown(light.day)}; write it as 2026-06-21")
