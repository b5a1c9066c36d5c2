"""Symmetry of a stroke: which turned and mirrored copies are laid with it."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.setting import Choice, Number, Setting, Values, number

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "mirror",
        "Mirror",
        (
            ("none", "Off", "No mirrored copy."),
            ("x", "East and west", "A copy with east and west exchanged, about the upright plane through 0 m east."),
            ("z", "North and south", "A copy with north and south exchanged, about the upright plane through 0 m north."),
        ),
        "none",
        "Lays a mirrored copy of the stroke as well.",
    ),
    Number("turns", "Turned copies", "", 1, 24, 1, "Copies evenly turned around the upright axis; 1 is the stroke alone.",
           comfort=(1, 12), whole=True),
)  # fmt: skip


def copies(values: Values) -> list[NDArray[np.float64]]:
    """(3, 3) matrices, the identity first: each brings the stroke to one of its copies."""
    count = int(number(values, "turns"))
    mirror = {"x": np.diag([-1.0, 1.0, 1.0]), "z": np.diag([1.0, 1.0, -1.0])}.get(str(values["mirror"]))
    out = []
    for i in range(count):
        c, s = math.cos(2 * math.pi * i / count), math.sin(2 * math.pi * i / count)
        turn = np.array([[c, 0.0, s], [0.0, 1.0, 0.0], [-s, 0.0, c]])
        out.append(turn)
        if mirror is not None:
            out.append(turn @ mirror)
    return out
