"""The note that lies beside painted images and says how they are laid again."""

import pathlib

import msgspec

from hulmo.core.errors import FileProblem
from hulmo.core.ground.sheet import Box
from hulmo.core.json_text import typed_json
from hulmo.core.there import is_file

BY = ("uv", "above")

LARGEST = 1 << 20
"""Bytes of a note at the most."""


class PaintNote(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How images lie on a body; the same fields as the command `lay_images` has.

    Attributes
    ----------
    body, what : str
    files : tuple of str
        Names beside the note.
    grounds : tuple of str
    by, into : str
    box : (west, north, side)
    layer : str
    low, high : float
    between : bool
    """

    body: str
    what: str
    files: tuple[str, ...]
    grounds: tuple[str, ...] = ()
    by: str = "uv"
    into: str = ""
    box: Box = (0.0, 0.0, 0.0)
    layer: str = ""
    low: float = -1.0
    high: float = 1.0
    between: bool = False


def read_note(path: pathlib.Path) -> PaintNote:
    """Read a note.

    Raises
    ------
    FileProblem
        No such file, or no note.
    """
    if not is_file(path) or path.stat().st_size > LARGEST:
        raise FileProblem(f"{path}: there is no such note of painted images; choose the one written beside them")
    return typed_json(path.read_bytes(), PaintNote, f"{path}: is no note of painted images; choose the one beside them")
