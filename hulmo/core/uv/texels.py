"""Which place of the surface every texel of an image shows."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.workers import WORKERS, by_pieces

Figures = NDArray[np.float64]
Weights = NDArray[np.float32]
Triangles = NDArray[np.int32]
Counts = NDArray[np.uint8]
Numbers = NDArray[np.int64]

MOST_COUNTED = 255

BAND = 64
"""Rows of an image that one thread fills at the least."""

PIECE = 1 << 16
"""Texels that one thread looks at at a time."""


class Texels:
    """Places of the surface by texel; made by `texels_of`.

    Attributes
    ----------
    triangle : (H, W) int32
        Slot of the triangle, -1 where none reaches the texel's square.
    reached : int
        Texels that some triangle reaches, however little.
    counts : (H, W) uint8 or None
        Triangles that cover the middle of a texel; of those that share an edge on it, one; 255 are as many or more.
    """

    def __init__(self, at: Figures, slots: Triangles, triangle: Triangles, reached: int, counts: Counts | None) -> None:
        self._at = at
        self._row = np.zeros(int(slots.max(initial=-1)) + 1, np.int32)
        self._row[slots] = np.arange(slots.size, dtype=np.int32)
        self.triangle, self.reached, self.counts = triangle, reached, counts

    def places(self, begin: int, end: int) -> tuple[Numbers, Triangles, Weights]:
        """What is reached in rows of the image, from one to before another.

        Returns
        -------
        texel : (K,) int64
            Number of the texel in the whole image.
        triangle : (K,) int32
        share : (K, 2) float32
            Of its second and third corner, at the place nearest to the texel's middle.
        """
        width = self.triangle.shape[1]
        band = self.triangle[begin:end].reshape(-1)
        texel = np.flatnonzero(band >= 0)
        slot = band[texel]
        texel += begin * width
        share = np.empty((texel.size, 2), np.float32)
        by_pieces(
            lambda some: _shares(self._at, self._row[slot[some]], texel[some], width, share[some]), texel.size, PIECE
        )
        return texel, slot, share


def texels_of(uv: Figures, size: tuple[int, int], slots: Triangles | None = None, counts: bool = False) -> Texels:
    """Lay triangles into an image.

    Parameters
    ----------
    uv : (M, 3, 2) float64
        0 to 1 from left to right and from top to bottom; what lies beyond is left out.
    size : tuple of int
        Width and height, texels.
    slots : (M,) int32, optional
        What stands for each triangle in `Texels.triangle`; its place in `uv` where it is left out.
    counts : bool
        Whether `Texels.counts` is wanted.

    Notes
    -----
    Conservative: a texel belongs to a triangle that reaches any of its square; where several do, to one that covers its
    middle, and otherwise to the nearest.
    """
    width, height = size
    triangle = np.full((height, width), -1, np.int32)
    away = np.full((height, width), np.inf, np.float32)
    covered = np.zeros((height, width) if counts else (1, 1), np.uint8)
    at = np.ascontiguousarray(uv * np.array([width, height], np.float64))
    names = np.arange(uv.shape[0], dtype=np.int32) if slots is None else np.ascontiguousarray(slots, np.int32)
    bands = np.zeros(height, np.int64)

    def lay(rows: slice) -> None:
        bands[rows.start] = _lay(at, names, triangle, away, covered, counts, rows.start, min(rows.stop, height))

    by_pieces(lay, height, max(-(-height // WORKERS), BAND))
    reached = int(bands.sum())
    return Texels(at, names, triangle, reached, covered if counts else None)


def with_margin(there: NDArray[np.bool_], margin: int) -> Triangles:
    """(H W,) which texel each one takes its value from: itself where `there` (H, W), or the nearest that is, up to so many
    texels off; -1."""
    height, width = there.shape
    out = np.where(there.reshape(-1), np.arange(height * width, dtype=np.int32), np.int32(-1))
    _spread(out, width, height, margin)
    return out


@part_of_kernels
def _side(ax, ay, bx, by, x, y):  # type: ignore[no-untyped-def]
    # on which side of a line a place lies, times twice the area of the triangle that it makes with it
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax)


@part_of_kernels
def _touches(ax, ay, bx, by, turn, left, top):  # type: ignore[no-untyped-def]
    # whether some of the square of a texel lies on the inner side of an edge: the corner farthest inward does
    dx, dy = (bx - ax) * turn, (by - ay) * turn
    x, y = left + (1.0 if dy < 0.0 else 0.0), top + (1.0 if dx > 0.0 else 0.0)
    return dx * (y - ay) - dy * (x - ax) >= 0.0


@part_of_kernels
def _mine(side, turn, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    # whether a place belongs to the triangle within an edge; on the edge: if it is an upper or left one
    if side != 0.0:
        return (side < 0.0) == (turn < 0.0)
    dx, dy = (bx - ax) * turn, (by - ay) * turn
    return dy < 0.0 or (dy == 0.0 and dx > 0.0)


@part_of_kernels
def _off(ax, ay, bx, by, x, y):  # type: ignore[no-untyped-def]
    # squared distance of a place from an edge, and the share of the way along it of what is nearest
    dx, dy = bx - ax, by - ay
    size = dx * dx + dy * dy
    share = min(max(((x - ax) * dx + (y - ay) * dy) / size, 0.0), 1.0) if size > 0.0 else 0.0
    px, py = ax + share * dx - x, ay + share * dy - y
    return px * px + py * py, share


@part_of_kernels
def _nearest(ax, ay, bx, by, cx, cy, x, y):  # type: ignore[no-untyped-def]
    # squared distance of a place from a triangle; shares of the second and third corner of what is nearest
    area = _side(ax, ay, bx, by, cx, cy)
    second, third = _side(cx, cy, ax, ay, x, y), _side(ax, ay, bx, by, x, y)
    first = _side(bx, by, cx, cy, x, y)
    turn = 1.0 if area >= 0.0 else -1.0
    if area != 0.0 and first * turn >= 0.0 and second * turn >= 0.0 and third * turn >= 0.0:
        return 0.0, second / area, third / area
    best, share = _off(ax, ay, bx, by, x, y)
    one, two = share, 0.0
    off, share = _off(bx, by, cx, cy, x, y)
    if off < best:
        best, one, two = off, 1.0 - share, share
    off, share = _off(cx, cy, ax, ay, x, y)
    if off < best:
        best, one, two = off, 0.0, 1.0 - share
    return best + 1e-12, one, two


@kernel("void(float64[:,:,::1], int32[::1], int64[::1], int64, float32[:,::1])")
def _shares(at: Figures, row: Triangles, texel: Numbers, width: int, share: Weights) -> None:
    for i in range(texel.size):
        m = row[i]
        x, y = texel[i] % width + 0.5, texel[i] // width + 0.5
        _, one, two = _nearest(at[m, 0, 0], at[m, 0, 1], at[m, 1, 0], at[m, 1, 1], at[m, 2, 0], at[m, 2, 1], x, y)
        share[i, 0], share[i, 1] = one, two


@part_of_kernels
def _clipped(ax, ay, bx, by, row, left, right):  # type: ignore[no-untyped-def]
    # widens a span to what an edge reaches between a line of the image and the next
    if min(ay, by) > row + 1.0 or max(ay, by) < row:
        return left, right
    if ay == by:
        return min(left, ax, bx), max(right, ax, bx)
    one = ax + min(max((row - ay) / (by - ay), 0.0), 1.0) * (bx - ax)
    two = ax + min(max((row + 1.0 - ay) / (by - ay), 0.0), 1.0) * (bx - ax)
    return min(left, one, two), max(right, one, two)


@kernel("int64(float64[:,:,::1], int32[::1], int32[:,::1], float32[:,::1], uint8[:,::1], boolean, int64, int64)")
def _lay(
    at: Figures,
    names: Triangles,
    triangle: Triangles,
    away: Weights,
    counts: Counts,
    wanted: bool,
    begin: int,
    end: int,
) -> int:
    # into the rows from one to before another; how many texels are reached there
    width = triangle.shape[1]
    reached = 0
    for m in range(at.shape[0]):
        ax, ay, bx, by, cx, cy = at[m, 0, 0], at[m, 0, 1], at[m, 1, 0], at[m, 1, 1], at[m, 2, 0], at[m, 2, 1]
        low_x, high_x, low_y, high_y = min(ax, bx, cx), max(ax, bx, cx), min(ay, by, cy), max(ay, by, cy)
        if not (high_x >= 0.0 and low_x <= width and high_y >= begin and low_y <= end):
            continue
        area = _side(ax, ay, bx, by, cx, cy)
        turn = 1.0 if area >= 0.0 else -1.0
        slack = 1e-9 * (high_x - low_x) + 1e-9
        for row in range(max(int(np.floor(low_y)), begin), min(int(np.floor(high_y)) + 1, end)):
            left, right = high_x, low_x
            left, right = _clipped(ax, ay, bx, by, float(row), left, right)
            left, right = _clipped(bx, by, cx, cy, float(row), left, right)
            left, right = _clipped(cx, cy, ax, ay, float(row), left, right)
            left, right = max(left - slack, low_x, 0.0), min(right + slack, high_x, width - 1.0)
            for column in range(int(np.floor(left)), int(np.floor(right)) + 1):
                if not (
                    _touches(ax, ay, bx, by, turn, float(column), float(row))
                    and _touches(bx, by, cx, cy, turn, float(column), float(row))
                    and _touches(cx, cy, ax, ay, turn, float(column), float(row))
                ):
                    continue
                x, y = column + 0.5, row + 0.5
                if wanted and area != 0.0 and counts[row, column] < MOST_COUNTED:
                    mine = (
                        _mine(_side(bx, by, cx, cy, x, y), turn, bx, by, cx, cy)
                        and _mine(_side(cx, cy, ax, ay, x, y), turn, cx, cy, ax, ay)
                        and _mine(_side(ax, ay, bx, by, x, y), turn, ax, ay, bx, by)
                    )
                    if mine:
                        counts[row, column] += 1
                if triangle[row, column] < 0:
                    reached += 1
                if away[row, column] > 0.0:
                    off, _, _ = _nearest(ax, ay, bx, by, cx, cy, x, y)
                    if off < away[row, column]:
                        away[row, column] = off
                        triangle[row, column] = names[m]
    return reached


@kernel("void(int32[::1], int64, int64, int64)")
def _spread(source: Triangles, width: int, height: int, margin: int) -> None:
    # ring by ring from what has a value
    queue = np.empty(source.size, np.int32)
    end = 0
    for row in range(height):
        above, below = max(row - 1, 0) * width, min(row + 1, height - 1) * width
        for column in range(width):
            at = row * width + column
            if source[at] < 0:
                continue
            left, right = max(column - 1, 0), min(column + 1, width - 1)
            least = min(source[above + left], source[above + column], source[above + right])
            least = min(least, source[row * width + left], source[row * width + right])
            if min(least, source[below + left], source[below + column], source[below + right]) < 0:
                queue[end] = at
                end += 1
    begin = 0
    for _ in range(margin):
        stop = end
        for i in range(begin, stop):
            at = queue[i]
            row, column = at // width, at % width
            for dy in range(-1, 2):
                for dx in range(-1, 2):
                    y, x = row + dy, column + dx
                    if 0 <= y < height and 0 <= x < width and source[y * width + x] < 0:
                        source[y * width + x] = source[at]
                        queue[end] = y * width + x
                        end += 1
        begin = stop
        if begin == end:
            break
