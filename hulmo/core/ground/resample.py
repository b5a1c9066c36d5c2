"""Images that repeat, in other sizes: smaller by means of what a texel covers, larger by mixing neighbours."""

import numpy as np
from numpy.typing import NDArray
from PIL import Image

Pixels = NDArray[np.float32]

RIM = 4
"""Texels from the other side that are put around an image, so that it goes on repeating."""


def resized(image: Pixels, size: tuple[int, int]) -> Pixels:
    """An image in another size.

    Parameters
    ----------
    image : (H, W) or (H, W, C) float32
        Numbers that may be mixed: colour in linear light.
    size : (int, int)
        Width and height in texels.

    Returns
    -------
    (height, width) or (height, width, C) float32

    Notes
    -----
    Box filter down, bilinear up, across the border to the other side; an image of one texel is that value everywhere.
    """
    if (image.shape[1], image.shape[0]) == size:
        return image
    if image.shape[:2] == (1, 1):
        return np.broadcast_to(image, (size[1], size[0], *image.shape[2:]))
    if image.ndim == 3:
        return np.stack([resized(np.ascontiguousarray(image[:, :, k]), size) for k in range(image.shape[2])], axis=-1)
    height, width = image.shape
    rim = RIM if min(height, width) >= RIM else 0
    around = Image.fromarray(np.pad(image, rim, mode="wrap").astype(np.float32))
    smaller = size[0] <= width and size[1] <= height
    filtered = around.resize(
        size, Image.Resampling.BOX if smaller else Image.Resampling.BILINEAR, (rim, rim, rim + width, rim + height)
    )
    return np.asarray(filtered, np.float32)


def halved(image: Pixels) -> Pixels:
    """(H, W, C) in half the size, the mean of 2 x 2 texels each; a side of one texel stays."""
    return resized(image, (max(1, image.shape[1] // 2), max(1, image.shape[0] // 2)))
