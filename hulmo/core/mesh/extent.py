"""How far some triangles reach: in boxes of pieces of the mesh, and on a picture."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels
from hulmo.core.mesh.one_ring import next_corner, previous_corner, triangle_of

Corners = NDArray[np.int32]
Points = NDArray[np.float32]

NEVER = 1e30
"""Stands for "nothing reaches anywhere" in extents."""


@written_into_kernels
def _seen(x, y, z, matrix, seen):  # type: ignore[no-untyped-def]
    seen[5] = min(seen[5], x)
    seen[6] = min(seen[6], y)
    seen[7] = min(seen[7], z)
    seen[8] = max(seen[8], x)
    seen[9] = max(seen[9], y)
    seen[10] = max(seen[10], z)
    w = matrix[3, 0] * x + matrix[3, 1] * y + matrix[3, 2] * z + matrix[3, 3]
    seen[4] = min(seen[4], w)
    if w > 1e-9:
        across = matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2] * z + matrix[0, 3]
        upward = matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2] * z + matrix[1, 3]
        if across < seen[0] * w:
            seen[0] = across / w
        if across > seen[2] * w:
            seen[2] = across / w
        if upward < seen[1] * w:
            seen[1] = upward / w
        if upward > seen[3] * w:
            seen[3] = upward / w


@written_into_kernels
def _widen(t, vertex, position, piece_of, low, high):  # type: ignore[no-untyped-def]
    piece = piece_of[t]
    for k in range(3):
        row = vertex[3 * t + k]
        for axis in range(3):
            at = position[row, axis]
            if at < low[piece, axis]:
                low[piece, axis] = at
            if at > high[piece, axis]:
                high[piece, axis] = at


@written_into_kernels
def _hold(t, at, piece_of, low, high):  # type: ignore[no-untyped-def]
    piece = piece_of[t]
    for axis in range(3):
        if at[axis] < low[piece, axis]:
            low[piece, axis] = at[axis]
        if at[axis] > high[piece, axis]:
            high[piece, axis] = at[axis]


@written_into_kernels
def _look(row, position, matrix, seen):  # type: ignore[no-untyped-def]
    _seen(np.float64(position[row, 0]), np.float64(position[row, 1]), np.float64(position[row, 2]), matrix, seen)


@kernel(
    "void(int32[::1], int32[::1], float32[:,::1], int32[::1], float32[:,::1], float32[:,::1], float64[:,::1], float64[::1])"
)
def _of_triangles(
    slots: Corners,
    vertex: Corners,
    position: Points,
    piece_of: Corners,
    low: Points,
    high: Points,
    matrix: NDArray[np.float64],
    seen: NDArray[np.float64],
) -> None:
    for i in range(slots.size):
        t = np.int64(slots[i])
        if vertex[3 * t] < 0:
            continue
        _widen(t, vertex, position, piece_of, low, high)
        for k in range(3):
            _look(vertex[3 * t + k], position, matrix, seen)


@kernel(
    "void(int32[::1], int32[::1], int32[::1], int32[::1], float32[:,::1], int32[::1], float32[:,::1], float32[:,::1],"
    " float64[:,::1], float64[::1])"
)
def _around_rows(
    rows: Corners,
    first: Corners,
    opposite: Corners,
    vertex: Corners,
    position: Points,
    piece_of: Corners,
    low: Points,
    high: Points,
    matrix: NDArray[np.float64],
    seen: NDArray[np.float64],
) -> None:
    # boxes hold their triangles as they were, so that what has moved is all that may stand out of them
    for i in range(rows.size):
        start = first[rows[i]]
        if start < 0:
            continue
        at = position[rows[i]]
        corner = start
        whole = False
        _look(rows[i], position, matrix, seen)
        while True:
            _hold(triangle_of(corner), at, piece_of, low, high)
            _look(vertex[next_corner(corner)], position, matrix, seen)
            across = opposite[next_corner(corner)]
            if across < 0:
                _look(vertex[previous_corner(corner)], position, matrix, seen)  # the last one of an open fan
                break
            corner = next_corner(across)
            if corner == start:
                whole = True
                break
        corner = start
        while not whole:
            across = opposite[previous_corner(corner)]
            if across < 0:
                break
            corner = previous_corner(across)
            _hold(triangle_of(corner), at, piece_of, low, high)
            _look(vertex[next_corner(corner)], position, matrix, seen)


@kernel("void(float32[:,::1], float64[:,::1], float64[::1])")
def _of_points(points: Points, matrix: NDArray[np.float64], seen: NDArray[np.float64]) -> None:
    for i in range(points.shape[0]):
        _seen(np.float64(points[i, 0]), np.float64(points[i, 1]), np.float64(points[i, 2]), matrix, seen)


@kernel("void(float32[:,::1], float32[:,::1], float64[:,::1], boolean[::1])")
def _meet(low: Points, high: Points, planes: NDArray[np.float64], out: NDArray[np.bool_]) -> None:
    for i in range(low.shape[0]):
        out[i] = low[i, 0] <= high[i, 0]
        for p in range(planes.shape[0]):
            most = planes[p, 3]
            for axis in range(3):
                most += planes[p, axis] * (high[i, axis] if planes[p, axis] > 0.0 else low[i, axis])
            if most < -1e-6 * abs(planes[p, 3]):
                out[i] = False


class Extent:
    """How far what is added to it reaches on a picture.

    Parameters
    ----------
    matrix : (4, 4) float64
        From the coordinates of the points to clip space.
    """

    def __init__(self, matrix: NDArray[np.float64]) -> None:
        self.matrix = np.ascontiguousarray(matrix, np.float64)
        self.seen = np.array([NEVER, NEVER, -NEVER, -NEVER, NEVER, NEVER, NEVER, NEVER, -NEVER, -NEVER, -NEVER])
        """Left, lower, right and upper edge, -1 to 1 within the picture; the least distance along the view; and the box of
        what was added, in its own coordinates."""

    @property
    def empty(self) -> bool:
        """Whether nothing was added."""
        return bool(self.seen[4] == NEVER)

    @property
    def box(self) -> NDArray[np.float64]:
        """(2, 3) lowest and highest corner of what was added."""
        return self.seen[5:].reshape(2, 3)

    def add(self, points: Points) -> None:
        """Add (K, 3) points."""
        _of_points(np.ascontiguousarray(points, np.float32), self.matrix, self.seen)


def boxes_meet(low: Points, high: Points, planes: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(P,) whether each box, given by its corners, reaches to the positive side of all of some planes: (K, 4) normals and
    distances."""
    out = np.empty(low.shape[0], np.bool_)
    _meet(low, high, np.ascontiguousarray(planes, np.float64), out)
    return out


class PieceBoxes:
    """Boxes around pieces of a mesh, that only ever grow.

    Parameters
    ----------
    piece_of : (T,) int32
        Piece of every triangle slot.
    pieces : int
    """

    def __init__(self, piece_of: Corners, pieces: int) -> None:
        self.piece_of = piece_of
        self.low = np.full((pieces, 3), NEVER, np.float32)
        self.high = np.full((pieces, 3), -NEVER, np.float32)

    def meet(self, planes: NDArray[np.float64]) -> NDArray[np.bool_]:
        """(P,) whether each box reaches to the positive side of all of some planes: (K, 4) normals and distances."""
        return boxes_meet(self.low, self.high, planes)

    def add_triangles(self, slots: Corners, vertex: Corners, position: Points, extent: Extent | None = None) -> None:
        """Hold some triangles, and add them to an extent; freed slots are passed over."""
        seen = extent or Extent(np.eye(4))
        _of_triangles(slots, vertex, position, self.piece_of, self.low, self.high, seen.matrix, seen.seen)

    def add_around(
        self, rows: Corners, first: Corners, opposite: Corners, vertex: Corners, position: Points, extent: Extent
    ) -> None:
        """Go on to hold all triangles at some vertices that have moved, and add them to an extent; the cost is that of the
        rows named. Triangles that have come, or have other corners, want `add_triangles`."""
        _around_rows(
            rows, first, opposite, vertex, position, self.piece_of, self.low, self.high, extent.matrix, extent.seen
        )
