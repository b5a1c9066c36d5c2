"""A ground as a folder: `ground.json` and its images, to hand on to others."""

import pathlib

import msgspec

from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.textures import StoredTextures, encoded_part, extension_of
from hulmo.core.json_text import typed_json
from hulmo.core.there import is_file

NAME = "ground.json"

FORMAT = "hulmo-ground"


class SharedGround(msgspec.Struct, frozen=True):
    """What `ground.json` holds.

    Attributes
    ----------
    format : str
        "hulmo-ground".
    version : int
    ground : Ground
        Its `texture` is of no meaning: the images lie beside the file, named after their part.
    """

    format: str
    version: int
    ground: Ground


def write_ground(ground: Ground, stored: StoredTextures, folder: pathlib.Path) -> None:
    """Write a ground into a folder, which is made where it is not there.

    Raises
    ------
    FileProblem
        The folder cannot be written, or a texture cannot be read.
    """
    images = {}
    for part in PARTS:
        data = encoded_part(ground.texture, part, stored) if ground.texture else None
        if data is not None:
            images[f"{part}.{extension_of(data) or 'png'}"] = data
    record = SharedGround(FORMAT, 1, msgspec.structs.replace(ground, texture="", locked=False))
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in images.items():
            (folder / name).write_bytes(data)
        (folder / NAME).write_bytes(msgspec.json.format(msgspec.json.encode(record), indent=1))
    except OSError as error:
        raise FileProblem(f"{folder}: cannot be written ({error.strerror}); choose another folder") from error


def read_ground(folder: pathlib.Path) -> Ground | None:
    """The ground that a folder describes; None where it holds images only.

    Raises
    ------
    FileProblem
        `ground.json` is damaged or from a newer program.
    """
    path = folder / NAME
    if not is_file(path):
        return None
    try:
        data = path.read_bytes()
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
    record = typed_json(data, SharedGround, f"{path}: describes no ground")
    if record.format != FORMAT or record.version > 1:
        raise FileProblem(f"{path}: describes no ground that this Hulmo knows (its format is {record.format!r})")
    return record.ground
