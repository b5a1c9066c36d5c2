"""What chance gives broken-up repeats and variation, as images: whole numbers cannot be hashed by standard nodes."""

import pathlib
import tempfile
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.blend import hashed
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.textures import StoredTextures, part_mean
from hulmo.core.io.delivery import Delivery
from hulmo.core.io.exr import write_exr
from hulmo.core.low_high import low_high

MOST_CELLS = 2048
"""Cells along a side of a table; what lies beyond repeats it."""

MOST_ROWS, MOST_VALUES = 16_384, 2_097_152
"""Rows and texels of the table of values at the most."""


@dataclass(frozen=True)
class Table:
    """A table as an image, a cell a texel.

    Attributes
    ----------
    file : str
    low : tuple of int
        Cell of the first column and row; in three dimensions rows lie plane behind plane.
    count : tuple of int
        Cells along each axis.
    """

    file: str
    low: tuple[int, ...]
    count: tuple[int, ...]


@dataclass
class Tables:
    """Tables for the cells that bodies reach into, and means of images.

    Attributes
    ----------
    shifts : Table or None
        In red and green what each corner of the grid of pieces shifts a texture by, 0 to 1.
    values : Table or None
        The value of each cell of the variation, 0 to 1.
    means : list of dict
        Of each ground's images, by part: three numbers of albedo in linear light, one of the others.
    images : dict of str to bytes
        Files of the tables.
    """

    shifts: Table | None = None
    values: Table | None = None
    means: list[dict[str, list[float]]] = field(default_factory=list)
    images: dict[str, bytes] = field(default_factory=dict)


def tables_of(bodies: list[Delivery], grounds: list[Ground], textures: StoredTextures, folder: str) -> Tables:
    """What some grounds want of chance on some bodies.

    Parameters
    ----------
    folder : str
        Relative one for the files; their names say what they hold.
    """
    out = Tables()
    reached = [low_high(body.position) for body in bodies]
    low = np.min([low for low, _ in reached], axis=0).astype(np.float64)
    high = np.max([high for _, high in reached], axis=0).astype(np.float64)
    reach = float(np.abs([low, high]).max())
    broken = [ground.tile for ground in grounds if ground.break_up]
    if broken:
        # coordinates lie within the reach over the least tile, turned, and shifted by less than one
        cells = min(int(2 * 2.31 * (1.5 * reach / min(broken) + 1.0)) + 4, MOST_CELLS)
        first = -(cells // 2)
        x, y = np.meshgrid(np.arange(first, first + cells), np.arange(first, first + cells))
        shift = (hashed(x, y, np.zeros_like(x))[..., :2].astype(np.float64) / 4294967296.0).astype(np.float32)
        name = f"{folder}/shifts_{cells}.exr"
        out.images[name] = _image({"R": shift[..., 0], "G": shift[..., 1], "B": np.zeros_like(shift[..., 0])})
        out.shifts = Table(name, (first, first), (cells, cells))
    sizes = [ground.variation_size for ground in grounds if ground.variation > 0]
    if sizes:
        first_cell = np.minimum(np.floor(low / min(sizes)), np.floor(low / max(sizes))).astype(np.int64)
        last = np.maximum(np.floor(high / min(sizes)), np.floor(high / max(sizes))).astype(np.int64) + 1
        count = np.minimum(last - first_cell + 1, MOST_CELLS)
        while count[1] * count[2] > MOST_ROWS or count.prod() > MOST_VALUES:
            count[count.argmax()] = (count.max() + 1) // 2  # beyond them it comes again
        x, y, z = (np.arange(first_cell[k], first_cell[k] + count[k]) for k in range(3))
        grid = np.meshgrid(z, y, x, indexing="ij")
        value = (hashed(grid[2], grid[1], grid[0])[..., 0].astype(np.float64) / 4294967295.0).astype(np.float32)
        value = value.reshape(count[2] * count[1], count[0])
        start, many = first_cell.tolist(), count.tolist()
        name = f"{folder}/values_{'_'.join(map(str, [*start, *many])).replace('-', 'm')}.exr"
        out.images[name] = _image({"R": value, "G": value, "B": value})
        out.values = Table(name, tuple(start), tuple(many))
    for ground in grounds:
        parts = ("albedo", "roughness", "height") if ground.break_up else ()
        out.means.append({part: part_mean(ground, part, textures) for part in parts})
    return out


def _image(channels: dict[str, NDArray[np.float32]]) -> bytes:
    with tempfile.TemporaryDirectory() as name:
        path = pathlib.Path(name) / "table.exr"
        write_exr(path, channels)
        return path.read_bytes()
