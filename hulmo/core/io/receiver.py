"""Shaders that draw a delivery, written for what is in it."""

from collections.abc import Sequence
from typing import Any

from hulmo.core.colour import hex_to_linear
from hulmo.core.dress.light import Light
from hulmo.core.ground.ground import LEAST_DEPTH, Blend, Ground
from hulmo.core.io.blend_text import receiver_glsl
from hulmo.core.io.ground_record import DeliveredImage

NO_IMAGE = -1


def banks_of(images: Sequence[DeliveredImage]) -> list[dict[str, Any]]:
    """Which images go together into one texture array: those of one size, albedo apart from the rest.

    Returns
    -------
    list of dict
        `width`, `height`, `albedo` (whether texels are sRGB) and `textures`: indices of images, by layer.
    """
    banks: list[dict[str, Any]] = []
    for index, image in enumerate(images):
        for bank in banks:
            if (bank["width"], bank["height"]) == image.size and bank["albedo"] == image.albedo:
                bank["textures"].append(index)
                break
        else:
            width, height = image.size
            banks.append({"width": width, "height": height, "albedo": image.albedo, "textures": [index]})
    return banks


def receiver_shaders(
    grounds: Sequence[Ground],
    records: list[dict[str, Any]],
    images: Sequence[DeliveredImage],
    blend: Blend,
    light: Light,
    metres: float = 1.0,
) -> dict[str, Any]:
    """Vertex and fragment shader, and which images are bound to which of their samplers.

    Parameters
    ----------
    grounds : sequence of Ground
    records : list of dict
        What is delivered of each of them; see `ground_records`.
    images : sequence of DeliveredImage
    blend : Blend
    light : Light
    metres : float
        What one unit of POSITION is.
    """
    banks = banks_of(images)
    constants = f"const float METRES = {_number(metres)};\n" + _constants(grounds, records, banks, blend, light)
    vertex, fragment = receiver_glsl(constants)
    return {"vertex": vertex, "fragment": fragment, "banks": banks}


def _constants(
    grounds: Sequence[Ground], records: list[dict[str, Any]], banks: list[dict[str, Any]], blend: Blend, light: Light
) -> str:
    groups = max(1, -(-len(grounds) // 4))
    height = blend.mode == "height"
    means = [record.get("mean", {}) for record in records]
    lines = [
        f"const int GROUNDS = {len(grounds)};",
        f"#define MOST_GROUNDS {4 * groups}",
        f"const float DEPTH = {_number(max(blend.depth, LEAST_DEPTH) if height else 0.0)};",
        _array("float", "TILE", [(ground.tile,) for ground in grounds]),
        _array("vec3", "TINT", [hex_to_linear(ground.tint, "tint") for ground in grounds]),
        _array("vec4", "ADJUST", [(g.brightness, g.contrast, g.gamma, g.saturation) for g in grounds]),
        _array("vec2", "TURN", [ground.turned for ground in grounds]),
        _array("float", "NORMAL_STRENGTH", [(ground.normal_strength,) for ground in grounds]),
        _array("float", "FLAT", [(float(ground.shading == "flat"),) for ground in grounds]),
        _array("vec2", "VARIATION", [(ground.variation_size, ground.variation) for ground in grounds]),
        _array("int", "BREAK_UP", [(int(ground.break_up),) for ground in grounds]),
        _array("int", "BY_UV", [(int(ground.mapping == "uv"),) for ground in grounds]),
        *(
            _array("int", name, [(record.get(part, NO_IMAGE),) for record in records])
            for name, part in (
                ("ALBEDO", "albedo"),
                ("NORMAL_MAP", "normal"),
                ("ROUGHNESS", "roughness"),
                ("HEIGHT", "height"),
            )
        ),
        _array("vec3", "ALBEDO_VALUE", [hex_to_linear(r.get("albedo_value", "#808080"), "albedo") for r in records]),
        _array("float", "ROUGHNESS_VALUE", [(record.get("roughness_value", 1.0),) for record in records]),
        _array("float", "HEIGHT_VALUE", [(record.get("height_value", 0.5),) for record in records]),
        _array("vec3", "MEAN_ALBEDO", [tuple(mean.get("albedo", (0.5, 0.5, 0.5))) for mean in means]),
        _array("vec2", "MEAN_NORMAL", [tuple(mean.get("normal", (0.5, 0.5))) for mean in means]),
        _array("float", "MEAN_ROUGHNESS", [(mean.get("roughness", 0.5),) for mean in means]),
        _array("float", "MEAN_HEIGHT", [(mean.get("height", 0.5),) for mean in means]),
        f"const vec3 TOWARD_SUN = {_vector(light.toward_sun())};",
        f"const vec3 SUN_LIGHT = {_vector(light.sun_light())};",
        f"const vec3 SKY_LIGHT = {_vector(light.sky_light())};",
        f"const float EXPOSURE = {_number(light.exposure)};",
        *_lookups(banks),
    ]
    return "\n".join(lines) + "\n"


def _lookups(banks: list[dict[str, Any]]) -> list[str]:
    lines, at, size = [], [], []
    for number, bank in enumerate(banks):
        kind = "sRGB" if bank["albedo"] else "linear"
        lines.append(f"uniform sampler2DArray bank_{number};  // {bank['width']} x {bank['height']}, {kind}")
        for layer, image in enumerate(bank["textures"]):
            at.append(f"    if (image == {image}) return textureLod(bank_{number}, vec3(at, {layer}.0), level);")
            size.append(f"    if (image == {image}) return vec2({bank['width']}.0, {bank['height']}.0);")
    return [
        *lines,
        "vec4 image_at(int image, vec2 at, float level) {", *at, "    return vec4(0.5);", "}",
        "vec2 image_size(int image) {", *size, "    return vec2(1.0);", "}",
    ]  # fmt: skip


def _array(kind: str, name: str, rows: Sequence[Sequence[float]]) -> str:
    entries = ", ".join(_vector(row) if len(row) > 1 else _scalar(kind, row[0]) for row in rows)
    return f"const {kind} {name}[GROUNDS] = {kind}[GROUNDS]({entries});"


def _scalar(kind: str, value: float) -> str:
    return str(int(value)) if kind == "int" else _number(value)


def _vector(values: Sequence[float]) -> str:
    return f"vec{len(values)}({', '.join(_number(value) for value in values)})"


def _number(value: float) -> str:
    text = f"{float(value):.9g}"
    return text if any(letter in text for letter in ".en") else f"{text}.0"
