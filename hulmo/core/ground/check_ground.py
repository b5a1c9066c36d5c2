"""Refusing grounds whose values cannot be used."""

import math

from hulmo.core.colour import hex_to_linear
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.ground import BLEND_MODES, LEAST_DEPTH, MOST_GROUNDS, Blend, Ground
from hulmo.core.ground.library import PARTS

MAPPINGS = ("position", "uv")

SHADINGS = ("smooth", "flat")

RANGES = {
    "tile": (0.01, 1000.0, " m"),
    "turn": (-360.0, 360.0, "°"),
    "brightness": (0.0, 4.0, ""),
    "contrast": (0.0, 4.0, ""),
    "gamma": (0.1, 10.0, ""),
    "saturation": (0.0, 4.0, ""),
    "normal_strength": (0.0, 4.0, ""),
    "roughness": (0.0, 1.0, ""),
    "height": (0.0, 1.0, ""),
    "variation": (0.0, 1.0, ""),
    "variation_size": (0.1, 10_000.0, " m"),
}
"""Numbers of a ground: least, largest, unit."""


def check_ground(ground: Ground, others: tuple[Ground, ...], where: str) -> None:
    """Refuse a ground whose values cannot be used, or whose name another one has.

    Raises
    ------
    InvalidInput
        Which value, and what it may be.
    """
    if not ground.name.strip():
        raise InvalidInput(f"{where}: a ground needs a name")
    if any(ground.name == other.name for other in others):
        raise InvalidInput(f"{where}: there already is a ground {ground.name!r}; choose another name")
    for name, (low, high, unit) in RANGES.items():
        value = getattr(ground, name)
        if not math.isfinite(value) or not low <= value <= high:
            raise InvalidInput(f"{where}: {name} is {value:g}{unit}; it must lie between {low:g} and {high:g}{unit}")
    for name, known in (("mapping", MAPPINGS), ("shading", SHADINGS)):
        if getattr(ground, name) not in known:
            raise InvalidInput(f"{where}: {name} is {getattr(ground, name)!r}; it must be one of {', '.join(known)}")
    if not set(ground.plain) <= set(PARTS):
        raise InvalidInput(f"{where}: plain names {', '.join(ground.plain)}; parts are {', '.join(PARTS)}")
    hex_to_linear(ground.tint, where)
    hex_to_linear(ground.colour, where)


def check_room(count: int, where: str) -> None:
    """Refuse more grounds than a project can hold."""
    if count > MOST_GROUNDS:
        raise InvalidInput(
            f"{where}: that would make {count} grounds; a project holds {MOST_GROUNDS}, so remove some first"
        )


def check_blend(blend: Blend, where: str) -> None:
    """Refuse a way of blending that there is none of.

    Raises
    ------
    InvalidInput
    """
    if blend.mode not in BLEND_MODES:
        raise InvalidInput(f"{where}: mode is {blend.mode!r}; it must be one of {', '.join(BLEND_MODES)}")
    if not LEAST_DEPTH <= blend.depth <= 1.0:
        raise InvalidInput(f"{where}: depth is {blend.depth:g}; it must lie between {LEAST_DEPTH} and 1")
    if not 1 <= blend.together <= MOST_GROUNDS:
        raise InvalidInput(f"{where}: together is {blend.together}; it must lie between 1 and {MOST_GROUNDS}")
