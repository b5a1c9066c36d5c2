"""Thin triangles made better one by one, by turning an edge or joining two vertices."""

import math
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import GUARD
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.seams import on_seams, seams
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.turn_edges import turn_edges

Mask = NDArray[np.bool_]
Places = NDArray[np.float64]

ROUNDS = 6
"""How often what is left is gone over again."""

BENT = 0.5
"""Cosine of how far a triangle may turn over when two vertices are joined."""

NEEDLE = 0.3
"""Share of the longest side under which the shortest makes a triangle a needle."""

MOST_EDGES = 8
"""Edges at a vertex beyond which none is added."""


def improved(vertices: VertexTable, corners: CornerTable, faces: Mask, limit: float, joins: bool = True) -> CornerTable:
    """Make thin triangles better where the shape allows it.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    faces : (M,) bool
        Which triangles are looked at; those next to them can change as well.
    limit : float
        Degrees of the smallest angle from which on a triangle is good enough.
    joins : bool
        Whether vertices may be joined; otherwise edges are turned only.

    Returns
    -------
    CornerTable
        Over the same rows, some of which it may not use any more. Borders, guarded vertices and seams stay where they are; a
        vertex through which a seam goes on straight can be joined with the next one of it.
    """
    position = vertices["position"].astype(np.float64)
    looked, fresh = np.zeros(vertices.count, np.bool_), np.ones(vertices.count, np.bool_)
    looked[corners.triangles[faces]] = True
    for _ in range(ROUNDS):
        angle, _ = shapes_of(position, corners.triangles)
        # after the first round only what has changed can be better off
        thin = np.flatnonzero(
            (angle < limit) & looked[corners.triangles].all(axis=1) & fresh[corners.triangles].any(axis=1)
        )
        edges = np.bincount(corners.vertex, minlength=vertices.count)  # at a border one more
        crowded = np.flatnonzero((edges > MOST_EDGES) & looked & fresh)
        if not thin.size and not crowded.size:
            break
        step = _Step(vertices, corners, position, angle)
        for slot in thin[np.argsort(angle[thin])].tolist():
            step.better(slot, joins)
        for row in crowded.tolist():
            step.relieved(row, limit, joins)
        made = step.result()
        if made is None:
            break
        fresh = np.zeros(vertices.count, np.bool_)
        fresh[list(step.touched)] = True
        corners = made
    return corners


class _Step:
    # changes that do not touch each other

    def __init__(
        self, vertices: VertexTable, corners: CornerTable, position: Places, angle: NDArray[np.float64]
    ) -> None:
        self._corners, self._position, self._angle = corners, position, angle
        self._triangles = corners.triangles
        self._places: dict[int, tuple[float, float, float]] = {}
        self._around_of: dict[int, set[int]] = {}
        self._marked = seams(corners)
        on, straight = on_seams(corners, vertices["position"], self._marked)
        border = np.zeros(vertices.count, np.bool_)
        at = corners.border_corners()
        for step in (1, 2):
            border[corners.vertex[at - at % 3 + (at + step) % 3]] = True
        fixed = border.copy()
        if GUARD in vertices:
            fixed |= vertices[GUARD][:, 0] > 0
        self._fixed, self._on, self._straight, self._border = fixed, on, straight, border
        self._busy: set[int] = set()
        self._joins: list[tuple[int, int, int]] = []
        self._turns: list[int] = []

    @property
    def touched(self) -> set[int]:
        """Vertices at whatever changes."""
        return self._busy

    def better(self, slot: int, joins: bool) -> None:
        """Find what makes one triangle better, if anything does."""
        rows = self._triangles[slot].tolist()
        place = self._position[rows]
        side = [float(np.linalg.norm(place[(k + 2) % 3] - place[(k + 1) % 3])) for k in range(3)]
        best, what = 0.0, None
        # what is flat loses its longest edge; what is short is joined, or loses one of its two long ones
        order = sorted(range(3), key=lambda k: -side[k])
        for k in order[: 1 if side[order[2]] > NEEDLE * side[order[0]] else 2]:
            gain = self._turn_gain(slot, k)
            if gain > best:
                best, what = gain, ("turn", 3 * slot + k, 0)
        k = int(np.argmin(side))
        a, b = rows[(k + 1) % 3], rows[(k + 2) % 3]
        for gone, stays in ((a, b), (b, a)) if joins else ():
            gain = self._join_gain(slot, k, gone, stays)
            if gain > best:
                best, what = gain, ("join", gone, stays)
        if what is None:
            return
        if what[0] == "turn":
            corner = what[1]
            across = int(self._corners.opposite[corner])
            self._turns.append(corner)
            self._busy.update(rows, self._triangles[across // 3].tolist())
        else:
            self._joins.append((what[1], what[2], slot))
            self._busy.update(self._around(what[1]))

    def relieved(self, row: int, limit: float, joins: bool) -> None:
        """Turn one of too many edges at a vertex away from it, where no triangle gets thin by it."""
        best, found = 0.0, -1
        for corner in self._corners.ring(row).tolist():
            for step in (1, 2):
                side = corner - corner % 3 + (corner + step) % 3
                gain = self._turn_gain(side // 3, side % 3, limit)
                if gain > best:
                    best, found = gain, side
        pair = (-1, -1)
        if joins and found < 0:  # a neighbour joined with one that both have takes an edge away as well
            for gone in self._around(row) - {row}:
                for stays in (self._around(gone) & self._around(row)) - {gone, row}:
                    gain = 0.0 if self._on[gone] else self._join_gain(0, 0, gone, stays, limit)
                    if gain > best:
                        best, pair = gain, (gone, stays)
        if pair[0] >= 0:
            self._joins.append((*pair, 0))
            self._busy.update(self._around(pair[0]))
        if found < 0:
            return
        across = int(self._corners.opposite[found])
        self._turns.append(found)
        self._busy.update(self._triangles[found // 3].tolist(), self._triangles[across // 3].tolist())

    def _around(self, row: int) -> set[int]:
        found = self._around_of.get(row)
        if found is None:
            found = set(self._triangles[self._corners.ring(row) // 3].reshape(-1).tolist())
            self._around_of[row] = found
        return found

    def _turn_gain(self, slot: int, k: int, least: float = 0.0) -> float:
        # degrees that the smallest angle grows by; with `least`, what is left of it where it stays above that
        across = int(self._corners.opposite[3 * slot + k])
        if across < 0 or self._marked[slot, k]:
            return 0.0
        other = across // 3
        t, u = self._triangles[slot], self._triangles[other]
        p, a, b, q = int(t[k]), int(t[(k + 1) % 3]), int(t[(k + 2) % 3]), int(u[across % 3])
        if self._busy & {p, a, b, q} or (self._fixed[[p, a, b, q]] & ~self._border[[p, a, b, q]]).any():
            return 0.0
        if self._border[p] and self._border[q]:
            return 0.0  # beyond the border of a piece they may be joined already
        if q in self._around(p) or max(len(self._around(p)), len(self._around(q))) - 1 >= MOST_EDGES:
            return 0.0
        made = [(p, a, q), (p, q, b)]
        smallest = self._smallest(made)
        if least:
            gain = smallest if smallest >= least else 0.0
        else:
            gain = smallest - min(float(self._angle[slot]), float(self._angle[other]))
        return gain if gain > 0 and self._alike([t.tolist(), u.tolist()], made) else 0.0

    def _join_gain(self, slot: int, k: int, gone: int, stays: int, least: float = 0.0) -> float:
        if self._fixed[gone] or (self._on[gone] and not (self._straight[gone] and self._marked[slot, k])):
            return 0.0
        corners = self._corners.ring(gone)
        around = set(self._triangles[corners // 3].reshape(-1).tolist())
        other = self._around(stays)
        if self._busy & (around | {stays}) or len((around & other) - {gone, stays}) != 2:
            return 0.0
        if len(around | other) - 4 > MOST_EDGES + 1:
            return 0.0
        if self._border[stays] and self._border[list(around - other)].any():
            return 0.0  # as above
        near = [rows for rows in self._triangles[corners // 3].tolist() if stays not in rows]
        made = [tuple(stays if row == gone else row for row in rows) for rows in near]
        if not made:
            return 0.0
        smallest = self._smallest(made)
        gain = (smallest if smallest >= least else 0.0) if least else smallest - float(self._angle[corners // 3].min())
        return gain if gain > 0 and self._alike(near, made) else 0.0

    def _smallest(self, triangles: Iterable[Sequence[int]]) -> float:
        # smallest angle, degrees
        out = 180.0
        for rows in triangles:
            a, b, c = (self._place(row) for row in rows)
            sides = sorted((math.dist(a, b), math.dist(b, c), math.dist(c, a)))
            if not sides[0] > 0:
                return 0.0
            cosine = (sides[1] ** 2 + sides[2] ** 2 - sides[0] ** 2) / (2 * sides[1] * sides[2])
            out = min(out, math.degrees(math.acos(max(-1.0, min(1.0, cosine)))))
        return out

    def _place(self, row: int) -> tuple[float, float, float]:
        found = self._places.get(row)
        if found is None:
            x, y, z = self._position[row].tolist()
            found = self._places[row] = (x, y, z)
        return found

    def _facing(self, rows: Sequence[int]) -> tuple[float, float, float]:
        a, b, c = (self._place(row) for row in rows)
        ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        return uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx

    def _alike(self, old: Sequence[Sequence[int]], new: Sequence[Sequence[int]]) -> bool:
        # whether the surface stays about as it is: each triangle beside what it was, or all beside their mean
        before, after = [self._facing(rows) for rows in old], [self._facing(rows) for rows in new]
        if len(old) > 2:
            return all(_beside(a, b) for a, b in zip(before, after, strict=True))
        x, y, z = (sum(way[i] for way in before) for i in range(3))
        return all(_beside((x, y, z), way) for way in (*before, *after))

    def result(self) -> CornerTable | None:
        """The triangles after all that was found; None where nothing was."""
        if not self._joins and not self._turns:
            return None
        corners = self._corners
        if self._turns:
            which = np.zeros(3 * corners.count, np.bool_)
            which[self._turns] = which[corners.opposite[self._turns]] = True
            corners, _ = turn_edges(corners, which.reshape(-1, 3), corners.first_corner.size)
        if not self._joins:
            return corners
        triangles = corners.triangles.copy()
        slots = corners.slots.copy()
        keep = np.ones(corners.count, np.bool_)
        known = slots.names("corner")
        for gone, stays, slot in self._joins:
            ring = corners.ring(gone)
            slot = int(next(c // 3 for c in ring.tolist() if stays in triangles[c // 3]))
            for name in known:
                value = slots[name][slot, int(np.flatnonzero(triangles[slot] == stays)[0])].copy()
                slots[name][ring // 3, ring % 3] = value
            triangles.reshape(-1)[ring] = stays
            self._joined_edges(corners, slots, ring, stays, keep)
        return CornerTable.from_triangles(triangles[keep], corners.first_corner.size, slots.taken(keep))

    def _joined_edges(self, corners, slots, ring, stays, keep) -> None:  # type: ignore[no-untyped-def]
        # two edges of a triangle that goes become one, and say what either said
        for slot in {c // 3 for c in ring.tolist()}:
            at = np.flatnonzero(corners.triangles[slot] == stays)
            if not at.size:
                continue
            keep[slot] = False
            mine = int(next(c % 3 for c in ring.tolist() if c // 3 == slot))
            one, two = (int(corners.opposite[3 * slot + k]) for k in (mine, int(at[0])))
            for name in slots.names("edge"):
                value = max(
                    slots[name][slot, mine], slots[name][slot, int(at[0])], key=lambda v: float(np.abs(v).max())
                )
                for corner in (one, two):
                    if corner >= 0:
                        slots[name][corner // 3, corner % 3] = value


def _beside(a: tuple[float, float, float], b: tuple[float, float, float]) -> bool:
    along = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    return along > BENT * math.hypot(*a) * math.hypot(*b)
