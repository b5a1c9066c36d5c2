"""Pictures as PNG files, written whole or not at all."""

import io
import pathlib

from PIL import Image
from PIL.PngImagePlugin import PngInfo

from hulmo.core.io.safe_write import safe_write


def write_png(path: pathlib.Path, picture: Image.Image, told: PngInfo | None = None) -> None:
    """Write a picture.

    Raises
    ------
    FileProblem
        It cannot be written; an older file of the name is as it was.
    """
    buffer = io.BytesIO()
    picture.save(buffer, "PNG", pnginfo=told)
    with safe_write(path) as file:
        file.write(buffer.getvalue())
