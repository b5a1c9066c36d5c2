"""The images of a palette as the blend formula reads them: 16 bits a channel, in a few sizes; and what it is told beside."""

from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from hulmo.core.colour import hex_to_linear
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import MOST_GROUNDS, Ground
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.resample import FULL, sixteen_bits
from hulmo.core.ground.textures import StoredTextures, figures_of, image_size, mean_of, part_pixels

MOST_SIZES = 4
"""Sizes of images; where a palette has more, the rest is resampled to one of these."""

MOST_TEXELS = 16 << 20
"""Texels of all grounds together (21 bytes each, with their levels of detail); beyond, the largest are halved."""

Size = tuple[int, int]

Layer = NDArray[np.uint16]


class GroundLayers:
    """What is read of a palette: for every ground an image of colour (linear light) and height, and one of normal and
    roughness. Grounds of the same pictures share them.

    Images are made by `read`, one after the other, so that they need not all lie in memory; only then is `values` whole.

    Attributes
    ----------
    problems : list of str
        Grounds whose textures could not be read; they are plain grey.
    sizes : list of (int, int)
        Sizes of images, width and height in texels; a size each that the palette has, also where `smaller` makes them alike.
    values : dict
        What the formula is told of every ground, by the names of the uniforms of the shaders; see `ground_values`. `image`
        says which size, which layer of that size, and the size itself.

    Parameters
    ----------
    grounds : tuple of Ground
    stored : dict
        Texture sets that the project keeps.
    smaller : int
        How many times as wide and high as they are read the images are; files that can be read smaller are, which is quicker.
    """

    def __init__(self, grounds: tuple[Ground, ...], stored: StoredTextures, smaller: int = 1) -> None:
        self.problems: list[str] = []
        self._grounds, self._stored, self._smaller = grounds, stored, smaller
        self._sides: list[int] | None = None
        self._fixed = {
            "image": np.tile(np.array([0.0, 0.0, 1.0, 1.0], np.float32), (MOST_GROUNDS, 1)),
            "mean_colour": np.zeros((MOST_GROUNDS, 4), np.float32),
            "mean_detail": np.full((MOST_GROUNDS, 4), 0.5, np.float32),
        }
        self._heights = np.tile(np.array([0.0, 1.0], np.float32), (MOST_GROUNDS, 1))
        self._flat = np.ones(MOST_GROUNDS, np.bool_)
        alike: dict[tuple[object, ...], int] = {}
        self._first = [alike.setdefault(_pictures(ground), i) for i, ground in enumerate(grounds)]
        sizes = {}
        for i in alike.values():
            of_parts = [_size_of(grounds[i], part, stored) for part in PARTS]
            sizes[i] = max(size[0] for size in of_parts), max(size[1] for size in of_parts)
        kept = _kept_sizes(_within(list(sizes.values()) or [(1, 1)]))
        different = list(dict.fromkeys(kept))
        self._number = {i: different.index(size) for i, size in zip(sizes or (0,), kept, strict=True)}
        self.sizes = [(max(1, size[0] // smaller), max(1, size[1] // smaller)) for size in different]

    def count(self, number: int) -> int:
        """How many layers there are of a size."""
        return sum(other == number for other in self._number.values())

    def read(self) -> Iterator[tuple[int, int, Layer, Layer]]:
        """Make the images: number of the size, number of the layer, and two (H, W, 4) uint16."""
        for number, size in enumerate(self.sizes):
            members = [i for i, other in self._number.items() if other == number]
            for layer, i in enumerate(members):
                self._fixed["image"][i] = number, layer, *size
                yield number, layer, *self._layers(i, size)
        for values in (*self._fixed.values(), self._heights, self._flat):
            values[: len(self._first)] = values[self._first]
        self.values = self._told()

    def _layers(self, number: int, size: Size) -> tuple[NDArray[np.uint16], NDArray[np.uint16]]:
        # colour and height; normal and roughness: 16 bits a channel, one part after the other
        colour = np.full((size[1], size[0], 4), FULL // 2, np.uint16)
        detail = np.full((size[1], size[0], 4), FULL, np.uint16)
        if number >= len(self._grounds):
            return colour, detail
        ground, stored = self._grounds[number], self._stored
        least = size if self._smaller > 1 else None  # what is kept halved is a mean of all texels
        into = {"albedo": (colour, 0), "height": (colour, 3), "normal": (detail, 0), "roughness": (detail, 2)}
        means = {}
        for part, (array, first) in into.items():
            try:
                pixels = part_pixels(ground, part, stored, least)
            except FileProblem as error:
                self.problems.append(f"ground {ground.name!r}: {error}")
                ground = replace(ground, texture="", plain=PARTS, colour="#808080", height=0.5, roughness=0.5)
                pixels = part_pixels(ground, part, stored, least)
            means[part] = mean_of(part, pixels)
            planes = pixels if pixels.ndim == 3 else pixels[:, :, None]
            for k in range(len(means[part])):
                array[:, :, first + k] = sixteen_bits(planes[:, :, k], figures_of(part), size)
            if part == "height":
                self._heights[number] = pixels.min() / 255.0, pixels.max() / 255.0
            if part == "normal":
                self._flat[number] = pixels.shape[:2] == (1, 1)
        self._fixed["mean_colour"][number] = *means["albedo"], *means["height"]
        self._fixed["mean_detail"][number] = *means["normal"], *means["roughness"], 1.0
        return colour, detail

    def _told(self) -> dict[str, NDArray[np.float32]]:
        values = {**ground_values(self._grounds), **self._fixed}
        values["manner"][self._flat, 2] = 0.0  # 128 is half a step off flat
        factor = 0.1 + 0.9 * self._heights
        factor[values["spread"][:, 0] > 0] = 0.1, 1.0  # pieces mixed together reach beyond what the image has
        return {**values, "factor": factor}

    def density(self) -> NDArray[np.float32]:
        """(16, 1) pixels of texture a metre of each ground; sizes of images are looked up when first asked for."""
        if self._sides is None:
            self._sides = [max(_size_of(ground, "albedo", self._stored)) for ground in self._grounds]
        out = np.ones((MOST_GROUNDS, 1), np.float32)
        out[: len(self._sides), 0] = [s / g.tile for s, g in zip(self._sides, self._grounds, strict=True)]
        return out

    def change(self, grounds: tuple[Ground, ...]) -> None:
        """Other values of the same grounds; their textures stay."""
        self._grounds = grounds
        self.values = self._told()


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
        flat, by_uv = float(ground.shading == "flat"), float(ground.mapping == "uv")
        out["tile"][i] = ground.tile
        out["tint"][i] = hex_to_linear(ground.tint, ground.name)
        out["adjust"][i] = ground.brightness, ground.contrast, ground.gamma, ground.saturation
        out["manner"][i] = *ground.turned, ground.normal_strength, flat
        out["spread"][i] = float(ground.break_up), ground.variation, ground.variation_size, by_uv
    return out


def look_again(before: tuple[Ground, ...], after: tuple[Ground, ...]) -> bool:
    """Whether textures must be made anew between two palettes, or only the values differ."""
    return [_pictures(ground) for ground in before] != [_pictures(ground) for ground in after]


def _pictures(ground: Ground) -> tuple[object, ...]:
    return ground.texture, ground.plain, ground.colour, ground.roughness, ground.height


def _size_of(ground: Ground, part: str, stored: StoredTextures) -> Size:
    try:
        return image_size(ground, part, stored)
    except FileProblem:
        return 1, 1  # drawn in plain grey, and told of where it is read


def _within(sizes: list[Size]) -> list[Size]:
    sizes = list(sizes)
    while sum(width * height for width, height in sizes) > MOST_TEXELS:
        largest = max(range(len(sizes)), key=lambda i: sizes[i][0] * sizes[i][1])
        sizes[largest] = max(1, sizes[largest][0] // 2), max(1, sizes[largest][1] // 2)
    return sizes


def _kept_sizes(sizes: list[Size]) -> list[Size]:
    # the size that each is kept in: its own, as long as there are not too many; what is plain is so in any
    often = sorted(set(sizes), key=lambda size: (size == (1, 1), -sizes.count(size), -size[0] * size[1]))
    kept = [size for size in often if size != (1, 1)][:MOST_SIZES] or [(1, 1)]
    out = []
    for size in sizes:
        if size in kept:
            out.append(size)
            continue
        holding = [other for other in kept if other[0] >= size[0] and other[1] >= size[1]]
        area = min if holding else max
        out.append(area(holding or kept, key=lambda other: other[0] * other[1]))
    return out
