"""Texture coordinates on a plane."""

import numpy as np

from hulmo.core.errors import InvalidInput
from hulmo.core.setting import Choice, Number, Values, number
from hulmo.core.uv.projection import Places, Projection

TYPED = (("plane", "typed"),)


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    if values["plane"] == "typed":
        east, up, north = (number(values, name) for name in ("east", "up", "north"))
        toward = np.array([east, up, -north])
    else:  # across the least extent, on the side that most of the surface faces
        corner = place - place.reshape(-1, 3).mean(axis=0)
        area = np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1)
        middle = corner.mean(axis=1)
        spread = (middle * area[:, None]).T @ middle
        toward = np.linalg.eigh(spread)[1][:, 0]
        if (normal * area[:, None]).sum(axis=0) @ toward < 0:
            toward = -toward
    length = float(np.linalg.norm(toward))
    if not length > 1e-9:
        raise InvalidInput("plane: the direction has no length; give one of east, up and north another value than 0")
    toward = toward / length
    right = np.cross(ways[1], toward)
    right = right / np.linalg.norm(right) if np.linalg.norm(right) > 1e-6 else ways[0]
    return np.stack((place @ right, place @ np.cross(right, toward)), axis=2)


PLANE = Projection(
    "plane", "On a plane", "Onto a plane, seen from the side it faces.",
    (
        Choice("plane", "Plane", (("fitted", "Fitted", "Across the least extent of the faces."),
                                  ("typed", "Typed", "Square to a direction.")), "fitted", "Which plane."),
        Number("east", "East", "", -1.0, 1.0, 0.0, "Direction that the plane faces.", only=TYPED),
        Number("up", "Up", "", -1.0, 1.0, 1.0, "Direction that the plane faces.", only=TYPED),
        Number("north", "North", "", -1.0, 1.0, 0.0, "Direction that the plane faces.", only=TYPED),
    ),
    _lay,
)  # fmt: skip
