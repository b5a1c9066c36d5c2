"""Many rays at once: what they meet first, and how open places are to their surroundings."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.line_of_sight import blocked
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.mesh.tree_query import first_hit
from hulmo.core.workers import by_pieces

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Figures = NDArray[np.float64]

PIECE = 8192
"""Rays, or places, that one thread answers in one piece."""

OFF = 0.01
"""Share of the mean edge by which rays begin above a place."""


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[:,::1], float64[:,::1], "
    "float64, int32[::1], float32[:,::1], float32[::1])"
)
def _first_hits(
    box: Points, first: Rows, leaf_items: Rows, leaf_count: Rows, vertex: Rows, position: Points, origin: Figures,
    direction: Figures, reach: float, triangle: Rows, weight: Points, away: Points,
) -> None:  # fmt: skip
    out = np.empty(3, np.float64)
    for i in range(origin.shape[0]):
        found = first_hit(
            box, first, leaf_items, leaf_count, vertex, position, None, None, origin[i], direction[i], reach, out
        )
        triangle[i] = found
        if found >= 0:
            away[i] = out[0]
            weight[i, 0], weight[i, 1] = out[1], out[2]


def first_hits(body: Body, origin: Figures, direction: Figures, reach: float) -> tuple[Rows, Points, Points]:
    """What rays meet first, whichever side it shows.

    Parameters
    ----------
    origin, direction : (K, 3) float64
        Metres about the body's origin; of length 1.
    reach : float
        Metres.

    Returns
    -------
    triangle : (K,) int32
        -1 for nothing.
    weight : (K, 2) float32
        Shares of its second and third corner.
    away : (K,) float32
        Metres.
    """
    count = origin.shape[0]
    triangle, weight, away = np.full(count, -1, np.int32), np.zeros((count, 2), np.float32), np.zeros(count, np.float32)
    search = body.index.search

    def look(part: slice) -> None:
        _first_hits(
            *search, body.corners.vertex, body.vertices["position"], np.ascontiguousarray(origin[part], np.float64),
            np.ascontiguousarray(direction[part], np.float64), reach, triangle[part], weight[part], away[part],
        )  # fmt: skip

    by_pieces(look, count, PIECE)
    return triangle, weight, away


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[:,::1], float64[:,::1], "
    "float64[:,::1], float64, float64, float32[::1])"
)
def _open(
    box: Points, first: Rows, leaf_items: Rows, leaf_count: Rows, vertex: Rows, position: Points, place: Figures,
    normal: Figures, way: Figures, off: float, reach: float, out: Points,
) -> None:  # fmt: skip
    for i in range(place.shape[0]):
        nx, ny, nz = normal[i, 0], normal[i, 1], normal[i, 2]
        # two ways square to the normal (Duff et al., "Building an orthonormal basis, revisited", 2017)
        sign = 1.0 if nz >= 0.0 else -1.0
        a = -1.0 / (sign + nz)
        b = nx * ny * a
        tx, ty, tz = 1.0 + sign * nx * nx * a, sign * b, -sign * nx
        bx, by, bz = b, sign + ny * ny * a, -ny
        # each place turns the rays by an angle of its own, made of where it lies
        mark = place[i, 0] * 12.9898 + place[i, 1] * 78.233 + place[i, 2] * 37.719
        turn = (mark - np.floor(mark)) * 2.0 * math.pi
        c, s = math.cos(turn), math.sin(turn)
        ox, oy, oz = place[i, 0] + nx * off, place[i, 1] + ny * off, place[i, 2] + nz * off
        free = 0
        for k in range(way.shape[0]):
            x, y, z = c * way[k, 0] - s * way[k, 1], s * way[k, 0] + c * way[k, 1], way[k, 2]
            dx, dy, dz = x * tx + y * bx + z * nx, x * ty + y * by + z * ny, x * tz + y * bz + z * nz
            if not blocked(box, first, leaf_items, leaf_count, vertex, position, ox, oy, oz, dx, dy, dz, reach):
                free += 1
        out[i] = free / way.shape[0]


def openness(body: Body, place: Figures, normal: Figures, rays: int, reach: float) -> Points:
    """(K,) how much of the light of an even sky around comes to places of a body: 0 none, 1 all, by the cosine.

    Parameters
    ----------
    place, normal : (K, 3) float64
        Metres about the body's origin; of length 1.
    rays : int
    reach : float
        Metres within which anything counts.

    Notes
    -----
    Directions spread by the cosine over a half sphere (Malley's method) on a Fibonacci lattice.
    """
    k = np.arange(rays) + 0.5
    level, angle = np.sqrt(k / rays), k * math.pi * (3.0 - math.sqrt(5.0))
    way = np.stack((level * np.cos(angle), level * np.sin(angle), np.sqrt(1.0 - k / rays)), axis=1)
    out = np.zeros(place.shape[0], np.float32)
    search, off = body.index.search, OFF * mean_edge(body)

    def look(part: slice) -> None:
        _open(
            *search, body.corners.vertex, body.vertices["position"], np.ascontiguousarray(place[part], np.float64),
            np.ascontiguousarray(normal[part], np.float64), way, off, reach, out[part],
        )  # fmt: skip

    by_pieces(look, out.size, max(PIECE // max(rays, 1), 64))
    return out
