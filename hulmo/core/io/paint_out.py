"""Write what is painted on a body as images, with a note by which they are laid again."""

import pathlib
from dataclasses import dataclass

import msgspec
import numpy as np

from hulmo.core.errors import FileProblem, InvalidInput, shown
from hulmo.core.file_name import file_name
from hulmo.core.ground.painted_values import (
    PAINTED,
    checked_range,
    ground_values,
    guard_values,
    height_values,
    tint_values,
)
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.sheet import box_of, sheet_of
from hulmo.core.io.paint_file import write_paint
from hulmo.core.io.paint_note import BY, PaintNote
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.uv.sets import check_raster, uv_column

NOTE = ".paint.json"

BITS = (8, 16)


@dataclass(frozen=True)
class PaintedOut:
    """What was written.

    Attributes
    ----------
    note : Path
    files : tuple of Path
    crowded : int
        Vertices that share a texel with another that has another value: those are not all kept.
    beyond : int
        Vertices whose height lies beyond black or white.
    """

    note: pathlib.Path
    files: tuple[pathlib.Path, ...]
    crowded: int
    beyond: int


def paint_out(
    project: Project, name: str, folder: pathlib.Path, what: str, progress: Progress, by: str = "uv", into: str = "",
    size: int = 1024, bits: int = 16, layer: str = "", low: float = -1.0, high: float = 1.0,
) -> PaintedOut:  # fmt: skip
    """Write images of what is painted on a body into a folder.

    Parameters
    ----------
    name : str
        Of the body.
    what : str
        grounds, guard, tint or relief.
    by, into, layer, low, high
        See `PaintNote`.
    size : int
        Texels a side.
    bits : int
        8 or 16.

    Raises
    ------
    InvalidInput, FileProblem
    """
    where = "paint out"
    body = project.body_named(name, where)
    if what not in PAINTED or by not in BY or bits not in BITS:
        raise InvalidInput(
            f"{where}: {shown(what)} by {shown(by)} with {bits} bits; what is one of {', '.join(PAINTED)}, by uv or above, "
            "bits 8 or 16"
        )
    check_raster(size, 0, where)
    if not folder.is_dir():
        raise FileProblem(f"{folder}: there is no such folder; make it first")
    full, beyond = (1 << bits) - 1, 0
    progress.step(0.05, "laying the body into the image")
    if what == "grounds":
        values = ground_values(body, len(project.grounds), full)
        parts = [(f"ground.{file_name(ground.name)}", slice(i, i + 1)) for i, ground in enumerate(project.grounds)]
        if not parts:
            raise InvalidInput(f"{where}: the project has no grounds; add one first")
        if len({part for part, _ in parts}) < len(parts):  # names that only differ in signs no file may have
            parts = [(f"ground.{i + 1}", slice(i, i + 1)) for i in range(len(parts))]
    elif what == "guard":
        values, parts = guard_values(body, full), [("guard", slice(0, 1))]
    elif what == "tint":
        values, parts = tint_values(body, full), [("tint", slice(0, 3)), ("tint_cover", slice(3, 4))]
    else:
        checked_range(low, high, where)
        values, beyond = height_values(body, body.layer_named(layer, where), low, high, full)
        parts = [(f"relief.{file_name(layer)}", slice(0, 1))]
    column = uv_column(into, where)
    sheet = sheet_of(body, by, column)
    image, crowded = sheet.written(values, size)
    if what == "grounds":  # shares sum exactly between vertices, too
        flat = image.reshape(-1, image.shape[2])
        some = np.flatnonzero(flat.any(axis=1) & (flat.sum(axis=1) != full))
        flat[some] = quantise(flat[some].astype(np.float32), full)[:, : flat.shape[1]]
    files = []
    for done, (part, at) in enumerate(parts):
        progress.step(0.4 + 0.55 * done / len(parts), "writing images")
        path = folder / f"{file_name(body.name)}.{part}.png"
        write_paint(path, image[..., at], bits)
        files.append(path)
    note = folder / f"{file_name(body.name)}.{what if what != 'relief' else parts[0][0]}{NOTE}"
    told = PaintNote(
        name, what, tuple(path.name for path in files),
        tuple(ground.name for ground in project.grounds) if what == "grounds" else (), by, into,
        box_of(body) if by == "above" else (0.0, 0.0, 0.0), layer if what == "relief" else "", low, high,
    )  # fmt: skip
    with safe_write(note) as file:
        file.write(msgspec.json.format(msgspec.json.encode(told), indent=2) + b"\n")
    return PaintedOut(note, tuple(files), crowded, beyond)
