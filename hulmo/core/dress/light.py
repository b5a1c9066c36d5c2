"""Sun and sky."""

import math

import msgspec

from hulmo.core.errors import InvalidInput

RANGES = {
    "bearing": (0.0, 360.0),
    "altitude": (1.0, 90.0),
    "sun": (0.0, 20.0),
    "sky": (0.0, 10.0),
    "exposure": (-6.0, 6.0),
}
"""Least and largest value of each attribute."""


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
    """

    bearing: float = 130.0
    altitude: float = 38.0
    sun: float = 3.0
    sky: float = 1.0
    exposure: float = 0.0

    def toward_sun(self) -> tuple[float, float, float]:
        """Unit vector from the ground to the sun."""
        bearing, altitude = math.radians(self.bearing), math.radians(self.altitude)
        level = math.cos(altitude)
        return level * math.sin(bearing), math.sin(altitude), -level * math.cos(bearing)

    def sun_light(self) -> tuple[float, float, float]:
        """Light of the sun, linear red, green and blue."""
        return self.sun, 0.94 * self.sun, 0.84 * self.sun

    def sky_light(self) -> tuple[float, float, float]:
        """Light of the sky, linear red, green and blue."""
        return self.sky, self.sky, self.sky


def check_light(light: Light, where: str) -> None:
    """Refuse a light whose values cannot be used.

    Raises
    ------
    InvalidInput
    """
    for name, (low, high) in RANGES.items():
        value = getattr(light, name)
        if not low <= value <= high:
            raise InvalidInput(f"{where}: {name} is {value:g}; it must lie between {low:g} and {high:g}")
