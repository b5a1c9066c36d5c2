"""A body's triangles in pieces that hang together in space, so that only those are drawn that can be seen."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.extent import Extent, PieceBoxes
from hulmo.core.mesh.row_ranges import row_ranges
from hulmo.core.mesh.tree_build import morton_order

Rows = NDArray[np.int32]
Depths = NDArray[np.float64]

SURELY = 1e-6
"""Depth beyond which something lies behind something else, however depth is rounded."""

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

    def in_view(self, matrix: NDArray[np.float64], frame: tuple[float, float, float, float]) -> list[tuple[int, int]]:
        """First place and number of triangles of what may be seen within a frame; neighbours are joined; see `within`."""
        return self.runs(self.within(matrix, frame))

    def within(self, matrix: NDArray[np.float64], frame: tuple[float, float, float, float]) -> Rows:
        """Pieces of which something may be seen within a frame, ascending.

        Parameters
        ----------
        matrix : (4, 4) float64
            From the coordinates of the tables to clip space.
        frame : tuple
            Left, lower, right and upper edge, -1 to 1 over the picture.
        """
        left, lower, right, upper = frame
        planes = np.stack((
            matrix[0] - left * matrix[3], right * matrix[3] - matrix[0],
            matrix[1] - lower * matrix[3], upper * matrix[3] - matrix[1],
            matrix[2] + matrix[3], matrix[3] - matrix[2],
        ))  # fmt: skip
        return np.flatnonzero(self.boxes.meet(planes)).astype(np.int32)

    def depths(self, pieces: Rows, matrix: NDArray[np.float64]) -> NDArray[np.float64]:
        """(K,) least depth, 0 to 1, that anything of some pieces can have in the depth buffer."""
        ahead, depth = matrix[3], matrix[2]
        low, high = self.boxes.low[pieces].astype(np.float64), self.boxes.high[pieces].astype(np.float64)
        away = np.minimum(low * ahead[:3], high * ahead[:3]).sum(axis=1) + ahead[3]
        if not (ahead[:3] @ ahead[:3]) > 0:  # seen without perspective
            least = np.minimum(low * depth[:3], high * depth[:3]).sum(axis=1) + depth[3]
            return np.asarray(np.clip(least / 2 + 0.5, 0.0, 1.0))
        # depth is a line over the distance ahead, divided by it
        slope = float(depth[:3] @ ahead[:3] / (ahead[:3] @ ahead[:3]))
        lift = float(depth[3] - slope * ahead[3])
        return np.asarray(
            np.where(away > 0, np.clip((slope + lift / np.maximum(away, 1e-12)) / 2 + 0.5, 0.0, 1.0), 0.0)
        )

    def hidden(
        self, pieces: Rows, matrix: NDArray[np.float64], frame: tuple[float, float, float, float], far: Depths
    ) -> NDArray[np.bool_]:
        """(K,) which pieces lie behind what has been drawn.

        Parameters
        ----------
        pieces : (K,) int32
        matrix, frame
            As of `within`.
        far : (rows, columns) float64
            Greatest depth, 0 to 1, in equal fields of the frame, the lowest row first.
        """
        out = np.empty(pieces.size, np.bool_)
        depth = self.depths(pieces, matrix)
        low, high = self.boxes.low[pieces], self.boxes.high[pieces]
        _hidden(low, high, depth, np.ascontiguousarray(matrix), np.array(frame), far, out)
        return out

    def runs(self, pieces: Rows) -> list[tuple[int, int]]:
        """First place and number of triangles of some pieces, ascending; neighbours are joined."""
        out = []
        for begin, end in row_ranges(pieces, 1).tolist():
            first = begin * PIECE
            out.append((first, min(end * PIECE, self.count) - first))
        return out


@kernel(
    "void(float32[:,::1], float32[:,::1], float64[::1], float64[:,::1], float64[::1], float64[:,::1], boolean[::1])"
)
def _hidden(
    low: NDArray[np.float32], high: NDArray[np.float32], depth: NDArray[np.float64], matrix: NDArray[np.float64],
    frame: NDArray[np.float64], far: Depths, out: NDArray[np.bool_],
) -> None:  # fmt: skip
    place = np.empty(3)
    rows, columns = far.shape
    for i in range(depth.size):
        left, lower, right, upper = np.inf, np.inf, -np.inf, -np.inf
        ahead = True
        for corner in range(8):
            for axis in range(3):
                place[axis] = high[i, axis] if corner >> axis & 1 else low[i, axis]
            w = matrix[3, 0] * place[0] + matrix[3, 1] * place[1] + matrix[3, 2] * place[2] + matrix[3, 3]
            ahead = ahead and w > 1e-9
            if not ahead:
                break
            x = (matrix[0, 0] * place[0] + matrix[0, 1] * place[1] + matrix[0, 2] * place[2] + matrix[0, 3]) / w
            y = (matrix[1, 0] * place[0] + matrix[1, 1] * place[1] + matrix[1, 2] * place[2] + matrix[1, 3]) / w
            left, right, lower, upper = min(left, x), max(right, x), min(lower, y), max(upper, y)
        out[i] = ahead
        if not ahead:
            continue
        # one field more on each side, for rounding
        a = int(max((left - frame[0]) / (frame[2] - frame[0]) * columns - 1, 0.0))
        b = int(min((right - frame[0]) / (frame[2] - frame[0]) * columns + 1, columns - 1.0))
        c = int(max((lower - frame[1]) / (frame[3] - frame[1]) * rows - 1, 0.0))
        d = int(min((upper - frame[1]) / (frame[3] - frame[1]) * rows + 1, rows - 1.0))
        for row in range(c, d + 1):
            for column in range(a, b + 1):
                if far[row, column] + SURELY >= depth[i]:
                    out[i] = False
                    break
            if not out[i]:
                break
