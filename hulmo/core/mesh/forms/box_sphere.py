"""Box sphere: a cube blown up to a sphere; its grid lines suit layered or faceted bodies."""

import numpy as np

from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape, edge, length, steps
from hulmo.core.mesh.forms.lattice import box_surface
from hulmo.core.setting import Values, number


def _cells(values: Values) -> int:
    return steps(number(values, "radius") * np.pi / 2, number(values, "edge"))


def count(values: Values) -> Counts:
    """Vertices, triangles and quads of `build`: 6 n² + 2, 12 n², 6 n² with n cells along a side."""
    n = _cells(values)
    return Counts(6 * n * n + 2, 12 * n * n, 6 * n * n)


def build(values: Values) -> Shape:
    """A sphere around the origin. Lattice lines are spaced by equal angles, so cells differ little in size."""
    n = _cells(values)
    lattice, triangles = box_surface(n, n, n)
    cube = np.tan((lattice / n - 0.5) * (np.pi / 2))
    position = cube * (number(values, "radius") / np.linalg.norm(cube, axis=1))[:, None]
    return Shape(position.astype(np.float32), triangles)


FORM = BaseForm(
    "box_sphere",
    "Box sphere",
    "A cube blown up to a sphere, with grid lines all over.",
    (length("radius", "Radius", 10.0, "From the centre to the surface."), edge(0.25)),
    count,
    build,
)
