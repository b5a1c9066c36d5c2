"""Who lies beside whom on a surface, and how far apart, seen from straight above."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]

STEEP = 0.3
"""Share of an edge's length that its level part counts as at least: water falls down walls, it is not without a way."""


@dataclass(frozen=True)
class Graph:
    """Neighbours of every vertex, one after another.

    Attributes
    ----------
    first : (N + 1,) int32
        Where the neighbours of each vertex begin in `other`.
    other : (2 E,) int32
    away : (2 E,) float32
        Metres to each neighbour, level.
    border : (N,) bool
        Whether a vertex lies on a border.
    """

    first: Rows
    other: Rows
    away: NDArray[np.float32]
    border: NDArray[np.bool_]


@kernel("void(int32[::1], int32[::1], int32[::1], boolean[::1])")
def _count(vertex: Rows, opposite: Rows, first: Rows, border: NDArray[np.bool_]) -> None:
    for c in range(vertex.size):
        if vertex[c] < 0:
            continue
        a = vertex[next_corner(c)]
        b = vertex[previous_corner(c)]
        first[a + 1] += 1
        if opposite[c] < 0:
            first[b + 1] += 1
            border[a] = True
            border[b] = True
    for i in range(first.size - 1):
        first[i + 1] += first[i]


@kernel("void(int32[::1], int32[::1], float64[:,::1], float64[:,::1], int32[::1], int32[::1], float32[::1])")
def _fill(
    vertex: Rows, opposite: Rows, place: Vector, up: Vector, put: Rows, other: Rows, away: NDArray[np.float32]
) -> None:
    # every half-edge lies in one triangle; what has none on the other side is told both ways
    for c in range(vertex.size):
        if vertex[c] < 0:
            continue
        a = vertex[next_corner(c)]
        b = vertex[previous_corner(c)]
        at = a if up.shape[0] > 1 else 0
        along = 0.0
        size = 0.0
        for axis in range(3):
            step = place[b, axis] - place[a, axis]
            size += step * step
            along += step * up[at, axis]
        level = np.sqrt(max(size - along * along, STEEP * STEEP * size))
        other[put[a]] = b
        away[put[a]] = level
        put[a] += 1
        if opposite[c] < 0:
            other[put[b]] = a
            away[put[b]] = level
            put[b] += 1


@kernel("void(int32[::1], int32[::1], float64[::1], boolean[::1])")
def _lower(first: Rows, other: Rows, height: Vector, out: NDArray[np.bool_]) -> None:
    for i in range(height.size):
        for k in range(first[i], first[i + 1]):
            if height[other[k]] < height[i]:
                out[i] = True
                break


def has_lower(graph: "Graph", height: Vector) -> NDArray[np.bool_]:
    """(N,) whether a neighbour of each vertex lies lower than it."""
    out = np.zeros(height.size, np.bool_)
    _lower(graph.first, graph.other, height, out)
    return out


def graph_of(corners: CornerTable, position: NDArray[np.floating], up: Vector) -> Graph:
    """The graph of a mesh.

    Parameters
    ----------
    corners : CornerTable
    position : (N, 3)
        Metres.
    up : (1, 3) or (N, 3) float64
        Straight up, of length 1.
    """
    count = position.shape[0]
    first, border = np.zeros(count + 1, np.int32), np.zeros(count, np.bool_)
    _count(corners.vertex, corners.opposite, first, border)
    other, away = np.empty(int(first[-1]), np.int32), np.empty(int(first[-1]), np.float32)
    place = np.ascontiguousarray(position, np.float64)
    _fill(corners.vertex, corners.opposite, place, np.ascontiguousarray(up, np.float64), first[:-1].copy(), other, away)
    return Graph(first, other, np.maximum(away, np.float32(1e-9)), border)


@kernel("void(float64[:,::1], int32[:,::1], float64[:,::1], float64[::1])")
def _from_above(place: Vector, triangles: Rows, up: Vector, area: Vector) -> None:
    for t in range(triangles.shape[0]):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        at = a if up.shape[0] > 1 else 0
        ux, uy, uz = place[b, 0] - place[a, 0], place[b, 1] - place[a, 1], place[b, 2] - place[a, 2]
        vx, vy, vz = place[c, 0] - place[a, 0], place[c, 1] - place[a, 1], place[c, 2] - place[a, 2]
        seen = (uy * vz - uz * vy) * up[at, 0] + (uz * vx - ux * vz) * up[at, 1] + (ux * vy - uy * vx) * up[at, 2]
        third = max(seen, 0.0) / 6.0
        for k in range(3):
            area[triangles[t, k]] += third


def seen_from_above(corners: CornerTable, position: NDArray[np.floating], up: Vector) -> Vector:
    """(N,) square metres of each vertex as seen from above: a third of every triangle at it; 0 where rock hangs over.

    Parameters
    ----------
    corners : CornerTable
    position : (N, 3)
        Metres.
    up : (1, 3) or (N, 3) float64
    """
    area = np.zeros(position.shape[0])
    place, way = np.ascontiguousarray(position, np.float64), np.ascontiguousarray(up, np.float64)
    _from_above(place, np.ascontiguousarray(corners.live_triangles()), way, area)
    return area
