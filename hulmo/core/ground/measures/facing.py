"""Which way the surface faces."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.setting import Number, number


def of(asked: Asked) -> Figures:
    """(K,) degrees between the surface's normal and the direction: 0 faces it, 90 is edge-on, 180 turned away."""
    bearing, altitude = (np.radians(number(asked.values, name)) for name in ("bearing", "altitude"))
    level = np.cos(altitude)
    way = np.array([np.sin(bearing) * level, np.sin(altitude), -np.cos(bearing) * level], np.float32)
    normal = np.take(asked.body.vertices["normal"], asked.rows, axis=0)
    return np.asarray(np.degrees(np.arccos(np.clip(normal @ way, -1.0, 1.0))))


MEASURE = Measure(
    "facing", "Facing", "Angle to a direction: 0° faces it.", "°", 0.0, 180.0, (None, 60.0, 0.0, 20.0),
    (
        Number("bearing", "Bearing", "°", -360.0, 360.0, 0.0, "Clockwise from north (-Z) seen from above.",
               comfort=(-180.0, 180.0)),
        Number("altitude", "Altitude", "°", -90.0, 90.0, 0.0, "Above the horizon."),
    ),
    of,
)  # fmt: skip
