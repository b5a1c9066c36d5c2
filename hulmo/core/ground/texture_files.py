"""Texture sets from images on disk: which image is which part, guessed by file name, and made fit to be kept."""

import io
import itertools
import pathlib
import re
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from PIL import Image

from hulmo.core.errors import FileProblem, shown
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.textures import LARGEST_SIDE, extension_of
from hulmo.core.image_file import grey_values, opened_image

WORDS: dict[str, tuple[str, ...]] = {
    "albedo": ("albedo", "basecolor", "basecolour", "base", "color", "colour", "diffuse", "diff", "col", "alb"),
    "normal": ("normal", "normals", "normalgl", "nor", "nrm", "norm", "nrml"),
    "roughness": ("roughness", "rough", "rgh"),
    "height": ("height", "displacement", "displace", "disp", "bump", "hgt", "heightmap"),
}
"""Words in file names that say what an image is (common practice, no source)."""

ENDINGS = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".bmp", ".webp", ".tga")

LARGEST_FILE = 256 << 20
"""Bytes of one image file."""

KINDS = ("PNG", "JPEG", "TIFF", "BMP", "WEBP", "TGA")


@dataclass(frozen=True)
class Found:
    """A texture set read from disk.

    Attributes
    ----------
    name : str
        What the file names have in common, or the folder's name.
    images : mapping
        Part to encoded PNG or JPEG.
    files : mapping
        Part to the path it came from.
    """

    name: str
    images: Mapping[str, bytes]
    files: Mapping[str, str]


def part_of(name: str) -> str | None:
    """Which part of a set a file name stands for: the last word in it that says so; None when none does.

    Examples
    --------
    >>> part_of("wet_rock_02_basecolor_2k.png")
    'albedo'
    """
    for word in reversed(_words(name)):
        for part, known in WORDS.items():
            if word in known:
                return part
    return None


def read_folder(folder: pathlib.Path) -> Found:
    """The texture set in a folder.

    Raises
    ------
    FileProblem
        No albedo among the images, two images for one part, or an image that cannot be read.
    """
    files = _images_in(folder)
    return _read(folder.name, _by_part(files, str(folder)), str(folder))


def read_files(files: list[pathlib.Path]) -> Found:
    """The texture set of some images; of a single one, its whole set: what lies beside it under the same name but for the
    word that says the part.

    Raises
    ------
    FileProblem
        As `read_folder`.
    """
    first = files[0]
    stem = _common(first.name)
    if len(files) == 1:
        if part_of(first.name) is None:
            return _read(first.stem, {"albedo": first}, str(first))
        beside = [file for file in _images_in(first.parent) if _common(file.name) == stem]
        files = beside or files
    return _read(stem or first.parent.name, _by_part(files, str(first.parent)), str(first))


def read_image(path: pathlib.Path, part: str) -> bytes:
    """One image, encoded as PNG or JPEG with 8 bits a channel and without transparency.

    16-bit and grey images are brought to that; of an animation the first frame is taken.

    Raises
    ------
    FileProblem
        Gone, damaged, no image, or with a side beyond 8192 pixels.
    """
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise FileProblem(f"{path}: larger than {LARGEST_FILE >> 20} MB; make the image smaller first")
        data = path.read_bytes()
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror}); was it moved?") from error
    with opened_image(data, KINDS, str(path), LARGEST_SIDE) as picture:
        wanted = "RGB" if part in ("albedo", "normal") else "L"
        if extension_of(data) is not None and picture.mode == wanted and getattr(picture, "n_frames", 1) == 1:
            picture.load()
            return data
        made = io.BytesIO()
        _eight_bits(picture, wanted).save(made, "PNG")
        return made.getvalue()


def _eight_bits(picture: Image.Image, wanted: str) -> Image.Image:
    picture.seek(0)
    values = grey_values(picture)
    if values is not None:  # Pillow would cut these off at 255 instead of scaling them
        values = np.nan_to_num(values, posinf=0.0, neginf=0.0).clip(0.0, None)
        top = max(float(values.max()), 1e-9) if picture.mode == "F" else 1.0
        grey = Image.fromarray(np.round((values / top).clip(0.0, 1.0) * 255.0).astype(np.uint8))
        return grey.convert(wanted)
    if picture.mode in ("P", "LA", "PA") or "transparency" in picture.info:
        picture = picture.convert("RGBA")
    return picture.convert(wanted)


def _words(name: str) -> list[str]:
    stem = re.sub(r"([a-z])([A-Z])", r"\1_\2", pathlib.PurePath(name).stem)
    words = [word for word in re.split(r"[^a-z0-9]+", stem.lower()) if word]
    joined = [a + b for a, b in itertools.pairwise(words) if a + b in WORDS["albedo"] + WORDS["normal"]]
    return words + joined


def _common(name: str) -> str:
    words = re.split(r"[^A-Za-z0-9]+", re.sub(r"([a-z])([A-Z])", r"\1_\2", pathlib.PurePath(name).stem))
    known = {word for known in WORDS.values() for word in known} | {"gl", "map"}
    return " ".join(word for word in words if word and word.lower() not in known)


def _images_in(folder: pathlib.Path) -> list[pathlib.Path]:
    try:
        return sorted(file for file in folder.iterdir() if file.suffix.lower() in ENDINGS and file.is_file())
    except OSError as error:
        raise FileProblem(f"{folder}: cannot be read ({error.strerror})") from error


def _by_part(files: list[pathlib.Path], where: str) -> dict[str, pathlib.Path]:
    found: dict[str, pathlib.Path] = {}
    for file in files:
        part = part_of(file.name)
        if part is None:
            continue
        if part in found:
            raise FileProblem(
                f"{where}: both {found[part].name} and {file.name} look like the {part}; choose the images of one set only"
            )
        found[part] = file
    if not found and len(files) == 1:
        found["albedo"] = files[0]
    return found


def _read(name: str, files: dict[str, pathlib.Path], where: str) -> Found:
    if "albedo" not in files:
        raise FileProblem(
            f"{where}: no albedo: no image here is named like one (albedo, colour or diffuse); "
            "a ground needs at least that one"
        )
    ordered = {part: files[part] for part in PARTS if part in files}
    images = {part: read_image(file, part) for part, file in ordered.items()}
    return Found(
        check_name(name),
        MappingProxyType(images),
        MappingProxyType({part: str(file.absolute()) for part, file in ordered.items()}),
    )


def check_name(name: str) -> str:
    """A name as it is, unless no project file could hold it.

    Raises
    ------
    FileProblem
    """
    try:
        name.encode()
    except UnicodeEncodeError as error:
        raise FileProblem(f"{shown(name)}: the name is no text in UTF-8; rename the folder or file first") from error
    return name
