"""Sun and sky."""

import math

import msgspec


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
