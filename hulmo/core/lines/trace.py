"""The course of a line over a surface, and how any place lies to it."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.kernel import kernel
from hulmo.core.lines.curve import smooth_curve
from hulmo.core.lines.ground import Ground, Places
from hulmo.core.lines.nearest_place import NearestPlace
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.objects.line import FEWEST, line_of, settings_of
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import number

Nearest = tuple[NDArray[np.int32], Places]
"""Triangles, and shares of their corners."""

MOST = 40_000
"""Places of one course."""

FINE = 0.25
"""Share of a usual edge that places of a course lie apart."""

JUMP = 3.0
"""Steps that two places next to each other may lie apart before the way between them is sought over the surface."""

FARTHER = 5.0
"""How much further off than the nearest place of a surface one before or behind may lie."""

EASED = 12
"""How often a way that was sought is drawn straight."""


@dataclass(frozen=True)
class Nearness:
    """How places lie to a course.

    Attributes
    ----------
    away : (K,) float64
        Metres to the nearest place of it.
    left : (K,) bool
        Whether they lie on its left, seen from outside.
    arc : (K,) float64
        Metres along it to there.
    """

    away: NDArray[np.float64]
    left: NDArray[np.bool_]
    arc: NDArray[np.float64]


@dataclass(frozen=True)
class Trace:
    """A course over a surface.

    Attributes
    ----------
    places : (K, 3) float64
        On the surface, metres about the origin of the body; of a closed course the last one lies before the first.
    normal : (K, 3) float64
        Of the surface there.
    triangle : (K,) int32
    width : (K,) float64
        Metres.
    at : (K,) float64
        Where among its points each place lies: 1.5 is halfway from the second to the third.
    corner : (C,) int
        Which places are corners.
    closed : bool
    """

    places: Places
    normal: Places
    triangle: NDArray[np.int32]
    width: NDArray[np.float64]
    at: NDArray[np.float64]
    corner: NDArray[np.intp]
    closed: bool

    @cached_property
    def arc(self) -> NDArray[np.float64]:
        """(K,) metres from the first place; of a closed course there is one more: its length."""
        ends = np.concatenate((self.places, self.places[:1])) if self.closed else self.places
        return np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(ends, axis=0), axis=1))))

    @property
    def length(self) -> float:
        """Metres."""
        return float(self.arc[-1])

    @cached_property
    def nearest_place(self) -> NearestPlace:
        """Finds the nearest of its places."""
        return NearestPlace(self.places)

    def on(self, ground: Ground) -> "Trace":
        """The same course over other triangles of the same surface."""
        return replace(self, triangle=ground.nearest(self.places)[0])

    def widths(self, arc: NDArray[np.float64]) -> NDArray[np.float64]:
        """(K,) metres of width at some metres along it."""
        ends = np.append(self.width, self.width[0]) if self.closed else self.width
        return np.interp(arc, self.arc, ends)

    def near(self, points: Places, up: Places | None = None, at: NDArray[np.int64] | None = None) -> Nearness:
        """How (K, 3) places lie to it.

        Parameters
        ----------
        points : (K, 3) float64
        up : (1 or K, 3) float64, optional
            Unit vectors: distances are then measured square to them.
        at : (K,) int64, optional
            The nearest place of each, where it is known.

        Notes
        -----
        The side is that of the nearest piece, or at a joint of both pieces together (angle-weighted pseudo-normals,
        Baerentzen and Aanaes 2005).
        """
        at = self.nearest_place.of(points) if at is None else at
        away, arc, left = np.empty(points.shape[0]), np.empty(points.shape[0]), np.empty(points.shape[0], np.bool_)
        way = np.zeros((0, 3)) if up is None else np.ascontiguousarray(up, np.float64)
        _near(
            np.ascontiguousarray(points, np.float64), np.ascontiguousarray(self.places), self._side, self.arc, at, way,
            self.closed, away, arc, left,
        )  # fmt: skip
        return Nearness(away, left, arc)

    @cached_property
    def _side(self) -> Places:
        # (K, 3) unit ways to the left of every piece
        side = np.cross(self.normal, np.roll(self.places, -1, axis=0) - self.places)
        side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-30)
        return np.ascontiguousarray(side)


@kernel(
    "void(float64[:,::1], float64[:,::1], float64[:,::1], float64[::1], int64[::1], float64[:,::1], boolean, float64[::1], "
    "float64[::1], boolean[::1])"
)
def _near(
    points: Places, places: Places, side: Places, arc: NDArray[np.float64], at: NDArray[np.int64], up: Places,
    closed: bool, away: NDArray[np.float64], along: NDArray[np.float64], left: NDArray[np.bool_],
) -> None:  # fmt: skip
    # the nearer one of the two pieces at the nearest place; `up` has no rows, one, or one a point
    count = places.shape[0]
    pieces = count if closed else count - 1
    way = np.empty(3)
    to = np.empty(3)
    for i in range(points.shape[0]):
        best = np.inf
        piece = np.int64(0)
        share = 0.0
        for step in (-1, 0):
            start = at[i] + step
            if closed:
                start = start % pieces
            else:
                start = pieces - 1 if start >= pieces else (start if start > 0 else 0)
            end = (start + 1) % count
            long = 0.0
            off = 0.0
            for axis in range(3):
                way[axis] = places[end, axis] - places[start, axis]
                to[axis] = points[i, axis] - places[start, axis]
                if up.shape[0] > 0:
                    row = i if up.shape[0] > 1 else 0
                    long += way[axis] * up[row, axis]
                    off += to[axis] * up[row, axis]
            size = 0.0
            dot = 0.0
            for axis in range(3):
                if up.shape[0] > 0:
                    row = i if up.shape[0] > 1 else 0
                    way[axis] -= long * up[row, axis]
                    to[axis] -= off * up[row, axis]
                size += way[axis] * way[axis]
                dot += way[axis] * to[axis]
            t = min(max(dot / max(size, 1e-30), 0.0), 1.0)
            far = 0.0
            for axis in range(3):
                far += (to[axis] - t * way[axis]) ** 2
            if far < best:
                best = far
                piece = start
                share = t
        away[i] = np.sqrt(best)
        along[i] = arc[piece] + share * (arc[piece + 1] - arc[piece])
        other = piece
        if share <= 1e-9:
            other = piece - 1
        elif share >= 1.0 - 1e-9:
            other = piece + 1
        if closed:
            other = other % pieces
        else:
            other = pieces - 1 if other >= pieces else (other if other > 0 else np.int64(0))
        end = (piece + 1) % count
        facing = 0.0
        for axis in range(3):
            foot = places[piece, axis] + share * (places[end, axis] - places[piece, axis])
            both = side[piece, axis] + (side[other, axis] if other != piece else 0.0)
            facing += (points[i, axis] - foot) * both
        left[i] = facing > 0.0


def trace(ground: Ground, entry: SceneObject) -> Trace:
    """The course of an outline or a track over a surface.

    Raises
    ------
    InvalidInput
        It has too few points, leaves the surface, or crosses itself.
    """
    line = line_of(entry)
    values = settings_of(entry, line)
    closed = entry.kind == "outline"
    what = f"{entry.kind} {entry.name!r}"
    if len(line.points) < FEWEST[entry.kind]:
        raise InvalidInput(f"{what}: it has {len(line.points)} points; place {FEWEST[entry.kind]} or more")
    points = line.array
    triangle, weight = ground.nearest(points)
    points = ground.at(triangle, weight)
    edge = float(side_lengths(ground.position, ground.corners.triangles[triangle]).mean())
    total = float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
    step = float(np.clip(FINE * edge, total / MOST, total / 48))
    corner = np.array([place.corner for place in line.points], np.bool_)
    gaps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    if not gaps.min() > 0:
        i = int(gaps.argmin())
        raise InvalidInput(f"{what}: points {i + 1} and {i + 2} come to lie at one place; leave one out")
    wanted, at = smooth_curve(points, corner, closed, step)
    nearest = ground.nearest(wanted)
    places, at = _on_surface(ground, wanted, nearest, at, closed, step, what)
    triangle, weight = ground.nearest(places)
    normal = ground.blend(ground.normal, triangle, weight)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    own = np.array([place.width or number(values, "width") for place in line.points])
    number_ = np.arange(own.size + closed, dtype=np.float64)
    width = np.interp(at, number_, np.append(own, own[0]) if closed else own)
    which = np.flatnonzero(np.isin(at, np.flatnonzero(corner)))
    out = Trace(places, normal, triangle, width, at, which, closed)
    _refuse_border(ground, wanted, nearest, edge, what)
    if closed:
        _refuse_crossing(out, what)
    return out


def _on_surface(
    ground: Ground, wanted: Places, nearest: Nearest, at: NDArray[np.float64], closed: bool, step: float, what: str
) -> tuple[Places, NDArray[np.float64]]:
    # places of the surface before or behind those wanted; where they jump, a way over it
    triangle, places = _before_or_behind(ground, wanted, nearest, at, closed)
    following = np.roll(places, -1, axis=0)
    gap = np.linalg.norm(following - places, axis=1)
    if not closed:
        gap[-1] = 0.0
    jumps = np.flatnonzero(gap > JUMP * step)
    if not jumps.size:
        return _apart(places, at, closed, step)
    graph = _edges(ground)
    out, ats = [], []
    for i in range(places.shape[0]):
        out.append(places[i : i + 1])
        ats.append(at[i : i + 1])
        if i not in jumps:
            continue
        j = (i + 1) % places.shape[0]
        between = _way(ground, graph, triangle[i], triangle[j], places[i], places[j], step, what)
        end = at[j] if at[j] > at[i] else at[i] + 1.0
        share = np.linspace(0.0, 1.0, between.shape[0] + 2)[1:-1]
        out.append(between)
        ats.append(at[i] + share * (end - at[i]))
    return _apart(np.concatenate(out), np.concatenate(ats), closed, step)


def _before_or_behind(
    ground: Ground, wanted: Places, nearest: Nearest, at: NDArray[np.float64], closed: bool
) -> tuple[NDArray[np.int32], Places]:
    # along the way that the surface faces about there: the nearest places would slip into every cleft
    triangle, weight = nearest[0].copy(), nearest[1]
    places = ground.at(triangle, weight)
    away = np.linalg.norm(places - wanted, axis=1)
    facing = ground.blend(ground.normal, triangle, weight)
    wide = max(int(wanted.shape[0] / (at.max() + 1.0) / 2), 1)
    padded = np.pad(facing, ((wide, wide), (0, 0)), mode="wrap" if closed and wide < len(facing) else "edge")
    total = np.concatenate((np.zeros((1, 3)), np.cumsum(padded, axis=0)))
    facing = total[2 * wide + 1 :] - total[: -2 * wide - 1]
    vertex, position = ground.corners.vertex, ground.position
    size = np.linalg.norm(facing, axis=1)
    asked = np.flatnonzero((away > 1e-6 * np.linalg.norm(np.ptp(wanted, axis=0))) & (size > 0))
    ray, reach = facing[asked] / size[asked, None], FARTHER * away[asked]
    for way in (ray, -ray):
        hit, far, share = ground.index.rays(vertex, position, wanted[asked], way, reach)
        met = (hit >= 0) & (far < reach)
        reach[met], triangle[asked[met]] = far[met], hit[met]
        places[asked[met]] = ground.at(hit[met], share[met])
    return triangle, places


def _apart(places: Places, at: NDArray[np.float64], closed: bool, step: float) -> tuple[Places, NDArray[np.float64]]:
    # without places that fall together
    gap = np.linalg.norm(np.roll(places, 1, axis=0) - places, axis=1)
    keep = (gap > 1e-3 * step) | (at == np.round(at))
    if not closed:
        keep[[0, -1]] = True
    if keep.sum() < 3:
        keep[:] = True
    return places[keep], at[keep]


def _edges(ground: Ground) -> Any:
    from scipy.sparse import coo_array

    triangles = ground.corners.live_triangles()
    a, b = triangles[:, (0, 1, 2)].reshape(-1), triangles[:, (1, 2, 0)].reshape(-1)
    size = np.linalg.norm(ground.position[a].astype(np.float64) - ground.position[b], axis=1)
    count = ground.position.shape[0]
    return coo_array((np.maximum(size, 1e-9), (a, b)), (count, count)).tocsr()


def _way(
    ground: Ground, graph: Any, start: int, end: int, first: Places, last: Places, step: float, what: str
) -> Places:
    # along edges, and then drawn straight over the surface
    from scipy.sparse.csgraph import dijkstra

    a, b = int(ground.corners.triangles[start][0]), int(ground.corners.triangles[end][0])
    limit = 20.0 * float(np.linalg.norm(last - first)) + 100.0 * step
    away, before = dijkstra(graph, directed=False, indices=a, return_predecessors=True, limit=limit)
    if not np.isfinite(away[b]):
        raise InvalidInput(f"{what}: there is no way over the surface from one point to the next; place more between")
    path = [b]
    while path[-1] != a:
        path.append(int(before[path[-1]]))
    course = np.concatenate((first[None], ground.position[path[::-1]].astype(np.float64), last[None]))
    for _ in range(EASED):
        size = np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(course, axis=0), axis=1))))
        count = max(int(np.ceil(size[-1] / step)), 2)
        course = np.stack(
            [np.interp(np.linspace(0, size[-1], count + 1), size, course[:, k]) for k in range(3)], axis=1
        )
        course[1:-1] = (course[:-2] + course[1:-1] + course[2:]) / 3
        course[1:-1] = ground.at(*ground.nearest(course[1:-1]))
    return course[1:-1]


def _refuse_border(ground: Ground, wanted: Places, nearest: Nearest, edge: float, what: str) -> None:
    triangle, weight = nearest
    across = ground.corners.opposite.reshape(-1, 3)[triangle]
    on = ((across < 0) & (weight < 1e-6)).any(axis=1)
    if not on.any():
        return
    place = ground.at(triangle, weight)
    normal = ground.blend(ground.normal, triangle, weight)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    off = wanted - place
    aside = np.linalg.norm(off - np.einsum("ki,ki->k", off, normal)[:, None] * normal, axis=1)
    if (aside[on] > 0.05 * edge).any():
        raise InvalidInput(f"{what}: it runs over the border of the body; move its points inward")


def _refuse_crossing(course: Trace, what: str) -> None:
    # two pieces that are not beside each other and cross, seen along the surface's normal
    from scipy.spatial import cKDTree

    count = course.places.shape[0]
    following = np.roll(course.places, -1, axis=0)
    middle, half = (course.places + following) / 2, np.linalg.norm(following - course.places, axis=1).max() / 2
    pairs = cKDTree(middle).query_pairs(2.1 * half, output_type="ndarray")
    apart = (pairs[:, 1] - pairs[:, 0]) % count
    pairs = pairs[(apart > 1) & (apart < count - 1)]
    if not pairs.size:
        return
    i, j = pairs[:, 0], pairs[:, 1]
    same = np.einsum("ki,ki->k", course.normal[i], course.normal[j]) > 0.2

    def turn(a: Places, b: Places, c: Places) -> NDArray[np.float64]:
        return np.asarray(np.einsum("ki,ki->k", np.cross(b - a, c - a), course.normal[i]))

    a, b, c, d = course.places[i], following[i], course.places[j], following[j]
    crossing = (turn(a, b, c) * turn(a, b, d) <= 0) & (turn(c, d, a) * turn(c, d, b) <= 0) & same
    if crossing.any():
        x, y, z = middle[i[crossing.argmax()]].round(2).tolist()
        raise InvalidInput(f"{what}: it crosses itself near ({x:g}, {y:g}, {z:g}); move its points apart")
