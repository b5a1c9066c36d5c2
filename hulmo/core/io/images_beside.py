"""Images of grounds as files beside what names them."""

import pathlib
import re
from collections.abc import Mapping

from hulmo.core.errors import FileProblem
from hulmo.core.ground.textures import extension_of
from hulmo.core.io.ground_record import DeliveredImage
from hulmo.core.io.safe_write import safe_write
from hulmo.core.setting import Choice, Values

SETTING = Choice(
    "images", "Images",
    (
        ("own", "In a folder of its own", "Named as the file."),
        ("shared", "In one folder for all", "Named textures: files side by side share what is the same."),
    ),
    "own", "Where the images of the grounds go.",
)  # fmt: skip


def folder_of(path: pathlib.Path, values: Values) -> str:
    """Relative folder of a file's images, as `SETTING` has it."""
    return "textures" if values.get("images") == "shared" else f"{path.stem}.textures"


def named_images(pictures: list[DeliveredImage], folder: str) -> dict[str, bytes]:
    """What images hold by file name in a folder: plain names, each once."""
    out: dict[str, bytes] = {}
    for picture in pictures:
        word = re.sub(r"[^A-Za-z0-9_]+", "_", picture.name).strip("_") or "image"
        name, number = word, 2
        while f"{folder}/{name}.{extension_of(picture.data)}" in out:
            name, number = f"{word}_{number}", number + 1
        out[f"{folder}/{name}.{extension_of(picture.data)}"] = picture.data
    return out


def write_beside(path: pathlib.Path, images: Mapping[str, bytes]) -> None:
    """Write images, by names from the folder that a file lies in.

    Raises
    ------
    FileProblem
    """
    for name, data in images.items():
        target = path.parent / name
        if target.is_file() and target.stat().st_size == len(data) and target.read_bytes() == data:
            continue  # files of one delivery share them
        try:
            target.parent.mkdir(exist_ok=True)
        except OSError as error:
            raise FileProblem(f"{target.parent}: cannot be made ({error.strerror}); choose another folder") from error
        with safe_write(target) as file:
            file.write(data)
