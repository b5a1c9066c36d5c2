"""What each cell of a grid is cut from: which triangles of a body, and a mark that changes where any of them does."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.topology.cut_planes import CLOSE
from hulmo.core.workers import by_pieces

Cell = tuple[int, ...]
Words = NDArray[np.uint32]
Marks = NDArray[np.uint64]

PIECE = 200_000
"""Rows that one thread looks at a time."""

RINGS = 2.0
"""Longest edges that triangles may lie off a cell: all around those that reach into it are among its own, so that normals of
what is cut there are what they are in whole."""

MOST = 4
"""Times the triangles of the body that all cells together may be made of: where each reaches over many, nothing is gained."""

FARTHEST = 1e8
"""Cells from zero that are still counted."""

ROUNDS = 8
"""Times that triangles are added so that no two parts of what is picked touch in a single vertex."""


@dataclass(frozen=True, eq=False)
class CellSources:
    """Triangles that cells are made of, with those around them.

    Attributes
    ----------
    cells : list of tuple of int
        Ascending. Some that triangles only come near to may turn out to be empty.
    marks : list of bytes
        Of each: of all that is known of its triangles, in order.
    begin : (K + 1,) int64
    triangle : (L,) int32
        Slots of the triangles of each cell, from `begin`, ascending.
    """

    cells: list[Cell]
    marks: list[bytes]
    begin: NDArray[np.int64]
    triangle: NDArray[np.int32]

    def of(self, corners: CornerTable, which: list[int]) -> NDArray[np.int64] | None:
        """(T,) slots of the triangles of some cells, ascending, and of a few more, so that they are a surface by themselves;
        None where that takes too many."""
        chosen = np.zeros(corners.count, np.bool_)
        for i in which:
            chosen[self.triangle[self.begin[i] : self.begin[i + 1]]] = True
        for _ in range(ROUNDS):
            starts = np.zeros(corners.first_corner.size, np.int32)
            _starts(corners.vertex, corners.opposite, chosen, starts)
            torn = starts > 1
            if not torn.any():
                return np.flatnonzero(chosen)
            chosen |= torn[corners.triangles].any(axis=1)
        return None


def cell_sources(body: Body, side: float, ways: tuple[int, ...]) -> CellSources | None:
    """What the cells of a grid of the world are made of.

    Parameters
    ----------
    body : Body
        Without freed slots.
    side : float
        Metres.
    ways : tuple of int
        Axes that the grid goes along.

    Returns
    -------
    CellSources or None
        None where triangles are as large as cells.
    """
    position, corners = body.vertices["position"], body.corners
    axes, origin = np.array(ways), np.array(body.origin)[list(ways)]
    low, high = (np.empty((corners.count, axes.size), np.int32) for _ in range(2))
    wide = np.zeros(-(-corners.count // PIECE))

    def widest(rows: slice) -> None:
        wide[rows.start // PIECE] = _widest(position, corners.vertex[3 * rows.start : 3 * rows.stop])

    by_pieces(widest, corners.count, PIECE)
    widest_edge = float(wide.max(initial=0.0))
    if widest_edge >= side:  # then what is cut first depends on all of the body
        return None
    if max(float(np.abs(place).max(initial=0.0)) for place in (position, origin)) / side > FARTHEST:
        return None
    near = (RINGS + 2.0 * CLOSE) * widest_edge  # what lies very near a border may stay on its other side

    def span(rows: slice) -> None:
        vertex = corners.vertex[3 * rows.start : 3 * rows.stop]
        _spans(position, vertex, axes, origin, side, near, low[rows], high[rows])

    by_pieces(span, corners.count, PIECE)
    first, last = low_high(low)[0].astype(np.int64), low_high(high)[1].astype(np.int64)
    shape = last - first + 1
    if float(np.prod(shape.astype(np.float64))) > MOST * corners.count + 1e6:
        return None
    count = np.zeros(int(np.prod(shape)) + 1, np.int64)
    if _count(low, high, first, shape, count, MOST * corners.count) < 0:
        return None
    there = np.flatnonzero(count[:-1])
    begin = np.concatenate(([0], np.cumsum(count[:-1][there])))
    at = np.zeros_like(count)
    at[there] = begin[:-1]
    triangle = np.empty(int(begin[-1]), np.int32)
    _fill(low, high, first, shape, at, triangle)
    marks = np.empty((there.size, 2), np.uint64)
    _joined(_triangle_marks(body), begin, triangle, marks)
    cells = np.stack(np.unravel_index(there, tuple(shape.tolist())), axis=1) + first
    return CellSources([tuple(cell) for cell in cells.tolist()], [mark.tobytes() for mark in marks], begin, triangle)


def _triangle_marks(body: Body) -> Marks:
    # (M, 2) of all that is known of each triangle and its corners
    vertices, corners = body.vertices, body.corners
    rows = np.zeros((vertices.count, 2), np.uint64)
    for name in sorted(vertices.names):
        _taken_up(rows, vertices[name])
    out = np.zeros((corners.count, 2), np.uint64)

    def begin(part: slice) -> None:
        _of_corners(rows, corners.vertex, corners.opposite, part.start, out[part])

    by_pieces(begin, corners.count, PIECE)
    for name in sorted(corners.slots.names()):
        _taken_up(out, corners.slots[name].reshape(corners.count, -1))
    return out


def _taken_up(marks: Marks, values: NDArray[np.float32]) -> None:
    words = np.ascontiguousarray(values, np.float32).view(np.uint32)
    by_pieces(lambda part: _mix(marks[part], words[part]), len(marks), PIECE)


@part_of_kernels
def _stirred(mark, word, prime):  # type: ignore[no-untyped-def]
    # a word more, as in the last steps of MurmurHash3 (Appleby 2011): every bit of it reaches all others
    mark = (mark ^ word) * prime
    return mark ^ (mark >> np.uint64(33))


@part_of_kernels
def _both(marks, row, word):  # type: ignore[no-untyped-def]
    marks[row, 0] = _stirred(marks[row, 0] + np.uint64(1), word, np.uint64(0xFF51AFD7ED558CCD))
    marks[row, 1] = _stirred(marks[row, 1] + np.uint64(2), word, np.uint64(0xC4CEB9FE1A85EC53))


@kernel("void(uint64[:,::1], uint32[:,::1])")
def _mix(marks: Marks, words: Words) -> None:
    for row in range(words.shape[0]):
        for i in range(words.shape[1]):
            _both(marks, row, np.uint64(words[row, i]))


@kernel("void(uint64[:,::1], int32[::1], int32[::1], int64, uint64[:,::1])")
def _of_corners(rows: Marks, vertex: NDArray[np.int32], opposite: NDArray[np.int32], begin: int, out: Marks) -> None:
    for t in range(out.shape[0]):
        for k in range(3):
            corner = 3 * (begin + t) + k
            _both(out, t, rows[vertex[corner], 0])
            _both(out, t, rows[vertex[corner], 1] + np.uint64(opposite[corner] < 0))


@kernel("void(uint64[:,::1], int64[::1], int32[::1], uint64[:,::1])")
def _joined(each: Marks, begin: NDArray[np.int64], triangle: NDArray[np.int32], out: Marks) -> None:
    for cell in range(out.shape[0]):
        out[cell, 0] = np.uint64(begin[cell + 1] - begin[cell])
        out[cell, 1] = out[cell, 0]
        for i in range(begin[cell], begin[cell + 1]):
            _both(out, cell, each[triangle[i], 0])
            _both(out, cell, each[triangle[i], 1])


@kernel("float64(float32[:,::1], int32[::1])")
def _widest(position: NDArray[np.float32], vertex: NDArray[np.int32]) -> float:
    # how far an edge reaches along any axis at the most
    out = 0.0
    for t in range(vertex.size // 3):
        for axis in range(3):
            a, b = position[vertex[3 * t], axis], position[vertex[3 * t + 1], axis]
            c = position[vertex[3 * t + 2], axis]
            out = max(out, np.float64(max(a, b, c)) - np.float64(min(a, b, c)))
    return out


@kernel("void(float32[:,::1], int32[::1], int64[::1], float64[::1], float64, float64, int32[:,::1], int32[:,::1])")
def _spans(
    position: NDArray[np.float32], vertex: NDArray[np.int32], axes: NDArray[np.int64], origin: NDArray[np.float64],
    side: float, near: float, low: NDArray[np.int32], high: NDArray[np.int32],
) -> None:  # fmt: skip
    # first and last cell along each way that triangles reach or come near to
    for t in range(low.shape[0]):
        for i in range(axes.size):
            a, b = position[vertex[3 * t], axes[i]], position[vertex[3 * t + 1], axes[i]]
            c = position[vertex[3 * t + 2], axes[i]]
            low[t, i] = np.int32(np.floor((np.float64(min(a, b, c)) + origin[i] - near) / side))
            high[t, i] = np.int32(np.floor((np.float64(max(a, b, c)) + origin[i] + near) / side))


@kernel("int64(int32[:,::1], int32[:,::1], int64[::1], int64[::1], int64[::1], int64)")
def _count(
    low: NDArray[np.int32], high: NDArray[np.int32], first: NDArray[np.int64], shape: NDArray[np.int64],
    count: NDArray[np.int64], most: int,
) -> int:  # fmt: skip
    # triangles of each cell; -1 where they are more than so many together
    total = 0
    for t in range(low.shape[0]):
        cells = 1
        for i in range(low.shape[1]):
            cells *= high[t, i] - low[t, i] + 1
        total += cells
        if total > most:
            return -1
        for k in range(cells):
            count[_cell(low, high, first, shape, t, k)] += 1
    return total


@kernel("void(int32[:,::1], int32[:,::1], int64[::1], int64[::1], int64[::1], int32[::1])")
def _fill(
    low: NDArray[np.int32], high: NDArray[np.int32], first: NDArray[np.int64], shape: NDArray[np.int64],
    at: NDArray[np.int64], triangle: NDArray[np.int32],
) -> None:  # fmt: skip
    for t in range(low.shape[0]):
        cells = 1
        for i in range(low.shape[1]):
            cells *= high[t, i] - low[t, i] + 1
        for k in range(cells):
            cell = _cell(low, high, first, shape, t, k)
            triangle[at[cell]] = t
            at[cell] += 1


@part_of_kernels
def _cell(low, high, first, shape, t, k):  # type: ignore[no-untyped-def]
    # number of the k-th cell that a triangle reaches into
    out, step = 0, 1
    for i in range(low.shape[1] - 1, -1, -1):
        wide = high[t, i] - low[t, i] + 1
        out += (low[t, i] - first[i]) * step
        if wide > 1:
            out += k % wide * step
            k //= wide
        step *= shape[i]
    return out


@kernel("void(int32[::1], int32[::1], boolean[::1], int32[::1])")
def _starts(
    vertex: NDArray[np.int32], opposite: NDArray[np.int32], chosen: NDArray[np.bool_], starts: NDArray[np.int32]
) -> None:
    # how many fans of chosen triangles begin at each vertex
    for t in range(chosen.size):
        if not chosen[t]:
            continue
        for k in range(3):
            across = opposite[3 * t + (k + 2) % 3]
            if across < 0 or not chosen[across // 3]:
                starts[vertex[3 * t + k]] += 1
