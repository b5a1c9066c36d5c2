"""Images that repeat, in other sizes: smaller by means of what a texel covers, larger by mixing neighbours."""

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.kernel import kernel

Figures = NDArray[np.float32]

RIM = 4
"""Texels from the other side that are put around an image, so that it goes on repeating."""

STRIP = 1 << 20
"""Texels that are looked at together."""

FULL = 65535


def sixteen_bits(pixels: NDArray[np.uint8], figures: Figures, size: tuple[int, int]) -> NDArray[np.uint16]:
    """One channel of an image in some size, as whole numbers up to 65535; costs little memory beside the result.

    Parameters
    ----------
    pixels : (H, W) uint8
    figures : (256,) float32
        What a byte stands for, 0 to 1: numbers that may be mixed, so colour in linear light.
    size : (int, int)
        Width and height in texels.

    Returns
    -------
    (height, width) uint16
    """
    height, width = pixels.shape
    if (width, height) in ((1, 1), size):
        exact = np.empty((height, width), np.uint16)
        _looked_up(pixels, np.rint(figures * FULL).astype(np.uint16), exact)
        return np.asarray(np.broadcast_to(exact, (size[1], size[0])) if (width, height) == (1, 1) else exact)
    across, down = width // size[0], height // size[1]
    if not across or not down or (across * size[0], down * size[1]) != (width, height):
        return _whole(resized(figures[pixels], size))
    out = np.empty((size[1], size[0]), np.uint16)
    rows = max(1, STRIP // width)
    for top in range(0, size[1], rows):
        part = figures[pixels[top * down : (top + rows) * down]]
        out[top : top + rows] = _whole(part.reshape(-1, down, size[0], across).mean(axis=(1, 3)))
    return out


@kernel("void(Array(uint8, 2, 'A', readonly=True), uint16[::1], uint16[:,::1])")
def _looked_up(pixels: NDArray[np.uint8], known: NDArray[np.uint16], out: NDArray[np.uint16]) -> None:
    for row in range(pixels.shape[0]):
        for column in range(pixels.shape[1]):
            out[row, column] = known[pixels[row, column]]


def resized(image: Figures, size: tuple[int, int]) -> Figures:
    """(H, W) numbers in another size.

    Notes
    -----
    Box filter down, bilinear up, across the border to the other side.
    """
    height, width = image.shape
    rim = RIM if min(height, width) >= RIM else 0
    around = Image.fromarray(np.pad(image, rim, mode="wrap").astype(np.float32))
    smaller = size[0] <= width and size[1] <= height
    filtered = around.resize(
        size, Image.Resampling.BOX if smaller else Image.Resampling.BILINEAR, (rim, rim, rim + width, rim + height)
    )
    return np.asarray(filtered, np.float32)


def _whole(values: Figures) -> NDArray[np.uint16]:
    return np.rint(np.clip(values, 0.0, 1.0) * FULL).astype(np.uint16)
