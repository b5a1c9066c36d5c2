"""The shipped texture sets."""

import functools
import pathlib

import msgspec

import hulmo.assets

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "grounds"

PARTS = ("albedo", "normal", "roughness", "height")


class TextureSet(msgspec.Struct, frozen=True):
    """A shipped texture set.

    Attributes
    ----------
    name, label, help : str
    tile : float
        Metres that one repeat covers when it looks right beside a person.
    """

    name: str
    label: str
    help: str
    tile: float


@functools.cache
def shipped() -> dict[str, TextureSet]:
    """Shipped texture sets by name, in the order they are offered."""
    sets = msgspec.json.decode((FOLDER / "grounds.json").read_bytes(), type=list[TextureSet])
    return {entry.name: entry for entry in sets}


def shipped_file(name: str, part: str) -> pathlib.Path:
    """Image file of one part ("albedo", "normal", "roughness", "height") of a shipped set."""
    return FOLDER / name / f"{part}.jpg"
