"""A body's triangles in pieces that hang together in space, so that only those are drawn that can be seen."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.extent import Extent, PieceBoxes
from hulmo.core.mesh.tree_build import morton_order
from hulmo.render.portions import Portions

Rows = NDArray[np.int32]

PIECE = 128
"""Triangles of a piece."""


class Pieces:
    """Where each triangle slot stands in the order of drawing, and the box of each piece of that order.

    A slot keeps its place for good: when its triangle goes elsewhere the box of its piece grows. New slots come last.

    Parameters
    ----------
    body : Body
    """

    def __init__(self, body: Body) -> None:
        self._body = body
        corners = body.corners
        there = corners.vertex[::3] >= 0
        live, freed = np.flatnonzero(there).astype(np.int32), np.flatnonzero(~there).astype(np.int32)
        self.count = corners.count
        """Places that are in use."""
        self.order: Rows = np.concatenate((morton_order(corners.vertex, body.vertices["position"], live), freed))
        """(T,) slot that stands at each place, with room for slots to come."""
        self.place: Rows = np.empty_like(self.order)
        """(T,) place of each slot, with room as well."""
        self.place[self.order] = np.arange(self.order.size, dtype=np.int32)
        self.boxes = PieceBoxes(self.place // PIECE, -(-self.order.size // PIECE))
        self.boxes.add_triangles(self.order, corners.vertex, body.vertices["position"])

    @property
    def bounds(self) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """(3,) lowest and highest corner of all boxes."""
        return self.boxes.low.min(axis=0), self.boxes.high.max(axis=0)

    def fit(self) -> None:
        """Give places to slots that have been made since: what they cost together is that of the tables, now and then."""
        have, now = self.order.size, self._body.corners.count
        self.count = max(self.count, now)
        if now <= have:
            return
        new = np.arange(have, now + now // 4, dtype=np.int32)  # as the buffers grow
        self.order = np.concatenate((self.order, new))
        self.place = np.concatenate((self.place, new))
        boxes = PieceBoxes(self.place // PIECE, -(-self.order.size // PIECE))
        boxes.low[: len(self.boxes.low)] = self.boxes.low
        boxes.high[: len(self.boxes.high)] = self.boxes.high
        self.boxes = boxes

    def reached_by_slots(self, slots: Rows, extent: Extent) -> None:
        """Have the boxes hold some triangles, and add to `extent` how far they reach."""
        self.boxes.add_triangles(slots, self._body.corners.vertex, self._body.vertices["position"], extent)

    def reached_by_rows(self, rows: Rows, extent: Extent) -> None:
        """Have the boxes hold all triangles at some vertices, and add to `extent` how far they reach."""
        corners = self._body.corners
        self.boxes.add_around(
            rows, corners.first_corner, corners.opposite, corners.vertex, self._body.vertices["position"], extent
        )

    def within(self, matrix: NDArray[np.float64], frame: tuple[float, float, float, float]) -> Rows:
        """Pieces of which something may be seen within a frame, ascending.

        Parameters
        ----------
        matrix : (4, 4) float64
            From the coordinates of the tables to clip space.
        frame : tuple
            Left, lower, right and upper edge, -1 to 1 over the picture.
        """
        return np.flatnonzero(self.boxes.meet(planes_of(matrix, frame))).astype(np.int32)

    def portions(self, pieces: Rows) -> Portions:
        """Some pieces, ascending, as they are drawn."""
        first = pieces * np.int32(PIECE)
        count = np.minimum(first + PIECE, self.count) - first
        copy = np.zeros(pieces.size, np.int32)
        return Portions(copy, first, count, self.boxes.low[pieces], self.boxes.high[pieces])


def planes_of(matrix: NDArray[np.float64], frame: tuple[float, float, float, float]) -> NDArray[np.float64]:
    """(6, 4) planes, on the positive side of which lies what may be seen within a frame; as of `Pieces.within`."""
    left, lower, right, upper = frame
    return np.stack((
        matrix[0] - left * matrix[3], right * matrix[3] - matrix[0],
        matrix[1] - lower * matrix[3], upper * matrix[3] - matrix[1],
        matrix[2] + matrix[3], matrix[3] - matrix[2],
    ))  # fmt: skip
