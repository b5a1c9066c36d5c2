"""Images of what is painted on a body: written for image editors, and read back."""

import pathlib
from typing import NamedTuple

import numpy as np
import png
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.grey_image import LARGEST
from hulmo.core.image_file import deep_colours, grey_values, opened_image
from hulmo.core.io.safe_write import safe_write

KINDS = ("PNG", "TIFF", "JPEG")

COLOURED = 3.5 / 255
"""How far red, green and blue of a grey image may differ."""


class PaintImage(NamedTuple):
    """An image as it was read.

    Attributes
    ----------
    values : (H, W, 1 or 3) float32
        0 to 1.
    step : float
        From one value to the next: 1/255 or 1/65535.
    """

    values: NDArray[np.float32]
    step: float


def read_paint(path: pathlib.Path, channels: int) -> PaintImage:
    """Read an image of shares or of colours.

    Parameters
    ----------
    path : Path
        PNG, TIFF or JPEG with 8 or 16 bits; TIFF of floats.
    channels : int
        1 or 3.

    Raises
    ------
    FileProblem
        Gone, damaged, too large, with transparent pixels, or coloured where shares are wanted.
    """
    where = str(path)
    with opened_image(path, KINDS, where, LARGEST) as image:
        image.load()
        grey = grey_values(image)
        if grey is not None:
            if not np.isfinite(grey).all():
                raise FileProblem(f"{where}: holds pixels that are not finite numbers; mend the image first")
            return PaintImage(np.repeat(np.clip(grey, 0.0, 1.0)[..., None], channels, axis=2), 1 / 65535)
        deep = deep_colours(path, image)
        values: NDArray[np.generic]
        if deep is not None:
            values, full = deep, 65535
        else:
            if image.mode not in ("1", "L", "LA", "La", "P", "RGB", "RGBA", "RGBa", "CMYK", "YCbCr"):
                raise FileProblem(
                    f"{where}: is an image of kind {image.mode}; save it as grey, or as red, green and blue"
                )
            clear = image.mode in ("LA", "La", "RGBA", "RGBa") or "transparency" in image.info
            values, full = np.asarray(image.convert("RGBA" if clear else "RGB")), 255
    if values.shape[2] == 4:
        if (values[..., 3] < full).any():  # type: ignore[operator]
            raise FileProblem(
                f"{where}: has transparent pixels, under which colours are lost; save it without transparency"
            )
        values = values[..., :3]
    out = values.astype(np.float32) / np.float32(full)
    if channels == 1:
        if float(np.ptp(out, axis=2).max(initial=0.0)) > COLOURED:
            raise FileProblem(f"{where}: is coloured, and shares are grey; save it as a grey image")
        out = out[..., :1]
    return PaintImage(out, 1 / full)


def write_paint(path: pathlib.Path, values: NDArray[np.uint16], bits: int) -> None:
    """Write (H, W, 1 or 3) whole numbers as PNG with 8 or 16 bits.

    Raises
    ------
    FileProblem
        It cannot be written; an older file of the name is as it was.
    """
    height, width, channels = values.shape
    writer = png.Writer(width, height, greyscale=channels == 1, bitdepth=bits, compression=6)
    kind = np.uint8 if bits == 8 else ">u2"
    with safe_write(path) as file:
        rows = np.ascontiguousarray(values.astype(kind)).reshape(height, -1).view(np.uint8)
        writer.write_packed(file, rows)
