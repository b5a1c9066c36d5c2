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
        colour = np.empty((count, side, side, 4), np.float16)
        detail = np.empty((count, side, side, 4), np.uint8)
        for i, ground in enumerate(grounds):
            try:
                maps = load_maps(ground.texture, stored, side)
            except FileProblem as error:
                self.problems.append(f"ground {ground.name!r}: {error}")
                maps = _plain(side)
            colour[i, :, :, :3] = _LINEAR[_sized(maps.albedo, side)]
            colour[i, :, :, 3] = _sized(maps.height, side) / 255.0
            detail[i, :, :, :2] = _sized(maps.normal, side)[:, :, :2]
            detail[i, :, :, 2] = _sized(maps.roughness, side)
            detail[i, :, :, 3] = 255
        self.colour = context.texture_array((side, side, count), 4, colour.tobytes(), dtype="f2")
        self.detail = context.texture_array((side, side, count), 4, detail.tobytes())
        for texture in (self.colour, self.detail):
            texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
            texture.repeat_x = texture.repeat_y = True
            if not software:
                texture.anisotropy = 8.0
        self.tile = np.ones(MOST_GROUNDS, np.float32)
        self.tint = np.ones((MOST_GROUNDS, 3), np.float32)
        for i, ground in enumerate(grounds):
            self.tile[i] = ground.tile
            self.tint[i] = hex_to_linear(ground.tint, ground.name)

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


def _plain(side: int) -> Maps:
    grey = np.full((side, side, 3), 128, np.uint8)
    flat = np.broadcast_to(np.array([128, 128, 255], np.uint8), (side, side, 3))
    return Maps(grey, flat, grey[:, :, 0], grey[:, :, 0])


def _sized(pixels: NDArray[np.uint8], side: int) -> NDArray[np.uint8]:
    if pixels.shape[:2] == (side, side):
        return pixels
    return np.asarray(Image.fromarray(np.ascontiguousarray(pixels)).resize((side, side), Image.Resampling.BOX))
