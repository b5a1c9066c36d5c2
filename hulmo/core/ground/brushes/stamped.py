"""Painting through a stamp: a grey image under the brush says how much each vertex gets."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.grey_image import read_grey, sample_grey
from hulmo.core.sculpt.brush import Dab
from hulmo.core.setting import Number, Picture, Setting, Switch, Values, number

_ONLY = (("stamped", True),)

SETTINGS: tuple[Setting, ...] = (
    Switch("stamped", "Through a stamp", False, "A grey image under the brush says where paint comes through."),
    Picture("stamp", "Stamp", "grain", "A shipped stamp, or any PNG, TIFF or JPEG: white lets all through.", only=_ONLY),
    Number("stamp_turn", "Turn", "°", -180.0, 180.0, 0.0, "Turns the stamp.", only=_ONLY),
    Switch("stamp_about", "Turned anew every dab", True, "Every dab turns the stamp another way.", only=_ONLY),
)  # fmt: skip


def check(values: Values, where: str) -> None:
    """Raise a clear error when the stamp cannot be read."""
    if values["stamped"]:
        read_grey(str(values["stamp"]), where=where)


def mask(dab: Dab) -> NDArray[np.float32]:
    """(K,) what comes through at each row, 0 to 1. The stamp fills the square around the brush circle."""
    if not dab.values["stamped"]:
        return np.ones(dab.rows.size, np.float32)
    turn = np.radians(number(dab.values, "stamp_turn"))
    if dab.values["stamp_about"]:  # by the number of the dab, so that a replay and every copy turn it the same way
        turn += float(np.random.default_rng(dab.number).uniform(0.0, 2.0 * np.pi))
    normal = dab.body.vertices["normal"][dab.rows].mean(axis=0, dtype=np.float64)
    away = np.take(dab.surface, dab.rows, axis=0) - dab.centre
    level = abs(normal[1]) > 0.9 * np.linalg.norm(normal)
    helper = dab.turn @ (np.array([0.0, 0.0, -1.0]) if level else np.array([0.0, 1.0, 0.0]))
    top = helper - normal * (helper @ normal) / max(float(normal @ normal), 1e-12)
    top /= max(float(np.linalg.norm(top)), 1e-12)
    right = np.cross(top, normal / max(float(np.linalg.norm(normal)), 1e-12)) * (-1.0 if dab.mirrored else 1.0)
    c, s = np.cos(turn), np.sin(turn)
    across, up = away @ (c * right - s * top), away @ (c * top + s * right)
    grey = sample_grey(
        read_grey(str(dab.values["stamp"])), 0.5 + across / (2 * dab.radius), 0.5 - up / (2 * dab.radius), wrap=False
    )
    return np.asarray(np.clip(grey, 0.0, 1.0), np.float32)
