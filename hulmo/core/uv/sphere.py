"""Texture coordinates by longitude and latitude."""

import numpy as np

from hulmo.core.setting import Values
from hulmo.core.uv.projection import Places, Projection, middle_of, unbroken

POLE = 1e-6
"""Share of the radius within which a vertex lies on the axis, and has no longitude of its own."""


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    local = place @ ways.T
    local = local - middle_of(local)
    radius = float(np.linalg.norm(local, axis=2).mean())
    level = np.hypot(local[..., 0], local[..., 2])
    turn = np.arctan2(local[..., 0], local[..., 2])
    pole = level < POLE * radius
    order = np.argsort(pole, axis=1, kind="stable")  # a corner with a longitude comes first
    rows = np.arange(turn.shape[0])[:, None]
    straight = np.empty_like(turn)
    straight[rows, order] = unbroken(turn[rows, order])
    others = np.where(pole, 0.0, straight).sum(axis=1) / np.maximum((~pole).sum(axis=1), 1)
    straight = np.where(pole, others[:, None], straight)
    return np.stack((straight * radius, -np.arctan2(local[..., 1], level) * radius), axis=2)


SPHERE = Projection("sphere", "Sphere", "By longitude and latitude about the middle; it opens in the north.", (), _lay)
