"""Texture coordinates rolled off a cylinder."""

import numpy as np

from hulmo.core.setting import Values
from hulmo.core.uv.projection import Places, Projection, middle_of, unbroken

WALL = 0.5
"""Cosine from which on a face counts as lid or floor."""


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    local = place @ ways.T
    local = local - middle_of(local)
    away = np.hypot(local[..., 0], local[..., 2])
    wall = np.abs(normal @ ways[1]) < WALL  # what covers it is nearer to the middle
    radius = float(away[wall].mean() if wall.any() else away.mean())
    turn = unbroken(np.arctan2(local[..., 0], local[..., 2]))
    return np.stack((turn * radius, -local[..., 1]), axis=2)


CYLINDER = Projection(
    "cylinder", "Cylinder", "Rolled off an upright cylinder about the middle; it opens in the north.", (), _lay
)
