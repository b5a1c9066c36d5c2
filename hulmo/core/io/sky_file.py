"""Skies from files."""

import pathlib

import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import srgb_to_linear
from hulmo.core.dress.sky_picture import SkyPicture, sky_picture
from hulmo.core.errors import FileProblem
from hulmo.core.image_file import deep_colours, grey_values, opened_image
from hulmo.core.io.exr import read_exr
from hulmo.core.io.radiance import read_radiance

LARGEST = 16_384
"""Pixels of the longer side."""

LARGEST_FILE = 1 << 30
"""Bytes."""

ENDINGS = (".hdr", ".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff")


def read_sky(path: pathlib.Path, where: str) -> SkyPicture:
    """A picture of all directions: RGBE or EXR with linear light, or PNG, JPEG or TIFF with sRGB colours (TIFF with floats:
    linear).

    Raises
    ------
    FileProblem
        Gone, damaged, cut off, too large.
    InvalidInput
        Not twice as wide as high, or it holds what is no light.
    """
    told = f"{where}: {path}"
    ending = path.suffix.lower()
    if ending not in ENDINGS:
        raise FileProblem(f"{told}: a sky is one of {', '.join(ENDINGS)}")
    try:
        size = path.stat().st_size
        if size > LARGEST_FILE:
            raise FileProblem(f"{told}: {size:,} bytes; it may have {LARGEST_FILE:,}; make it smaller first")
        data = path.read_bytes() if ending == ".hdr" else b""
    except OSError as error:
        raise FileProblem(f"{told}: cannot be read ({error.strerror or error}); choose another file") from error
    if ending == ".hdr":
        light = read_radiance(data, told, LARGEST)
    elif ending == ".exr":
        light = _of_channels(path, told)
    else:
        light = _of_colours(path, told)
    return sky_picture(path.stem, light, told)


def _of_channels(path: pathlib.Path, told: str) -> NDArray[np.float32]:
    found = read_exr(path, told, LARGEST)
    names = "RGB" if "R" in found else "YYY"
    if not set(names) <= set(found):
        raise FileProblem(f"{told}: has the channels {', '.join(sorted(found)) or 'none'}; R, G and B are wanted")
    return np.stack([np.asarray(found[name], np.float32) for name in names], axis=2)


def _of_colours(path: pathlib.Path, told: str) -> NDArray[np.float32]:
    with opened_image(path, ("PNG", "JPEG", "TIFF"), told, LARGEST) as image:
        image.load()
        deep = deep_colours(path, image)
        if deep is not None:
            return np.asarray(srgb_to_linear(deep[..., :3] / 65535.0), np.float32)
        grey = grey_values(image)
        if grey is not None:
            light = grey if image.mode == "F" else np.asarray(srgb_to_linear(grey), np.float32)
            return np.repeat(light[..., None], 3, axis=2)
        shades = np.asarray(srgb_to_linear(np.arange(256) / 255.0), np.float32)
        return np.asarray(shades[np.asarray(image.convert("RGB"))], np.float32)
