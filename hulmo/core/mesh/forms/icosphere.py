"""Icosphere: a sphere of near-equal triangles, for moons and boulders."""

import numpy as np

from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape, edge, length, steps
from hulmo.core.setting import Values, number

_ARC = 1.1071487177940904  # arctan 2: angle between neighbouring corners of an icosahedron


def _corners() -> tuple[np.ndarray, np.ndarray]:
    golden = (1 + 5**0.5) / 2
    corners = np.array(
        [
            (-1, golden, 0), (1, golden, 0), (-1, -golden, 0), (1, -golden, 0),
            (0, -1, golden), (0, 1, golden), (0, -1, -golden), (0, 1, -golden),
            (golden, 0, -1), (golden, 0, 1), (-golden, 0, -1), (-golden, 0, 1),
        ]
    )  # fmt: skip
    faces = np.array(
        [
            (0, 11, 5), (0, 5, 1), (0, 1, 7), (0, 7, 10), (0, 10, 11), (1, 5, 9), (5, 11, 4), (11, 10, 2),
            (10, 7, 6), (7, 1, 8), (3, 9, 4), (3, 4, 2), (3, 2, 6), (3, 6, 8), (3, 8, 9), (4, 9, 5),
            (2, 4, 11), (6, 2, 10), (8, 6, 7), (9, 8, 1),
        ]
    )  # fmt: skip
    return corners / np.linalg.norm(corners[0]), faces


def frequency(radius: float, wanted: float) -> int:
    """Into how many pieces each edge of the icosahedron is cut."""
    return steps(radius * _ARC, wanted)


def count(values: Values) -> Counts:
    """Vertices and triangles of `build`: 10 f² + 2 and 20 f² at frequency f."""
    f = frequency(number(values, "radius"), number(values, "edge"))
    return Counts(10 * f * f + 2, 20 * f * f)


def build(values: Values) -> Shape:
    """A geodesic sphere around the origin (class I subdivision of the icosahedron at any whole frequency)."""
    radius = number(values, "radius")
    f = frequency(radius, number(values, "edge"))
    corners, faces = _corners()
    inner = (f - 1) * (f - 2) // 2
    total = 10 * f * f + 2
    position = np.empty((total, 3))
    position[:12] = corners
    between = np.arange(1, f) / f
    edge_start: dict[tuple[int, int], int] = {}
    for face in faces:
        for a, b in ((face[0], face[1]), (face[1], face[2]), (face[2], face[0])):
            if (a, b) not in edge_start and (b, a) not in edge_start:
                start = 12 + len(edge_start) * (f - 1)
                edge_start[(a, b)] = start
                position[start : start + f - 1] = _between(corners[a], corners[b], between)

    def along(a: int, b: int) -> np.ndarray:
        if (a, b) in edge_start:
            return edge_start[(a, b)] + np.arange(f - 1)
        return edge_start[(b, a)] + np.arange(f - 1)[::-1]

    # row r of a face runs from side a-b to side a-c and has r + 1 vertices
    row, column = np.tril_indices(f + 1)
    number_of = np.full((f + 1, f + 1), -1)
    number_of[row, column] = np.arange(row.size)
    up_row, up_column = np.tril_indices(f)
    up = np.column_stack(
        (number_of[up_row, up_column], number_of[up_row + 1, up_column], number_of[up_row + 1, up_column + 1])
    )
    down_row, down_column = np.tril_indices(f, -1)
    down = np.column_stack(
        (
            number_of[down_row, down_column],
            number_of[down_row + 1, down_column + 1],
            number_of[down_row, down_column + 1],
        )
    )
    cells = np.concatenate((up, down))
    # neighbours in space stay neighbours in the table: order the cells of a face row by row
    cells = cells[np.lexsort((cells.min(axis=1), cells.max(axis=1)))]
    inside = (row > 0) & (row < f) & (column > 0) & (column < row)
    triangles = np.empty((20, f * f, 3), np.int32)
    for i, (a, b, c) in enumerate(faces):
        numbers = np.empty(row.size, np.int64)
        numbers[number_of[0, 0]], numbers[number_of[f, 0]], numbers[number_of[f, f]] = a, b, c
        middle = np.arange(1, f)
        numbers[number_of[middle, 0]] = along(a, b)
        numbers[number_of[middle, middle]] = along(a, c)
        numbers[number_of[f, middle]] = along(b, c)
        start = 12 + 30 * (f - 1) + i * inner
        numbers[inside] = start + np.arange(inner)
        r, k = row[inside] / f, column[inside] / f
        flat = corners[a] + (corners[b] - corners[a]) * r[:, None] + (corners[c] - corners[b]) * k[:, None]
        position[start : start + inner] = flat
        triangles[i] = numbers[cells]
    position *= radius / np.linalg.norm(position, axis=1)[:, None]
    return Shape(position.astype(np.float32), triangles.reshape(-1, 3))


def _between(a: np.ndarray, b: np.ndarray, share: np.ndarray) -> np.ndarray:
    return np.asarray(a + (b - a) * share[:, None])


FORM = BaseForm(
    "icosphere",
    "Icosphere",
    "A sphere of near-equal triangles, for moons and boulders.",
    (length("radius", "Radius", 10.0, "From the centre to the surface."), edge(0.25)),
    count,
    build,
)
