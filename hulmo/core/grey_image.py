"""Grey images that are laid as relief: the shipped ones and files of the user's own."""

import functools
import pathlib

import numpy as np
from numpy.typing import NDArray
from PIL import Image

import hulmo.assets
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.kernel import kernel

Grey = NDArray[np.float32]

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "stamps"

LARGEST = 16_384
"""Pixels of the longer side that are read at the most."""

CHANNELS = ("grey", "red", "green", "blue", "alpha")

_KINDS = ("PNG", "TIFF", "JPEG")


def shipped_images() -> list[str]:
    """Names of the shipped images."""
    return sorted(file.stem for file in FOLDER.glob("*.png"))


def image_file(name: str) -> pathlib.Path:
    """The file behind a shipped name or a path."""
    shipped = FOLDER / f"{name}.png"
    return shipped if "/" not in name and "." not in name and shipped.is_file() else pathlib.Path(name)


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
    try:
        with Image.open(file, formats=_KINDS) as image:
            width, height = image.size
            if max(width, height) > LARGEST:
                raise FileProblem(
                    f"{file}: {width} x {height} pixels; at most {LARGEST} a side are read. Scale it down first"
                )
            if min(width, height) < 2:
                raise FileProblem(f"{file}: {width} x {height} pixels; a relief needs at least 2 a side")
            image.load()
            grey = _channel(image, channel, file)
    except FileProblem:
        raise
    except Image.DecompressionBombError as error:
        raise FileProblem(f"{file}: too many pixels ({error}); scale it down first") from error
    except Exception as error:  # Pillow's plug-ins raise all kinds for damaged files
        if isinstance(error, InvalidInput):
            raise
        raise FileProblem(f"{file}: no image that can be read as PNG, TIFF or JPEG ({error})") from error
    if not np.isfinite(grey).all():
        raise FileProblem(f"{file}: holds pixels that are not finite numbers; mend the image first")
    grey.setflags(write=False)
    return grey


def _channel(image: Image.Image, channel: str, file: pathlib.Path) -> Grey:
    if channel == "alpha":
        if "A" not in image.getbands():
            raise InvalidInput(f"{file}: has no alpha channel; choose another channel")
        return np.asarray(image.getchannel("A"), np.float32) / np.float32(255)
    if channel in ("red", "green", "blue"):
        colour = image.convert("RGB").getchannel(CHANNELS.index(channel) - 1)
        return np.asarray(colour, np.float32) / np.float32(255)
    if image.mode.startswith("I"):  # 16 bits, whatever the byte order
        values = np.asarray(image, np.float64)
        return np.asarray(np.clip(values / 65535.0, 0.0, 1.0), np.float32)
    if image.mode == "F":
        return np.array(image, np.float32)
    if image.mode == "1":
        return np.asarray(image, np.float32)
    colours = np.asarray(image.convert("RGB"), np.float32) / np.float32(255)
    if (colours[..., 0] == colours[..., 1]).all() and (colours[..., 0] == colours[..., 2]).all():
        return np.ascontiguousarray(colours[..., 0])
    # luma of ITU-R BT.709
    return np.asarray(colours @ np.array([0.2126, 0.7152, 0.0722], np.float32), np.float32)


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
