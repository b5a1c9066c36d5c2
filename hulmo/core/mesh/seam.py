"""Where borders of several bodies meet: which vertices of them lie in the same place."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.graph import close_pairs, hanging_together
from hulmo.core.mesh.normals import area_vectors

Rows = NDArray[np.int32]
Whole = NDArray[np.int64]
Places = NDArray[np.float64]


@dataclass(frozen=True)
class Seam:
    """Vertices of several bodies that lie in the same places, one of a body at the most in each.

    Attributes
    ----------
    bodies : tuple of Body
    body : (K,) int64
        Which of them each vertex belongs to.
    row : (K,) int32
    place : (K,) int64
        The place that each lies in, ascending from 0; two or more vertices a place.
    """

    bodies: tuple[Body, ...]
    body: Whole
    row: Rows
    place: Whole

    @property
    def count(self) -> int:
        """Places."""
        return int(self.place[-1]) + 1 if self.place.size else 0

    def of(self, which: int) -> tuple[NDArray[np.intp], Rows]:
        """Vertices of one of the bodies: which entries they are, and their rows."""
        at = np.flatnonzero(self.body == which)
        return at, self.row[at]

    def part(self, places: NDArray[np.bool_]) -> "tuple[Seam, NDArray[np.intp]]":
        """The seam at some of its places alone, and which vertices those are."""
        entries = np.flatnonzero(places[self.place])
        number = np.cumsum(places) - 1
        return Seam(self.bodies, self.body[entries], self.row[entries], number[self.place[entries]]), entries

    def positions(self) -> Places:
        """(K, 3) where its vertices lie, metres in the world."""
        out = np.empty((self.row.size, 3))
        for which, body in enumerate(self.bodies):
            at, rows = self.of(which)
            out[at] = body.placed(body.vertices["position"][rows])
        return out

    def values(self, column: str) -> NDArray[np.float32]:
        """(K, width) what its vertices have of a column that all of the bodies have."""
        out = np.zeros((self.row.size, self.bodies[0].vertices.width(column)), np.float32)
        for which, body in enumerate(self.bodies):
            at, rows = self.of(which)
            out[at] = body.vertices[column][rows]
        return out

    def sums(self, values: NDArray[np.floating], chosen: NDArray[np.bool_]) -> tuple[Places, Whole]:
        """(count, width) sums of values over those vertices of each place that are chosen, and how many those are.

        They are added up in the order of the bodies, so that the sum is the same whoever asks.
        """
        total, number = np.zeros((self.count, values.shape[1])), np.zeros(self.count, np.int64)
        np.add.at(total, self.place[chosen], values[chosen].astype(np.float64))
        np.add.at(number, self.place[chosen], 1)
        return total, number


def border_of(body: Body) -> Rows:
    """(K,) rows on the border of a body, ascending."""
    border = body.corners.border_corners()
    ends = [body.corners.vertex[border - border % 3 + (border + step) % 3] for step in (1, 2)]
    return np.unique(np.concatenate(ends)).astype(np.int32)


def seam_between(bodies: Sequence[Body], rows: Sequence[Rows], within: float) -> Seam:
    """Find the vertices of several bodies that lie in the same places.

    Parameters
    ----------
    bodies : sequence of Body
    rows : sequence of (K,) int32
        Which vertices of each are asked; see `border_of`.
    within : float
        Metres that the vertices in one place may lie apart.

    Notes
    -----
    Nearest first: a vertex that comes too close to two others of the same body is joined with the nearer one.
    """
    which = np.repeat(np.arange(len(bodies)), [part.size for part in rows])
    row = np.concatenate([*rows, np.empty(0, np.int32)]).astype(np.int32)
    nothing = Seam(tuple(bodies), which[:0], row[:0], which[:0])
    if not row.size:
        return nothing
    points = np.concatenate(
        [body.placed(body.vertices["position"][part]) for body, part in zip(bodies, rows, strict=True)]
    )
    pairs = close_pairs(points, within)
    pairs = pairs[which[pairs[:, 0]] != which[pairs[:, 1]]]
    if not pairs.size:
        return nothing
    pairs = _nearest_alone(points, which, pairs)
    _, label = hanging_together(pairs[:, 0], pairs[:, 1], row.size)
    joined = np.unique(pairs)
    order = joined[np.lexsort((row[joined], which[joined], label[joined]))]
    first = np.concatenate(([True], np.diff(label[order]) != 0))
    again = np.concatenate(([False], (np.diff(label[order]) == 0) & (np.diff(which[order]) == 0)))
    place = np.cumsum(first) - 1
    keep = ~again
    alone = np.bincount(place[keep], minlength=int(place[-1]) + 1) < 2
    keep &= ~alone[place]
    _, place = np.unique(place[keep], return_inverse=True)
    order = order[keep]
    return Seam(tuple(bodies), which[order], row[order], place.astype(np.int64))


def _nearest_alone(points: Places, which: Whole, pairs: NDArray[np.intp]) -> NDArray[np.intp]:
    # of all pairs that a vertex makes with one other body, the closest
    away = np.linalg.norm(points[pairs[:, 0]] - points[pairs[:, 1]], axis=1)
    order = np.argsort(away, kind="stable")
    pairs = pairs[order]
    keep = np.ones(pairs.shape[0], np.bool_)
    for mine, theirs in ((0, 1), (1, 0)):
        key = pairs[:, mine].astype(np.int64) * (int(which.max()) + 1) + which[pairs[:, theirs]]
        _, first = np.unique(key, return_index=True)
        only = np.zeros(pairs.shape[0], np.bool_)
        only[first] = True
        keep &= only
    return np.asarray(pairs[keep])


def shared_normals(seam: Seam) -> NDArray[np.float32]:
    """(count, 3) unit normals at the places of a seam, of all bodies together as if they were one."""
    area = np.zeros((seam.row.size, 3))
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        corners = body.corners
        if rows.size:
            area[at] = area_vectors(
                body.vertices["position"], corners.vertex, corners.opposite, corners.first_corner,
                np.ascontiguousarray(rows),
            )  # fmt: skip
    total, _ = seam.sums(area, np.ones(seam.row.size, np.bool_))
    size = np.linalg.norm(total, axis=1, keepdims=True)
    return np.where(size > 0, total / np.maximum(size, 1e-300), (0.0, 1.0, 0.0)).astype(np.float32)
