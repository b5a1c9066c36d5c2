"""Many rays at once: what they meet first, and how open places are to their surroundings.

Strokes and picking ask `SpatialIndex`, which follows every change. Where millions of rays are sent at a body that rests, as
in baking, Embree (Wald, Woop, Benthin, Johnson and Ernst, "Embree: a kernel framework for efficient CPU ray tracing", 2014)
answers several times as many in the same time.
"""

import math

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.ray_triangle import ray_triangle
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.workers import by_pieces

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Figures = NDArray[np.float64]

PIECE = 1 << 16
"""Rays that one thread sends at a time."""

OFF = 0.01
"""Share of the mean edge by which rays begin above a place."""


class Rays:
    """Answers many rays at a body as it is now; building takes a little, so keep it for as many as there are.

    Rays run in single precision and never slip through between two triangles; where they meet one is worked out in double.

    Parameters
    ----------
    body : Body
        One that changes later needs another.
    """

    def __init__(self, body: Body) -> None:
        self._body = body
        self._slot = np.flatnonzero(body.corners.vertex[::3] >= 0).astype(np.int32)
        self._scene = EmbreeScene(robust=True)
        if self._slot.size:
            triangles = np.ascontiguousarray(body.corners.triangles[self._slot], np.int32)
            TriangleMesh(self._scene, np.ascontiguousarray(body.vertices["position"]), triangles)
            one = np.array([[0.0, 1.0, 0.0]], np.float32)
            self._scene.run(one, one)  # what is made when the first is sent is made before several threads send some

    def first_hits(self, origin: Figures, direction: Figures, reach: float) -> tuple[Rows, Points, Points]:
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
        triangle, weight, away = (
            np.full(count, -1, np.int32),
            np.zeros((count, 2), np.float32),
            np.zeros(count, np.float32),
        )
        body = self._body

        def look(part: slice) -> None:
            found = self._sent("INTERSECT", origin[part].astype(np.float32), direction[part].astype(np.float32), reach)
            triangle[part] = np.where(found >= 0, self._slot[found], -1)
            _where(
                body.corners.vertex, body.vertices["position"], np.ascontiguousarray(origin[part], np.float64),
                np.ascontiguousarray(direction[part], np.float64), triangle[part], weight[part], away[part],
            )  # fmt: skip

        if self._slot.size:
            by_pieces(look, count, PIECE)
        return triangle, weight, away

    def openness(self, place: Figures, normal: Figures, rays: int, reach: float) -> Points:
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
        Directions spread by the cosine over a half sphere (Malley's method) on a Fibonacci lattice. A ray that just misses
        an edge may be one that just meets it on another kind of processor.
        """
        k = np.arange(rays) + 0.5
        level, angle = np.sqrt(k / rays), k * math.pi * (3.0 - math.sqrt(5.0))
        way = np.stack((level * np.cos(angle), level * np.sin(angle), np.sqrt(1.0 - k / rays)), axis=1)
        out = np.ones(place.shape[0], np.float32)
        off = OFF * mean_edge(self._body)

        def look(part: slice) -> None:
            count = out[part].size
            origin, direction = np.empty((count * rays, 3), np.float32), np.empty((count * rays, 3), np.float32)
            _spread(
                np.ascontiguousarray(place[part], np.float64), np.ascontiguousarray(normal[part], np.float64), way, off,
                origin, direction,
            )  # fmt: skip
            met = self._sent("OCCLUDED", origin, direction, reach) >= 0
            out[part] = 1.0 - met.reshape(count, rays).mean(axis=1, dtype=np.float64)

        if self._slot.size:
            by_pieces(look, out.size, max(PIECE // max(rays, 1), 64))
        return out

    def _sent(self, query: str, origin: Points, direction: Points, reach: float) -> Rows:
        return np.asarray(
            self._scene.run(origin, direction, np.full(origin.shape[0], reach, np.float32), query=query), np.int32
        )


@kernel("void(int32[::1], float32[:,::1], float64[:,::1], float64[:,::1], int32[::1], float32[:,::1], float32[::1])")
def _where(
    vertex: Rows, position: Points, origin: Figures, direction: Figures, triangle: Rows, weight: Points, away: Points
) -> None:
    # where rays meet the triangles that they meet: those that it does not lie in to the last bit as well
    for i in range(triangle.size):
        t = triangle[i]
        if t < 0:
            continue
        far, u, v = ray_triangle(
            position, None, None, vertex[3 * t], vertex[3 * t + 1], vertex[3 * t + 2], origin[i, 0], origin[i, 1],
            origin[i, 2], direction[i, 0], direction[i, 1], direction[i, 2], np.inf, 0.0,
        )  # fmt: skip
        u, v = max(u, 0.0), max(v, 0.0)
        total = max(u + v, 1.0)
        away[i] = far if far == far else 0.0
        weight[i, 0], weight[i, 1] = u / total, v / total


@kernel("void(float64[:,::1], float64[:,::1], float64[:,::1], float64, float32[:,::1], float32[:,::1])")
def _spread(place: Figures, normal: Figures, way: Figures, off: float, origin: Points, direction: Points) -> None:
    count = way.shape[0]
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
        for k in range(count):
            x, y, z = c * way[k, 0] - s * way[k, 1], s * way[k, 0] + c * way[k, 1], way[k, 2]
            row = i * count + k
            origin[row, 0], origin[row, 1], origin[row, 2] = ox, oy, oz
            direction[row, 0] = x * tx + y * bx + z * nx
            direction[row, 1] = x * ty + y * by + z * ny
            direction[row, 2] = x * tz + y * bz + z * nz
