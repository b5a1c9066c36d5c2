"""Lamps: light in caves and at night."""

import math

from hulmo.core.colour import hex_to_linear
from hulmo.core.objects.kind import Mesh, ObjectKind, put_by
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.water import drop_mesh
from hulmo.core.setting import Colour, Number, Setting, Values, complete, number

LUX = 500.0
"""Lux that light of strength 1 stands for."""

MOST_LAMPS = 16
"""Lamps that are drawn at once: those that are nearest to what is looked at."""

SETTINGS: tuple[Setting, ...] = (
    Number("lumens", "Strength", "lm", 0.0, 10_000_000.0, 4000.0, "All light it gives; a bulb gives 800.",
           comfort=(100.0, 20_000.0), curve=3.0),
    Number("reach", "Reach", "m", 0.01, 10_000.0, 12.0, "Beyond this its light ends.", comfort=(1.0, 50.0), curve=2.0),
    Colour("colour", "Colour", "#ffd9a0", "Colour of its light."),
)  # fmt: skip


def lamp_values(entry: SceneObject) -> Values:
    """All settings of a lamp, checked.

    Raises
    ------
    InvalidInput
    """
    return complete(SETTINGS, entry.values, f"lamp {entry.name!r}")


def candela(entry: SceneObject) -> tuple[float, float, float]:
    """Light of a lamp in every direction, red, green and blue: lumens over 4 pi."""
    values = lamp_values(entry)
    red, green, blue = hex_to_linear(str(values["colour"]), entry.name)
    all_ = number(values, "lumens") / (4.0 * math.pi)
    return red * all_, green * all_, blue * all_


def _check(entry: SceneObject, where: str) -> None:
    lamp_values(entry)


def _mesh() -> Mesh:
    return drop_mesh()


LAMP = ObjectKind(
    "lamp",
    "Lamp",
    "Light in a cave, or at night.",
    SETTINGS,
    _mesh,
    (0.9, 0.62, 0.18),
    True,
    _check,
    put_by,
    turns=False,
)
