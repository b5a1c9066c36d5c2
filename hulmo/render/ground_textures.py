"""The textures of a palette, as pairs of texture arrays: one pair for every size of image."""

import math
from dataclasses import dataclass

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import hex_to_linear
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import MOST_GROUNDS, Ground
from hulmo.core.ground.resample import halved, resized
from hulmo.core.ground.textures import Maps, StoredTextures, albedo_side, has_image, linear_albedo, maps_of, means_of

MOST_BANKS = 4
"""Pairs of arrays; where a palette has images of more sizes, the rest is resampled to one of these."""

MOST_TEXELS = 40 << 20
"""Texels of all grounds together (21 bytes each, with their smaller versions); beyond, the largest are halved."""

Size = tuple[int, int]


@dataclass(frozen=True)
class _Layer:
    """Images of one ground: (H, W, 4) linear colour and height and normal and roughness; 16 bits a channel."""

    colour: NDArray[np.float32]
    detail: NDArray[np.float32]

    @property
    def size(self) -> Size:
        """Width and height in texels."""
        return self.colour.shape[1], self.colour.shape[0]

    def at(self, size: Size) -> "_Layer":
        """The same in another size."""
        if size == self.size:
            return self
        colour = resized(self.colour, size)
        return _Layer(colour, resized(self.detail, size))

    def half(self) -> "_Layer":
        """The same in half the size."""
        colour, detail = halved(self.colour), halved(self.detail)
        return _Layer(colour, detail)


class GroundTextures:
    """Colour and height in one array (linear light), normal and roughness in another; a pair a size, 16 bits a channel.

    Attributes
    ----------
    problems : list of str
        Grounds whose textures could not be read; they are drawn in plain grey.
    banks : list of (colour, detail)
        Pairs of texture arrays.
    values : dict
        What the shader is told of every ground, by the names of its uniforms; see `ground_values`.
    """

    def __init__(self, context: moderngl.Context, grounds: tuple[Ground, ...], stored: StoredTextures) -> None:
        self.problems: list[str] = []
        self._grounds, self._stored = grounds, stored
        self._sides: list[int] | None = None
        self._fixed = {
            "image": np.tile(np.array([0.0, 0.0, 1.0, 1.0], np.float32), (MOST_GROUNDS, 1)),
            "mean_colour": np.zeros((MOST_GROUNDS, 4), np.float32),
            "mean_detail": np.full((MOST_GROUNDS, 4), 0.5, np.float32),
        }
        self._heights = np.tile(np.array([0.0, 1.0], np.float32), (MOST_GROUNDS, 1))
        self._flat = np.zeros(MOST_GROUNDS, np.bool_)
        layers = []
        for i, ground in enumerate(grounds):
            try:
                maps = maps_of(ground, stored)
                self._flat[i] = not has_image(ground, "normal", stored)
            except FileProblem as error:
                self.problems.append(f"ground {ground.name!r}: {error}")
                maps = _plain()
            mean = means_of(maps)
            self._fixed["mean_colour"][i] = *mean["albedo"], *mean["height"]
            self._fixed["mean_detail"][i] = *mean["normal"], *mean["roughness"], 1.0
            self._heights[i] = maps.height.min() / 255.0, maps.height.max() / 255.0
            layers.append(_layer(maps))
        self.banks = self._banked(context, _within(layers) or [_layer(_plain())])
        self.values = self._told()

    def _banked(
        self, context: moderngl.Context, layers: list[_Layer]
    ) -> list[tuple[moderngl.TextureArray, moderngl.TextureArray]]:
        sizes = _bank_sizes([layer.size for layer in layers])
        banks: dict[Size, list[_Layer]] = {}
        for i, (layer, size) in enumerate(zip(layers, sizes, strict=True)):
            bank = banks.setdefault(size, [])
            self._fixed["image"][i] = list(banks).index(size), len(bank), *size
            bank.append(layer.at(size))
        pairs = []
        for size, content in banks.items():
            shape = (*size, len(content))
            colour = context.texture_array(shape, 4, b"".join(_packed(entry.colour) for entry in content), dtype="nu2")
            detail = context.texture_array(shape, 4, b"".join(_packed(entry.detail) for entry in content), dtype="nu2")
            for texture in (colour, detail):
                # the same on every drawer: no anisotropy, and levels chosen by the shader
                texture.repeat_x = texture.repeat_y = True
                texture.build_mipmaps()
                texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
            pairs.append((colour, detail))
        return pairs

    def _told(self) -> dict[str, NDArray[np.float32]]:
        values = {**ground_values(self._grounds), **self._fixed}
        values["manner"][self._flat, 2] = 0.0  # 128 is half a step off flat
        factor = 0.1 + 0.9 * self._heights
        factor[values["spread"][:, 0] > 0] = 0.1, 1.0  # pieces mixed together reach beyond what the image has
        return {**values, "factor": factor}

    def density(self) -> NDArray[np.float32]:
        """(16, 1) pixels of texture a metre of each ground; sizes of images are looked up when first asked for."""
        if self._sides is None:
            self._sides = [_side_of(ground, self._stored) for ground in self._grounds]
        out = np.ones((MOST_GROUNDS, 1), np.float32)
        out[: len(self._sides), 0] = [s / g.tile for s, g in zip(self._sides, self._grounds, strict=True)]
        return out

    def change(self, grounds: tuple[Ground, ...]) -> None:
        """Other values of the same grounds; their textures stay."""
        self._grounds = grounds
        self.values = self._told()

    def release(self) -> None:
        """Free the arrays."""
        for pair in self.banks:
            for texture in pair:
                texture.release()


def ground_values(grounds: tuple[Ground, ...]) -> dict[str, NDArray[np.float32]]:
    """What the shader is told of every ground besides its textures: arrays of 16 rows, named as its uniforms."""
    out = {
        "tile": np.ones((MOST_GROUNDS, 1), np.float32),
        "tint": np.ones((MOST_GROUNDS, 3), np.float32),
        "adjust": np.ones((MOST_GROUNDS, 4), np.float32),
        "manner": np.tile(np.array([1.0, 0.0, 1.0, 0.0], np.float32), (MOST_GROUNDS, 1)),
        "spread": np.tile(np.array([0.0, 0.0, 1.0, 0.0], np.float32), (MOST_GROUNDS, 1)),
    }
    for i, ground in enumerate(grounds):
        turn = math.radians(ground.turn)
        flat, by_uv = float(ground.shading == "flat"), float(ground.mapping == "uv")
        out["tile"][i] = ground.tile
        out["tint"][i] = hex_to_linear(ground.tint, ground.name)
        out["adjust"][i] = ground.brightness, ground.contrast, ground.gamma, ground.saturation
        out["manner"][i] = math.cos(turn), math.sin(turn), ground.normal_strength, flat
        out["spread"][i] = float(ground.break_up), ground.variation, ground.variation_size, by_uv
    return out


def uses_of(grounds: tuple[Ground, ...]) -> dict[str, bool]:
    """Which parts of the blend formula a palette makes use of: switches of its shader."""
    return {
        "BROKEN": any(ground.break_up for ground in grounds),
        "VARIED": any(ground.variation > 0 for ground in grounds),
        "ADJUSTED": any((g.brightness, g.contrast, g.gamma, g.saturation) != (1.0, 1.0, 1.0, 1.0) for g in grounds),
        "TURNED": any(ground.turn != 0 for ground in grounds),
        "FACETED": any(ground.shading == "flat" for ground in grounds),
    }


def look_again(before: tuple[Ground, ...], after: tuple[Ground, ...]) -> bool:
    """Whether textures must be made anew between two palettes, or only the values differ."""

    def pictures(grounds: tuple[Ground, ...]) -> list[object]:
        return [(g.texture, g.plain, g.colour, g.roughness, g.height) for g in grounds]

    return pictures(before) != pictures(after)


def _side_of(ground: Ground, stored: StoredTextures) -> int:
    try:
        return albedo_side(ground, stored)
    except (FileProblem, OSError):
        return 1  # drawn in plain grey, and told of where textures are read


def _plain() -> Maps:
    grey = np.full((1, 1, 3), 128, np.uint8)
    return Maps(grey, np.array([[[128, 128, 255]]], np.uint8), grey[:, :, 0], grey[:, :, 0])


def _layer(maps: Maps) -> _Layer:
    parts = (maps.albedo, maps.normal, maps.roughness, maps.height)
    size = max(part.shape[1] for part in parts), max(part.shape[0] for part in parts)
    colour = np.empty((size[1], size[0], 4), np.float32)
    colour[:, :, :3] = resized(linear_albedo(maps.albedo), size)
    colour[:, :, 3] = resized(maps.height.astype(np.float32) / 255.0, size)
    detail = np.ones((size[1], size[0], 4), np.float32)
    detail[:, :, :2] = resized(maps.normal[:, :, :2].astype(np.float32) / 255.0, size)
    detail[:, :, 2] = resized(maps.roughness.astype(np.float32) / 255.0, size)
    return _Layer(colour, detail)


def _packed(values: NDArray[np.float32]) -> bytes:
    return bytes(np.rint(values * 65535.0).astype(np.uint16).tobytes())


def _within(layers: list[_Layer]) -> list[_Layer]:
    layers = list(layers)
    while sum(layer.size[0] * layer.size[1] for layer in layers) > MOST_TEXELS:
        largest = max(range(len(layers)), key=lambda i: layers[i].size[0] * layers[i].size[1])
        layers[largest] = layers[largest].half()
    return layers


def _bank_sizes(sizes: list[Size]) -> list[Size]:
    # the size that each is kept in: its own, as long as there are not too many; what is plain is so in any
    often = sorted(set(sizes), key=lambda size: (size == (1, 1), -sizes.count(size), -size[0] * size[1]))
    kept = [size for size in often if size != (1, 1)][:MOST_BANKS] or [(1, 1)]
    out = []
    for size in sizes:
        if size in kept:
            out.append(size)
            continue
        holding = [bank for bank in kept if bank[0] >= size[0] and bank[1] >= size[1]]
        area = min if holding else max
        out.append(area(holding or kept, key=lambda bank: bank[0] * bank[1]))
    return out
