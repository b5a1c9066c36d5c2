"""Texture coordinates on the sides of a box."""

from hulmo.core.setting import Values
from hulmo.core.uv.projection import Places, Projection, seen_on_side, sides_of


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    axis, back = sides_of(normal @ ways.T)
    return seen_on_side(place @ ways.T, axis, back)[..., :2]


BOX = Projection("box", "Box", "Each face on the side of a box that it faces most.", (), _lay)
