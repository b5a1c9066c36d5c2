"""Disc: a level round piece of ground with even triangles."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape, edge, length, steps
from hulmo.core.setting import Values, number


def rings(radius: float, wanted: float) -> int:
    """Number of rings; ring k has 6 k vertices, which keeps edges along and across rings of like length."""
    return steps(radius, wanted)


def disc_points(count: int) -> NDArray[np.float64]:
    """(1 + 3 n (n + 1), 2) points of a unit disc, centre first, ring after ring, each starting at +X toward +Z."""
    points = [np.zeros((1, 2))]
    for k in range(1, count + 1):
        angle = np.arange(6 * k) * (np.pi / (3 * k))
        points.append(np.column_stack((np.cos(angle), np.sin(angle))) * (k / count))
    return np.concatenate(points)


def disc_triangles(count: int) -> NDArray[np.int32]:
    """(6 n², 3) triangles over `disc_points`, counter-clockwise when Z is seen pointing down the page (from +Y)."""
    made = []
    for k in range(1, count + 1):
        inner = 1 + 3 * (k - 1) * (k - 2) if k > 1 else 0
        outer = 1 + 3 * k * (k - 1)
        inner_size = max(1, 6 * (k - 1))
        side = np.arange(6)[:, None]
        step = np.arange(k)
        out_a = outer + side * k + step
        out_b = outer + (side * k + step + 1) % (6 * k)
        in_a = inner + (side * (k - 1) + step) % inner_size
        made.append(np.stack((in_a, out_b, out_a), axis=-1).reshape(-1, 3))
        if k > 1:
            step = np.arange(k - 1)
            in_a = inner + side * (k - 1) + step
            in_b = inner + (side * (k - 1) + step + 1) % inner_size
            out_b = outer + side * k + step + 1
            made.append(np.stack((in_a, in_b, out_b), axis=-1).reshape(-1, 3))
    return np.concatenate(made).astype(np.int32)


def count(values: Values) -> Counts:
    """Vertices and triangles of `build`."""
    n = rings(number(values, "radius"), number(values, "edge"))
    return Counts(1 + 3 * n * (n + 1), 6 * n * n)


def build(values: Values) -> Shape:
    """Rings around the origin in the XZ plane, facing +Y, with UV of the enclosing square."""
    radius = number(values, "radius")
    n = rings(radius, number(values, "edge"))
    plane = disc_points(n)
    position = np.zeros((plane.shape[0], 3), np.float32)
    position[:, 0] = plane[:, 0] * radius
    position[:, 2] = plane[:, 1] * radius
    triangles = disc_triangles(n)
    return Shape(position, triangles, (plane * 0.5 + 0.5).astype(np.float32)[triangles])


FORM = BaseForm(
    "disc",
    "Disc",
    "A level round piece of ground.",
    (length("radius", "Radius", 32.0, "From the centre to the rim."), edge(0.5)),
    count,
    build,
)
