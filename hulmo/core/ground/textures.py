"""Texture sets as pixels, whether shipped or kept in a project."""

import functools
import hashlib
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import srgb_to_linear
from hulmo.core.errors import FileProblem, shown
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import shipped, shipped_file
from hulmo.core.image_file import opened_image
from hulmo.core.kernel import kernel
from hulmo.core.workers import side_by_side

T = TypeVar("T")

Pixels = NDArray[np.uint8]

StoredTextures = Mapping[str, Mapping[str, bytes]]
"""Texture sets kept in a project: set name, part, encoded image."""

LARGEST_SIDE = 8192

ROUGH, MIDDLE = 230, 128
"""Roughness and height (255ths) of a set that has no image of them."""

EXTENSIONS = {b"\x89PNG\r\n\x1a\n": "png", b"\xff\xd8\xff": "jpg"}


_PLAIN = (np.arange(256) / 255.0).astype(np.float32)
_LINEAR = srgb_to_linear(np.arange(256) / 255.0).astype(np.float32)


def linear_albedo(albedo: Pixels) -> NDArray[np.float32]:
    """Albedo in linear light, 0 to 1, of sRGB bytes."""
    return np.asarray(_LINEAR[albedo])


def mean_of(part: str, pixels: Pixels) -> list[float]:
    """Mean of one part, 0 to 1: three of albedo (linear light), two of normal, one of the others."""
    figures = figures_of(part)
    if pixels.ndim == 2:
        return [_mean(figures, pixels)]
    return [_mean(figures, pixels[:, :, k]) for k in range(3 if part == "albedo" else 2)]


def part_mean(ground: Ground, part: str, stored: StoredTextures) -> list[float]:
    """As `mean_of`, of a part of a ground; of images that were asked about before it is known.

    Raises
    ------
    FileProblem
        As `part_pixels`.
    """
    key = ("mean", part, content_of(ground, part, stored))
    return list(remembered(key, lambda: mean_of(part, part_pixels(ground, part, stored))))


def content_of(ground: Ground, part: str, stored: StoredTextures) -> bytes | str | float:
    """Changes where the pixels of a part do.

    Raises
    ------
    FileProblem
        As `encoded_part`.
    """
    if not has_image(ground, part, stored):
        return plain_value(ground, part, stored)
    if ground.texture not in stored:
        return _shipped_mark(ground.texture, part)
    data = encoded_part(ground.texture, part, stored)
    assert data is not None
    return _mark(data)


def _mark(data: bytes) -> bytes:
    return hashlib.blake2b(data, digest_size=20).digest()


@functools.cache
def _shipped_mark(name: str, part: str) -> bytes:
    return _mark(_shipped_image(name, part))


@functools.cache
def _shipped_image(name: str, part: str) -> bytes:
    # all of them are a few megabytes, and every file of a delivery asks for them
    if name not in shipped():
        raise FileProblem(
            f"texture set {name!r} is neither in the project nor in the shipped library; give the ground another one"
        )
    path = shipped_file(name, part)
    try:
        return path.read_bytes()
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror}); install Hulmo again") from error


def remembered(key: tuple[object, ...], make: Callable[[], T]) -> T:
    """What was made for a key before, or is made now; the oldest is forgotten when there is much of it.

    For what is small and takes long to make of images: many files of a delivery ask for the same.
    """
    kept = _kept(key)
    if not kept:
        kept.append(make())
    found: T = kept[0]
    return found


@functools.lru_cache(maxsize=512)
def _kept(key: tuple[object, ...]) -> list[Any]:
    return []


def figures_of(part: str) -> NDArray[np.float32]:
    """(256,) what the bytes of a part stand for, 0 to 1: albedo in linear light."""
    return _LINEAR if part == "albedo" else _PLAIN


def _mean(values: NDArray[np.floating], pixels: Pixels) -> float:
    counts = np.zeros(256, np.int64)
    _count(pixels, counts)
    return float(counts @ values.astype(np.float64) / pixels.size)


@kernel("void(Array(uint8, 2, 'A', readonly=True), int64[::1])")
def _count(pixels: Pixels, counts: NDArray[np.int64]) -> None:
    for row in range(pixels.shape[0]):
        for column in range(pixels.shape[1]):
            counts[pixels[row, column]] += 1


def has_image(ground: Ground, part: str, stored: StoredTextures) -> bool:
    """Whether a part of a ground comes from an image; otherwise it has a plain value.

    Raises
    ------
    FileProblem
        As `encoded_part`.
    """
    return bool(ground.texture) and part not in ground.plain and encoded_part(ground.texture, part, stored) is not None


def plain_value(ground: Ground, part: str, stored: StoredTextures) -> str | float:
    """What a part without an image is drawn with: #rrggbb (sRGB), "flat", or a number of whole 255ths."""
    if part == "albedo":
        return ground.colour
    if part == "normal":
        return "flat"
    if part in ground.plain or not ground.texture:
        return round(255 * (ground.roughness if part == "roughness" else ground.height)) / 255
    return (ROUGH if part == "roughness" else MIDDLE) / 255


def part_pixels(ground: Ground, part: str, stored: StoredTextures, least: tuple[int, int] | None = None) -> Pixels:
    """(H, W) or (H, W, 3) bytes of one part of a ground; a single texel where it has a plain value.

    Albedo is sRGB; normal maps have +Y up (OpenGL convention); roughness and height are linear, height 255 is highest. With
    `least` (width, height) an image may be read smaller, down to that, where its format makes that quicker.

    Raises
    ------
    FileProblem
        The set is neither stored nor shipped, or its image is no readable PNG or JPEG, or far too large.
    """
    coloured = part in ("albedo", "normal")
    if has_image(ground, part, stored):
        data = encoded_part(ground.texture, part, stored)
        assert data is not None
        return decode(data, "RGB" if coloured else "L", f"texture set {ground.texture!r}, {part}", least)
    value = plain_value(ground, part, stored)
    if part == "albedo":
        return np.array([[[int(ground.colour[i : i + 2], 16) for i in (1, 3, 5)]]], np.uint8)
    return np.array([[[128, 128, 255]]] if part == "normal" else [[round(255 * float(value))]], np.uint8)


def image_size(ground: Ground, part: str, stored: StoredTextures) -> tuple[int, int]:
    """Width and height of the image of one part of a ground, in texels; (1, 1) where it has a plain value.

    Raises
    ------
    FileProblem
        As `part_pixels`; the pixels themselves are not looked at.
    """
    if not has_image(ground, part, stored):
        return 1, 1
    data = encoded_part(ground.texture, part, stored)
    assert data is not None
    with opened_image(data, ("PNG", "JPEG"), f"texture set {ground.texture!r}, {part}", LARGEST_SIDE) as picture:
        return picture.size


def encoded_part(name: str, part: str, stored: StoredTextures) -> bytes | None:
    """Encoded image (PNG or JPEG) of one part of a set; None where a stored set has no such part.

    Raises
    ------
    FileProblem
        The set is neither stored nor shipped, or a shipped file is gone.
    """
    if name in stored:
        return stored[name].get(part)
    return _shipped_image(name, part)


def decode(data: bytes, mode: str, where: str, least: tuple[int, int] | None = None) -> Pixels:
    """Pixels of an encoded image; with `least` of a smaller one where its format makes that quicker (halves of JPEG).

    Raises
    ------
    FileProblem
        Not a PNG or JPEG, damaged, or with a side beyond 8192 pixels.
    """
    with opened_image(data, ("PNG", "JPEG"), where, LARGEST_SIDE) as picture:
        if least is not None:
            picture.draft(None, least)
        picture.load()
        return np.asarray(picture if picture.mode == mode else picture.convert(mode))


def check_images(stored: StoredTextures, where: str) -> None:
    """Decode every image that is kept in a project, so that none fails later, while it is drawn.

    Raises
    ------
    FileProblem
    """
    images: dict[int, tuple[bytes, str]] = {}
    for name, parts in stored.items():
        for part, data in parts.items():
            images.setdefault(id(data), (data, f"{where}texture set {shown(name)}, {part}"))
    side_by_side(lambda entry: _decodes(*entry), list(images.values()), 4)


def _decodes(data: bytes, where: str) -> None:
    with opened_image(data, ("PNG", "JPEG"), where, LARGEST_SIDE) as picture:
        picture.load()


def extension_of(data: bytes) -> str | None:
    """ "png" or "jpg" by the first bytes of an encoded image, None for anything else."""
    return next((ending for magic, ending in EXTENSIONS.items() if data.startswith(magic)), None)
