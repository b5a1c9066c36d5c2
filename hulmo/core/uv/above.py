"""Texture coordinates as seen from above."""

from hulmo.core.setting import Values
from hulmo.core.uv.projection import Places, Projection


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    local = place @ ways.T
    return local[..., (0, 2)]


ABOVE = Projection("above", "From above", "As on a map: east to the right, north up.", (), _lay)
