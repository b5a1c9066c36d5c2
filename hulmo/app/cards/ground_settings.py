"""Settings of one ground, and how they stand for its values."""

from typing import Any

from hulmo.core.ground.ground import LEAST_DEPTH, MOST_GROUNDS, Blend, Ground
from hulmo.core.ground.library import PARTS
from hulmo.core.setting import Choice, Colour, Number, Setting, Switch, Value, Values

TILE: tuple[Setting, ...] = (
    Number(
        "tile", "Tile size", "m", 0.01, 1000.0, 2.5, "Metres that one repeat of the texture covers.",
        comfort=(0.2, 20.0), curve=3.0,
    ),
)  # fmt: skip

PERCENT = ("brightness", "contrast", "saturation", "normal_strength", "variation", "roughness", "height")

GROUND: tuple[Setting, ...] = (
    Number("turn", "Turn", "°", -360.0, 360.0, 0.0, "Turns the texture.", comfort=(-180.0, 180.0)),
    Number("brightness", "Brightness", "%", 0.0, 400.0, 100.0, "Of its colour.", comfort=(25.0, 200.0)),
    Number("contrast", "Contrast", "%", 0.0, 400.0, 100.0, "About mid grey.", comfort=(25.0, 200.0)),
    Number("gamma", "Gamma", "", 0.1, 10.0, 1.0, "Above 1 lifts the darks, below 1 deepens them.", comfort=(0.4, 2.5)),
    Number("saturation", "Saturation", "%", 0.0, 400.0, 100.0, "0 is grey.", comfort=(0.0, 200.0)),
    Number("normal_strength", "Normal strength", "%", 0.0, 400.0, 100.0, "0 is flat.", comfort=(0.0, 200.0)),
    Choice(
        "shading", "Faces",
        (("smooth", "Smooth", "Faces run into each other."), ("flat", "Flat", "Every face is to be seen.")),
        "smooth", "How faces are shaded, here and as a hint in the delivered file.",
    ),
    Choice(
        "mapping", "Mapped by",
        (
            ("position", "Position", "From all sides, on any shape."),
            ("uv", "UV", "By the body's texture coordinates, where it has any."),
        ),
        "position", "How the texture is laid on the surface.",
    ),
    Switch("break_up", "Break up repeats", False, "Lays the texture in pieces, so that no repeat shows from afar."),
    Number("variation", "Variation", "%", 0.0, 100.0, 0.0, "How much lighter and darker it gets over the land.",
           comfort=(0.0, 50.0)),
    Number("variation_size", "Variation size", "m", 0.1, 10_000.0, 25.0, "From one lighter or darker patch to the next.",
           comfort=(1.0, 200.0), curve=3.0),
    Switch("plain_albedo", "Plain colour", False, "One colour instead of the image."),
    Colour("colour", "Colour", "#808080", "Instead of the albedo image.", only=(("plain_albedo", True),)),
    Switch("plain_normal", "Plain normal", False, "Flat instead of the normal map."),
    Switch("plain_roughness", "Plain roughness", False, "One value instead of the image."),
    Number("roughness", "Roughness", "%", 0.0, 100.0, 90.0, "0 is a mirror.", only=(("plain_roughness", True),)),
    Switch("plain_height", "Plain height", False, "One value instead of the image."),
    Number("height", "Height", "%", 0.0, 100.0, 50.0, "What the blend by height goes by.", only=(("plain_height", True),)),
)  # fmt: skip

BLEND: tuple[Setting, ...] = (
    Choice(
        "mode",
        "Blend",
        (
            ("height", "By height", "Higher parts of a texture show first where grounds meet."),
            ("linear", "Linear", "Grounds fade evenly into each other."),
        ),
        Blend().mode,
        "How grounds meet, here and in the delivered file.",
    ),
    Number(
        "depth", "Softness", "%", 100 * LEAST_DEPTH, 100.0, 100 * Blend().depth, "How softly grounds meet by height."
    ),
)

TOGETHER: tuple[Setting, ...] = (
    Number(
        "together", "Meet at a vertex", "", 1, MOST_GROUNDS, Blend().together, "Grounds that the target can blend at one "
        "vertex; the look Many grounds shows where there are more.", comfort=(1, 8), whole=True,
    ),
    Switch("keep_together", "Brushes keep to that", False, "Painting lets no more grounds meet than that."),
)  # fmt: skip


def to_settings(ground: Ground) -> Values:
    """Values of the settings for a ground."""
    out: Values = {
        name: getattr(ground, name) for name in ("turn", "gamma", "variation_size", "shading", "mapping", "colour")
    }
    out.update({name: 100.0 * getattr(ground, name) for name in PERCENT})
    out.update({f"plain_{part}": part in ground.plain for part in PARTS})
    out["break_up"] = ground.break_up
    return out


def from_settings(ground: Ground, name: str, value: Value) -> dict[str, Any]:
    """Values of a ground after one setting was changed."""
    if name.startswith("plain_"):
        part = name.removeprefix("plain_")
        return {
            "plain": [
                entry for entry in PARTS if (entry == part and value) or (entry != part and entry in ground.plain)
            ]
        }
    if name in PERCENT and isinstance(value, float):
        return {name: value / 100.0}
    return {name: value}
