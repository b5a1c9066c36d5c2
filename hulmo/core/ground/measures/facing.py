"""Which way the surface faces."""

import numpy as np

from hulmo.core.ground.measures.measure import Asked, Figures, Measure
from hulmo.core.setting import Number, number


def of(asked: Asked) -> Figures:
    """(K,) degrees between the surface's normal and the direction: 0 faces it, 90 is edge-on, 180 turned away."""
    bearing, altitude = (np.radians(number(asked.values, name)) for name in ("bearing", "altitude"))
    body, level = asked.body, np.cos(altitude)
    normal = np.take(body.vertices["normal"], asked.rows, axis=0)
    along = (np.sin(bearing) * level, np.sin(altitude), np.cos(bearing) * level)
    if body.down.kind == "level":
        along_world = np.array([along[0], along[1], -along[2]], np.float32)
        return np.asarray(np.degrees(np.arccos(np.clip(normal @ along_world, -1.0, 1.0))))
    east, up, north = body.down.frame(np.take(body.vertices["position"], asked.rows, axis=0), body.origin)
    cosine = (normal * (east * along[0] + up * along[1] + north * along[2])).sum(axis=1)
    return np.asarray(np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))), np.float32)


MEASURE = Measure(
    "facing", "Facing", "Angle to a direction: 0° faces it.", "°", 0.0, 180.0, (None, 60.0, 0.0, 20.0),
    (
        Number("bearing", "Bearing", "°", -360.0, 360.0, 0.0,
               "Clockwise from north (-Z; on a moon toward +Y) seen from above.", comfort=(-180.0, 180.0)),
        Number("altitude", "Altitude", "°", -90.0, 90.0, 0.0, "Above the horizon."),
    ),
    of,
)  # fmt: skip
