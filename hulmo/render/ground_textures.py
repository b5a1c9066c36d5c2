"""The textures of a palette, as two texture arrays."""

import moderngl
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.colour import hex_to_linear, srgb_to_linear
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import MOST_GROUNDS, Ground
from hulmo.core.ground.textures import Maps, StoredTextures, load_maps

SIDE = 512
"""Pixels of a side of every layer; other sizes are resampled."""

_LINEAR = srgb_to_linear(np.arange(256) / 255.0).astype(np.float16)


class GroundTextures:
    """Colour and height in one array (linear light, half floats), normal and roughness in another.

    Attributes
    ----------
    problems : list of str
        Grounds whose textures could not be read; they are drawn in plain grey.
    """

    def __init__(
        self, context: moderngl.Context, grounds: tuple[Ground, ...], stored: StoredTextures, software: bool
    ) -> None:
        self.problems: list[str] = []
        count = max(1, len(grounds))
        colour = np.empty((count, SIDE, SIDE, 4), np.float16)
        detail = np.empty((count, SIDE, SIDE, 4), np.uint8)
        for i, ground in enumerate(grounds):
            try:
                maps = load_maps(ground.texture, stored)
            except FileProblem as error:
                self.problems.append(f"ground {ground.name!r}: {error}")
                maps = _plain()
            colour[i, :, :, :3] = _LINEAR[_sized(maps.albedo)]
            colour[i, :, :, 3] = _sized(maps.height) / 255.0
            detail[i, :, :, :2] = _sized(maps.normal)[:, :, :2]
            detail[i, :, :, 2] = _sized(maps.roughness)
            detail[i, :, :, 3] = 255
        self.colour = context.texture_array((SIDE, SIDE, count), 4, colour.tobytes(), dtype="f2")
        self.detail = context.texture_array((SIDE, SIDE, count), 4, detail.tobytes())
        for texture in (self.colour, self.detail):
            texture.build_mipmaps()
            between = moderngl.LINEAR_MIPMAP_NEAREST if software else moderngl.LINEAR_MIPMAP_LINEAR
            texture.filter = (between, moderngl.LINEAR)
            texture.repeat_x = texture.repeat_y = True
            if not software:
                texture.anisotropy = 8.0
        self.tile = np.ones(MOST_GROUNDS, np.float32)
        self.tint = np.ones((MOST_GROUNDS, 3), np.float32)
        for i, ground in enumerate(grounds):
            self.tile[i] = ground.tile
            self.tint[i] = hex_to_linear(ground.tint, ground.name)

    def release(self) -> None:
        """Free the arrays."""
        self.colour.release()
        self.detail.release()


def _plain() -> Maps:
    grey = np.full((SIDE, SIDE, 3), 128, np.uint8)
    flat = np.broadcast_to(np.array([128, 128, 255], np.uint8), (SIDE, SIDE, 3))
    return Maps(grey, flat, grey[:, :, 0], grey[:, :, 0])


def _sized(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    if pixels.shape[:2] == (SIDE, SIDE):
        return pixels
    return np.asarray(Image.fromarray(np.ascontiguousarray(pixels)).resize((SIDE, SIDE), Image.Resampling.LANCZOS))
