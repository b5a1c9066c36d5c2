"""Reading entries of a ZIP archive of which nothing is known."""

import math
import pathlib
import zipfile
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.workers import side_by_side

FREE_BYTES = 96 << 20
"""Bytes that any archive may unpack to."""

BYTES_A_BYTE = 64
"""Bytes that each further byte of an archive can stand for: a mesh packs to a tenth at best, claims to a thousandth."""

HEADER = 4096
"""Bytes that the header of a table has at the most."""

Array = NDArray[Any]

Wanted = tuple[tuple[str, ...], type[np.generic], tuple[int, ...]]
"""Names that a table may have, its type and its shape."""


class Archive:
    """Entries of an open archive; what they unpack to is bounded by the size of the file.

    Parameters
    ----------
    archive : ZipFile
    path : Path
        For messages.

    Raises
    ------
    FileProblem
        An entry that points outside.
    """

    def __init__(self, archive: zipfile.ZipFile, path: pathlib.Path) -> None:
        self._archive, self.path = archive, path
        self._left = FREE_BYTES + BYTES_A_BYTE * path.stat().st_size
        self._kept: dict[str, bytes] = {}
        for info in archive.infolist():
            parts = pathlib.PurePosixPath(info.filename)
            if parts.is_absolute() or ".." in parts.parts or "\\" in info.filename:
                raise FileProblem(f"{path}: the entry {info.filename!r} points outside the file; it will not be opened")

    def bytes(self, name: str, most: int, keep: bool = False) -> bytes:
        """An entry; `keep` has one that is asked for again come as the same object.

        Raises
        ------
        FileProblem
            Missing, damaged or too large.
        """
        if name in self._kept:
            return self._kept[name]
        info = self._info(name, most)
        with self._archive.open(info) as source:
            data = source.read(info.file_size + 1)
        if len(data) != info.file_size:
            raise FileProblem(f"{self.path}: {name} is not as large as it claims; open a backup of it")
        if keep:
            self._kept[name] = data
        return data

    def array(self, names: tuple[str, ...], kind: type[np.generic], shape: tuple[int, ...]) -> Array:
        """A table of which type and shape are known, under the first of some names that is there.

        Raises
        ------
        FileProblem
            Missing, damaged, or of another type or shape.
        """
        return self.arrays([(names, kind, shape)])[0]

    def arrays(self, wanted: Sequence[Wanted]) -> list[Array]:
        """Several tables, unpacked side by side; each as `array`."""
        there = set(self._archive.namelist())
        found = []
        for names, kind, shape in wanted:
            name = next((entry for entry in names if entry in there), names[0])
            info = self._info(name, math.prod(shape) * np.dtype(kind).itemsize + HEADER)
            found.append((info, kind, shape))
        return side_by_side(lambda entry: self._unpacked(*entry), found)

    def _unpacked(self, info: zipfile.ZipInfo, kind: type[np.generic], shape: tuple[int, ...]) -> Array:
        name = info.filename
        with self._archive.open(info) as source:
            try:
                version = np.lib.format.read_magic(source)
                if version != (1, 0):
                    raise ValueError(f"npy version {version}")
                found, fortran, dtype = np.lib.format.read_array_header_1_0(source, max_header_size=HEADER)
            except Exception as error:  # the header is a Python literal: anything can be wrong with it
                raise FileProblem(f"{self.path}: {name} is damaged ({error})") from error
            if found != shape or fortran or dtype != np.dtype(kind):
                raise FileProblem(
                    f"{self.path}: {name} is {dtype} {found}, but project.json says {np.dtype(kind)} {shape}; damaged"
                )
            out = np.empty(shape, kind)
            view = memoryview(out.reshape(-1).view(np.uint8).data) if out.size else memoryview(b"")
            done = 0
            while done < len(view):
                count = source.readinto(view[done:])  # type: ignore[attr-defined]
                if not count:
                    raise FileProblem(f"{self.path}: {name} ends in the middle; open a backup of the project")
                done += count
            if source.read(1):
                raise FileProblem(f"{self.path}: {name} is longer than its shape; damaged")
        return out

    def _info(self, name: str, most: int) -> zipfile.ZipInfo:
        try:
            info = self._archive.getinfo(name)
        except KeyError as error:
            raise FileProblem(f"{self.path}: {name} is missing; the file is no Hulmo project or damaged") from error
        if info.file_size > most:
            raise FileProblem(f"{self.path}: {name} claims {info.file_size:,} bytes, more than it can have; damaged")
        self._left -= info.file_size
        if self._left < 0:
            raise FileProblem(
                f"{self.path}: its entries unpack to far more than a file of this size can hold; it will not be opened"
            )
        return info


def table_name(ident: int, name: str) -> str:
    """Entry of a table of a body; letters that mean something in paths are written as %XX."""
    written = "".join(f"%{ord(letter):02X}" if letter in "/\\%" or ord(letter) < 32 else letter for letter in name)
    return f"bodies/{ident}/{written}.npy"


def slot_column(domain: str, name: str) -> str:
    """What stands for a column of faces, corners or edges in the name of its entry: vertices may have one of that name."""
    return f"{domain} {name}"


def table_names(ident: int, name: str) -> tuple[str, ...]:
    """Entries that a table may have: as it is written now, and as it was before format 1.3."""
    return table_name(ident, name), f"bodies/{ident}/{name.replace('/', '_')}.npy"
