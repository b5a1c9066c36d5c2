"""Grey images that are laid as relief: the shipped ones and files of the user's own."""

import functools
import pathlib
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

import hulmo.assets
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.image_file import deep_colours, grey_values, opened_image
from hulmo.core.kernel import kernel
from hulmo.core.there import is_file

Grey = NDArray[np.float32]

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "stamps"

LARGEST = 16_384
"""Pixels of the longer side that are read at the most."""

CHANNELS = ("grey", "red", "green", "blue", "alpha")

ROWS = 256
"""Rows of an image that are turned into heights at a time."""

_KINDS = ("PNG", "TIFF", "JPEG")


def shipped_images() -> list[str]:
    """Names of the shipped images."""
    return sorted(file.stem for file in FOLDER.glob("*.png"))


def image_file(name: str) -> pathlib.Path:
    """The file behind a shipped name or a path."""
    shipped = FOLDER / f"{name}.png"
    return shipped if "/" not in name and "." not in name and is_file(shipped) else pathlib.Path(name)


def outside(name: str) -> bool:
    """Whether an image is a file of the user's own; not so for no name at all."""
    return bool(name) and image_file(name).parent != FOLDER


def read_grey(name: str, channel: str = "grey", where: str = "image") -> Grey:
    """An image as heights.

    Parameters
    ----------
    name : str
        A shipped image, or a PNG, TIFF or JPEG file with 8 or 16 bits (or 32-bit float TIFF).
    channel : str
        One of `CHANNELS`.

    Returns
    -------
    (H, W) float32
        0 black, 1 white (floats as they are), first row at the top of the image. Not to be written into.

    Raises
    ------
    FileProblem
        No such file, no image, damaged, too small or too large. The message says what to do.
    InvalidInput
        A channel that the image does not have.
    """
    file = image_file(name)
    try:
        stamp = file.stat().st_mtime_ns
    except OSError as error:
        known = ", ".join(shipped_images())
        raise FileProblem(
            f"{where}: {name}: there is no such image file ({error.strerror}); choose another one, or one of {known}"
        ) from error
    try:
        return _read(file, stamp, channel)
    except (FileProblem, InvalidInput) as error:
        raise type(error)(f"{where}: {error}") from error


@functools.lru_cache(maxsize=8)
def _read(file: pathlib.Path, stamp: int, channel: str) -> Grey:
    with opened_image(file, _KINDS, str(file), LARGEST) as image:
        if min(image.size) < 2:
            raise FileProblem(f"{file}: {image.size[0]} x {image.size[1]} pixels; a relief needs at least 2 a side")
        image.load()
        grey = _channel(image, channel, file)
    if not np.isfinite(grey).all():
        raise FileProblem(f"{file}: holds pixels that are not finite numbers; mend the image first")
    grey.setflags(write=False)
    return grey


def _channel(image: Image.Image, channel: str, file: pathlib.Path) -> Grey:
    if channel == "alpha" and "A" not in image.getbands():
        raise InvalidInput(f"{file}: has no alpha channel; choose another channel")
    grey = grey_values(image)
    if grey is not None:  # its only channel is red, green and blue alike
        return grey
    if image.mode == "1":
        return np.asarray(image, np.float32)
    deep = deep_colours(file, image)
    if deep is not None:
        return _of_colours(deep, 65535.0, channel)
    if image.mode in ("L", "LA", "La") and channel != "alpha":
        return np.asarray(image.getchannel("L"), np.float32) / np.float32(255)
    return _of_colours(np.asarray(image.convert("RGBA" if channel == "alpha" else "RGB")), 255.0, channel)


def _of_colours(colours: NDArray[Any], white: float, channel: str) -> Grey:
    if channel != "grey":
        return np.asarray(colours[..., CHANNELS.index(channel) - 1], np.float32) / np.float32(white)
    height, width = colours.shape[:2]
    out = np.empty((height, width), np.float32)
    for begin in range(0, height, ROWS):
        part = colours[begin : begin + ROWS, :, :3]
        same = (part[..., 0] == part[..., 1]).all() and (part[..., 0] == part[..., 2]).all()
        # luma of ITU-R BT.709
        value: Any = part[..., 0]
        if not same:
            value = part.astype(np.float32) @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        out[begin : begin + ROWS] = np.asarray(value, np.float32) / np.float32(white)
    return out


def sample_grey(grey: Grey, u: NDArray[np.floating], v: NDArray[np.floating], wrap: bool) -> Grey:
    """(K,) heights at places in an image, between pixels in proportion.

    Parameters
    ----------
    grey : (H, W) float32
    u, v : (K,) float
        0 to 1 from left to right and from top to bottom; beyond, the image repeats (`wrap`) or ends in its edge.
    """
    out = np.empty(np.size(u), np.float32)
    _sample(grey, np.ascontiguousarray(u, np.float32), np.ascontiguousarray(v, np.float32), wrap, out)
    return out


@kernel("void(Array(float32, 2, 'C', readonly=True), float32[::1], float32[::1], boolean, float32[::1])")
def _sample(grey: Grey, u: Grey, v: Grey, wrap: bool, out: Grey) -> None:
    height, width = grey.shape
    for i in range(out.size):
        x = np.float64(u[i])
        y = np.float64(v[i])
        if wrap:
            x -= np.floor(x)
            y -= np.floor(y)
        x = x * width - 0.5
        y = y * height - 0.5
        left = int(np.floor(x))
        top = int(np.floor(y))
        fx = x - left
        fy = y - top
        right = left + 1
        low = top + 1
        if wrap:
            left = left % width
            right = right % width
            top = top % height
            low = low % height
        else:
            left = min(max(left, 0), width - 1)
            right = min(max(right, 0), width - 1)
            top = min(max(top, 0), height - 1)
            low = min(max(low, 0), height - 1)
        upper = grey[top, left] + fx * (grey[top, right] - grey[top, left])
        lower = grey[low, left] + fx * (grey[low, right] - grey[low, left])
        out[i] = upper + fy * (lower - upper)
