"""Sheet: a level rectangle."""

import numpy as np

from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape, edge, grid_triangles, length, steps
from hulmo.core.setting import Values, number


def _cells(values: Values) -> tuple[int, int]:
    wanted = number(values, "edge")
    return steps(number(values, "depth"), wanted), steps(number(values, "size"), wanted)


def count(values: Values) -> Counts:
    """Vertices, triangles and quads of `build`."""
    rows, columns = _cells(values)
    return Counts((rows + 1) * (columns + 1), 2 * rows * columns, rows * columns)


def build(values: Values) -> Shape:
    """A grid in the XZ plane, centred on the origin, facing +Y, with UV from 0 to 1 across it."""
    rows, columns = _cells(values)
    u = np.linspace(0.0, 1.0, columns + 1)
    v = np.linspace(0.0, 1.0, rows + 1)
    position = np.zeros((rows + 1, columns + 1, 3), np.float32)
    position[:, :, 0] = (u - 0.5) * number(values, "size")
    position[:, :, 2] = (v[:, None] - 0.5) * number(values, "depth")
    flat_uv = np.empty((rows + 1, columns + 1, 2), np.float32)
    flat_uv[:, :, 0] = u
    flat_uv[:, :, 1] = v[:, None]
    triangles = grid_triangles(rows, columns)
    return Shape(position.reshape(-1, 3), triangles, flat_uv.reshape(-1, 2)[triangles])


FORM = BaseForm(
    "sheet",
    "Sheet",
    "A level rectangle, for open ground.",
    (
        length("size", "Width", 64.0, "Extent along X."),
        length("depth", "Depth", 64.0, "Extent along Z."),
        edge(0.5),
    ),
    count,
    build,
)
