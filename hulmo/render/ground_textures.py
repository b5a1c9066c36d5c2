"""The textures of a palette, as pairs of texture arrays: one pair for every size of image."""

from collections.abc import Iterator

import moderngl

from hulmo.core.ground.ground import Ground
from hulmo.core.ground.layers import MOST_SIZES, GroundLayers
from hulmo.core.ground.textures import StoredTextures

MOST_BANKS = MOST_SIZES
"""Pairs of arrays."""


class GroundTextures(GroundLayers):
    """Colour and height in one array (linear light), normal and roughness in another; a pair a size, 16 bits a channel.

    Nothing is in them before `make` has come to its end.

    Attributes
    ----------
    banks : list of (colour, detail)
        Pairs of texture arrays.
    """

    def __init__(
        self, context: moderngl.Context, grounds: tuple[Ground, ...], stored: StoredTextures, smaller: int = 1
    ) -> None:
        super().__init__(grounds, stored, smaller)
        self._levels = smaller == 1  # a drawer may have to compile what makes them
        self.banks: list[tuple[moderngl.TextureArray, moderngl.TextureArray]] = []
        for number, size in enumerate(self.sizes):
            shape = (*size, self.count(number))
            self.banks.append(
                (context.texture_array(shape, 4, dtype="nu2"), context.texture_array(shape, 4, dtype="nu2"))
            )

    def make(self) -> Iterator[None]:
        """Read the images and send them to the card, some of the work at a time."""
        for number, layer, *contents in self.read():
            for texture, content in zip(self.banks[number], contents, strict=True):
                texture.write(content, viewport=(0, 0, layer, *self.sizes[number], 1))
            yield
        for texture in (texture for pair in self.banks for texture in pair):
            # the same on every drawer: no anisotropy, and levels chosen by the shader
            texture.repeat_x = texture.repeat_y = True
            if self._levels:
                texture.build_mipmaps()
                texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
                yield

    def release(self) -> None:
        """Free the arrays."""
        for pair in self.banks:
            for texture in pair:
                texture.release()


def uses_of(grounds: tuple[Ground, ...]) -> dict[str, bool]:
    """Which parts of the blend formula a palette makes use of: switches of its shader."""
    return {
        "BROKEN": any(ground.break_up for ground in grounds),
        "VARIED": any(ground.variation > 0 for ground in grounds),
        "ADJUSTED": any((g.brightness, g.contrast, g.gamma, g.saturation) != (1.0, 1.0, 1.0, 1.0) for g in grounds),
        "TURNED": any(ground.turn != 0 for ground in grounds),
        "FACETED": any(ground.shading == "flat" for ground in grounds),
    }
