"""How closely the tables of a glTF document are packed: in whole numbers of 16 bits, or compressed."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.io.delivery import Delivery
from hulmo.core.setting import Choice, Number, Setting, Values, number

QUANTIZATION = "KHR_mesh_quantization"
COMPRESSION = "EXT_meshopt_compression"

MOST, MOST_COMPRESSED = 32767, 1 << 22
"""Steps of the grid to each side: in 16 bits, and in a float with bits to spare."""

NORMAL_BITS = 12
"""Of each of the two numbers that a compressed normal is stored as: within 0.05 degrees."""

ROWS = 1 << 17
"""Rows that are rounded at a time."""

UV_STEP = 2.0**-16
"""Of a unit, what texture coordinates are rounded to."""

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "size", "Size",
        (
            ("plain", "Plain", "Floats, which every reader takes."),
            ("quantised", "16 bits", "Places and normals in 16 bits (KHR_mesh_quantization): less room on a graphics card."),
            ("compressed", "Compressed", "Places on a grid, all compressed (EXT_meshopt_compression): about a quarter."),
        ),
        "plain", "How closely meshes are packed. Shares of grounds are exact in all of them.",
    ),
    Number(
        "grid", "Places to", "m", 0.0, 1.0, 0.0,
        "Step of the grid that places are rounded to, taken down to a power of two; 0: as fine as 16 bits hold.",
        comfort=(0.0, 0.02), curve=2.0, only=(("size", "quantised"), ("size", "compressed")),
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Packing:
    """How tables are packed.

    Attributes
    ----------
    quantised, compressed : bool
        At most one of them.
    grid : float
        Metres that places are rounded to, a power of two; 0 where they stay as they are. Bodies, patches and levels that are
        packed with the same grid still meet to the bit, for places are counted from the body's origin.
    """

    quantised: bool = False
    compressed: bool = False
    grid: float = 0.0

    @property
    def extensions(self) -> list[str]:
        """That a reader must know."""
        return [QUANTIZATION] if self.quantised else [COMPRESSION, QUANTIZATION] if self.compressed else []


PLAIN = Packing()


def packing_of(bodies: list[Delivery], values: Values) -> Packing:
    """The packing that settings ask for.

    Raises
    ------
    InvalidInput
        A grid that is too fine.
    """
    size = str(values.get("size", "plain"))
    if size == "plain":
        return PLAIN
    far = max((float(np.abs(body.position).max(initial=0.0)) for body in bodies), default=0.0)
    given = number(values, "grid")
    grid = 2.0 ** math.floor(math.log2(given)) if given > 0 else fitting_grid(far)
    if far > (MOST if size == "quantised" else MOST_COMPRESSED) * grid:
        raise InvalidInput(
            f"places to {1000 * grid:g} mm do not fit {far:,.0f} m from a body's origin; ask for "
            f"{1000 * fitting_grid(far):g} mm, or for 0"
        )
    return Packing(size == "quantised", size == "compressed", grid)


def fitting_grid(far: float) -> float:
    """The finest power of two, metres, of which 32,767 reach so far."""
    return 2.0 ** math.ceil(math.log2(max(far, 1e-6) / MOST))


def rounded(values: NDArray[Any], step: float) -> NDArray[np.float32]:
    """Multiples of a step that is a power of two, exactly."""
    out = np.empty(values.shape, np.float32)
    for begin in range(0, len(values), ROWS):  # doubles take room
        out[begin : begin + ROWS] = np.rint(values[begin : begin + ROWS].astype(np.float64) / step) * step + 0.0
    return out


def in_order_of_use(triangles: NDArray[np.uint32]) -> tuple[NDArray[np.uint32], NDArray[np.int32]]:
    """Triangles in the order that a graphics card's cache and the codec like, and the row that each new vertex was."""
    import meshopt

    indices, place, count = meshopt.reorder_mesh(np.ascontiguousarray(triangles.reshape(-1), np.uint32), True, False)
    row = np.empty(count, np.int32)
    used = place < count
    row[place[used]] = np.flatnonzero(used)
    return indices.reshape(-1, 3), row
