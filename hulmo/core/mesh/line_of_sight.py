"""Whether something lies between two points."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.ray_triangle import ray_triangle
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.mesh.tree_query import box_entry
from hulmo.core.workers import by_pieces

Rows = NDArray[np.int32]
Points = NDArray[np.float32]

OFF = 0.02
"""Share of the mean edge by which a line ends above a vertex."""

PIECE = 8192
"""Lines that one thread answers in one piece."""


@part_of_kernels
def blocked(box, first, leaf_items, leaf_count, vertex, position, ox, oy, oz, dx, dy, dz, reach):  # type: ignore[no-untyped-def]
    """Whether anything lies on a ray within `reach`; for kernels."""
    tiny = 1e-300
    ix = 1.0 / (dx if abs(dx) > tiny else tiny)
    iy = 1.0 / (dy if abs(dy) > tiny else tiny)
    iz = 1.0 / (dz if abs(dz) > tiny else tiny)
    stack = np.empty(96, np.int32)
    stack[0] = 0
    size = 1
    while size > 0:
        size -= 1
        node = stack[size]
        if box_entry(box, node, ox, oy, oz, ix, iy, iz, reach) < 0.0:
            continue
        child = first[node]
        if child >= 0:
            stack[size] = child
            stack[size + 1] = child + 1
            size += 2
            continue
        leaf = -1 - child
        for i in range(leaf_count[leaf]):
            triangle = leaf_items[leaf, i]
            t, _, _ = ray_triangle(
                position, None, None, vertex[3 * triangle], vertex[3 * triangle + 1], vertex[3 * triangle + 2],
                ox, oy, oz, dx, dy, dz, 1e-9, 0.0,
            )  # fmt: skip
            if 0.0 <= t < reach:
                return True
    return False


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float32[:,::1], int32[::1], "
    "float64[::1], float64, boolean[::1])"
)
def _visible(
    box: Points,
    first: Rows,
    leaf_items: NDArray[np.int32],
    leaf_count: Rows,
    vertex: Rows,
    position: Points,
    normal: Points,
    rows: Rows,
    eye: NDArray[np.float64],
    off: float,
    out: NDArray[np.bool_],
) -> None:
    for i in range(rows.size):
        row = rows[i]
        ox = position[row, 0] + normal[row, 0] * off
        oy = position[row, 1] + normal[row, 1] * off
        oz = position[row, 2] + normal[row, 2] * off
        dx = eye[0] - ox
        dy = eye[1] - oy
        dz = eye[2] - oz
        if dx * normal[row, 0] + dy * normal[row, 1] + dz * normal[row, 2] <= 0.0:
            out[i] = False
        else:
            out[i] = not blocked(
                box, first, leaf_items, leaf_count, vertex, position, ox, oy, oz, dx, dy, dz, 1.0
            )  # fmt: skip


def visible(body: Body, rows: Rows, eye: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(K,) which vertices face a point, (3,) metres, with nothing of their body in between."""
    out = np.empty(rows.size, np.bool_)
    vertices, search, off = body.vertices, body.index.search, OFF * mean_edge(body)

    def look(part: slice) -> None:
        _visible(
            *search, body.corners.vertex, vertices["position"], vertices["normal"], rows[part],
            np.asarray(eye, np.float64), off, out[part],
        )  # fmt: skip

    by_pieces(look, out.size, PIECE)
    return out


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[:,::1], float64[::1], "
    "float64, boolean[::1])"
)
def _hidden(
    box: Points,
    first: Rows,
    leaf_items: NDArray[np.int32],
    leaf_count: Rows,
    vertex: Rows,
    position: Points,
    points: NDArray[np.float64],
    eye: NDArray[np.float64],
    short: float,
    out: NDArray[np.bool_],
) -> None:
    for i in range(points.shape[0]):
        dx = points[i, 0] - eye[0]
        dy = points[i, 1] - eye[1]
        dz = points[i, 2] - eye[2]
        away = np.sqrt(dx * dx + dy * dy + dz * dz)
        out[i] = away > short and blocked(
            box, first, leaf_items, leaf_count, vertex, position, eye[0], eye[1], eye[2], dx, dy, dz, 1.0 - short / away
        )  # fmt: skip


def hidden(body: Body, points: NDArray[np.float64], eye: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(K,) which of (K, 3) points, metres of the body, lie behind it for an eye, (3,); what they lie on does not count."""
    out = np.empty(points.shape[0], np.bool_)
    search, short = body.index.search, OFF * mean_edge(body)

    def look(part: slice) -> None:
        _hidden(
            *search, body.corners.vertex, body.vertices["position"], np.ascontiguousarray(points[part], np.float64),
            np.asarray(eye, np.float64), short, out[part],
        )  # fmt: skip

    by_pieces(look, out.size, PIECE)
    return out
