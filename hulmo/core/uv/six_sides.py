"""Texture coordinates on six sides of a ball."""

import numpy as np

from hulmo.core.setting import Values
from hulmo.core.uv.projection import Places, Projection, middle_of, seen_on_side, sides_of


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    local = place @ ways.T
    local = local - middle_of(local)
    radius = float(np.linalg.norm(local, axis=2).mean())
    seen = seen_on_side(local, *sides_of(local.mean(axis=1)))
    out = np.maximum(seen[..., 2:], 1e-9 * radius)
    return np.asarray(np.arctan2(seen[..., :2], out) * radius)


SIX_SIDES = Projection(
    "six_sides", "Six sides", "The six sides of a box blown up to a ball, even in angle: for moons.", (), _lay
)
