"""Block: a closed box."""

import numpy as np

from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape, edge, length, steps
from hulmo.core.mesh.forms.lattice import box_surface
from hulmo.core.setting import Values, number

_SIDES = ("size", "height", "depth")


def _cells(values: Values) -> tuple[int, int, int]:
    wanted = number(values, "edge")
    nx, ny, nz = (steps(number(values, side), wanted) for side in _SIDES)
    return nx, ny, nz


def count(values: Values) -> Counts:
    """Vertices, triangles and quads of `build`."""
    nx, ny, nz = _cells(values)
    quads = 2 * (nx * ny + ny * nz + nz * nx)
    return Counts(quads + 2, 2 * quads, quads)


def build(values: Values) -> Shape:
    """A box that stands on Y = 0, centred in X and Z, with a grid on every side."""
    cells = _cells(values)
    lattice, triangles = box_surface(*cells)
    extent = np.array([number(values, side) for side in _SIDES])
    position = (lattice / np.array(cells) - (0.5, 0.0, 0.5)) * extent
    return Shape(position.astype(np.float32), triangles)


FORM = BaseForm(
    "block",
    "Block",
    "A closed box, for cliffs and anything to be carved out of.",
    (
        length("size", "Width", 20.0, "Extent along X."),
        length("height", "Height", 20.0, "Extent along Y."),
        length("depth", "Depth", 20.0, "Extent along Z."),
        edge(0.5),
    ),
    count,
    build,
)
