"""Column: a closed upright cylinder."""

import numpy as np

from hulmo.core.mesh.forms.disc import disc_points, disc_triangles, rings
from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape, edge, length, steps
from hulmo.core.setting import Values, number


def _cells(values: Values) -> tuple[int, int]:
    wanted = number(values, "edge")
    return rings(number(values, "radius"), wanted), steps(number(values, "height"), wanted)


def count(values: Values) -> Counts:
    """Vertices and triangles of `build`."""
    n, rows = _cells(values)
    return Counts(2 * (1 + 3 * n * (n + 1)) + 6 * n * (rows - 1), 12 * n * n + 12 * n * rows)


def build(values: Values) -> Shape:
    """A cylinder that stands on Y = 0; its caps are discs whose rims are shared with the wall."""
    radius, height = number(values, "radius"), number(values, "height")
    n, rows = _cells(values)
    around = 6 * n
    plane = disc_points(n) * radius
    cap = plane.shape[0]
    rim = plane[cap - around :]
    top = np.column_stack((plane[:, 0], np.full(cap, height), plane[:, 1]))
    levels = height * (1 - np.arange(1, rows) / rows)
    wall = np.empty((rows - 1, around, 3))
    wall[:, :, 0] = rim[:, 0]
    wall[:, :, 1] = levels[:, None]
    wall[:, :, 2] = rim[:, 1]
    bottom = np.column_stack((plane[:, 0], np.zeros(cap), plane[:, 1]))
    position = np.concatenate((top, wall.reshape(-1, 3), bottom)).astype(np.float32)
    ring = np.empty((rows + 1, around), np.int64)
    ring[0] = cap - around + np.arange(around)
    ring[1:rows] = cap + np.arange((rows - 1) * around).reshape(-1, around)
    ring[rows] = cap + (rows - 1) * around + cap - around + np.arange(around)
    upper, lower = ring[:-1], ring[1:]
    upper_next, lower_next = np.roll(upper, -1, 1), np.roll(lower, -1, 1)
    side = np.stack(
        (np.stack((upper, upper_next, lower), -1), np.stack((upper_next, lower_next, lower), -1)), axis=2
    ).reshape(-1, 3)
    caps = disc_triangles(n)
    floor = caps[:, ::-1] + (cap + (rows - 1) * around)
    return Shape(position, np.concatenate((caps, side, floor)).astype(np.int32))


FORM = BaseForm(
    "column",
    "Column",
    "A closed upright cylinder, for stacks, pillars and towers of rock.",
    (
        length("radius", "Radius", 12.0, "From the axis to the wall."),
        length("height", "Height", 30.0, "From foot to top."),
        edge(0.5),
    ),
    count,
    build,
)
