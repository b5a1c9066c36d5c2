"""The textures of a palette, as two texture arrays."""

import math

import moderngl
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.colour import hex_to_linear, srgb_to_linear
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import MOST_GROUNDS, Ground
from hulmo.core.ground.textures import Maps, StoredTextures, albedo_side, maps_of

SIDE = 512
"""Pixels of a side of every layer; other sizes are resampled."""

QUICK_SIDE = 256
"""The same where the processor draws and someone is waiting."""

_LINEAR = srgb_to_linear(np.arange(256) / 255.0).astype(np.float16)


class GroundTextures:
    """Colour and height in one array (linear light, half floats), normal and roughness in another.

    Attributes
    ----------
    problems : list of str
        Grounds whose textures could not be read; they are drawn in plain grey.
    """

    def __init__(
        self,
        context: moderngl.Context,
        grounds: tuple[Ground, ...],
        stored: StoredTextures,
        software: bool,
        side: int = SIDE,
    ) -> None:
        self.problems: list[str] = []
        self._software = software
        self._refined = False
        count = max(1, len(grounds))
        self.mean_colour = np.zeros((MOST_GROUNDS, 4), np.float32)
        self.mean_detail = np.full((MOST_GROUNDS, 4), 0.5, np.float32)
        self._grounds, self._stored = grounds, stored
        self._sides: list[int] | None = None
        colour = np.empty((count, side, side, 4), np.float16)
        detail = np.empty((count, side, side, 4), np.uint8)
        for i, ground in enumerate(grounds):
            try:
                maps = maps_of(ground, stored, side)
            except FileProblem as error:
                self.problems.append(f"ground {ground.name!r}: {error}")
                maps = _plain(side)
            colour[i, :, :, :3] = _LINEAR[_sized(maps.albedo, side)]
            colour[i, :, :, 3] = _sized(maps.height, side) / 255.0
            detail[i, :, :, :2] = _sized(maps.normal, side)[:, :, :2]
            detail[i, :, :, 2] = _sized(maps.roughness, side)
            detail[i, :, :, 3] = 255
            self.mean_colour[i] = colour[i].reshape(-1, 4).mean(axis=0, dtype=np.float32)
            self.mean_detail[i] = detail[i].reshape(-1, 4).mean(axis=0, dtype=np.float32) / 255.0
        self.colour = context.texture_array((side, side, count), 4, colour.tobytes(), dtype="f2")
        self.detail = context.texture_array((side, side, count), 4, detail.tobytes())
        for texture in (self.colour, self.detail):
            texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
            texture.repeat_x = texture.repeat_y = True
            if not software:
                texture.anisotropy = 8.0
        self.values = ground_values(grounds)

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
        self.values = ground_values(grounds)

    def refine(self) -> None:
        """Make the smaller versions that distant ground is drawn with; put off until the first full picture."""
        if not self._refined:
            self._refined = True
            between = moderngl.LINEAR_MIPMAP_NEAREST if self._software else moderngl.LINEAR_MIPMAP_LINEAR
            for texture in (self.colour, self.detail):
                texture.build_mipmaps()
                texture.filter = (between, moderngl.LINEAR)

    def release(self) -> None:
        """Free the arrays."""
        self.colour.release()
        self.detail.release()


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
        return SIDE  # drawn in plain grey, and told of where textures are read


def _plain(side: int) -> Maps:
    grey = np.full((side, side, 3), 128, np.uint8)
    flat = np.broadcast_to(np.array([128, 128, 255], np.uint8), (side, side, 3))
    return Maps(grey, flat, grey[:, :, 0], grey[:, :, 0])


def _sized(pixels: NDArray[np.uint8], side: int) -> NDArray[np.uint8]:
    if pixels.shape[:2] == (side, side):
        return pixels
    return np.asarray(Image.fromarray(np.ascontiguousarray(pixels)).resize((side, side), Image.Resampling.BOX))
