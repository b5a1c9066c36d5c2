"""Which place of the surface every texel of an image shows."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.workers import WORKERS, by_pieces

Figures = NDArray[np.float64]
Weights = NDArray[np.float32]
Triangles = NDArray[np.int32]
Counts = NDArray[np.uint16]

MOST_COUNTED = 65535


BAND = 64
"""Rows of an image that one thread fills at the least."""


@dataclass(frozen=True)
class Texels:
    """Places of the surface by texel.

    Attributes
    ----------
    triangle : (H, W) int32
        Slot of the triangle, -1 where none reaches the texel's square.
    weight : (H, W, 2) float32
        Shares of its second and third corner, of the place nearest to the texel's middle.
    reached : int
        Texels that some triangle reaches, however little.
    counts : (H, W) uint16 or None
        Triangles that cover the middle of a texel; of those that share an edge on it, one.
    """

    triangle: Triangles
    weight: Weights
    reached: int
    counts: Counts | None


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
    weight = np.zeros((height, width, 2), np.float32)
    away = np.full((height, width), np.inf, np.float32)
    covered = np.zeros((height, width) if counts else (1, 1), np.uint16)
    at = np.ascontiguousarray(uv * np.array([width, height], np.float64))
    names = np.arange(uv.shape[0], dtype=np.int32) if slots is None else np.ascontiguousarray(slots, np.int32)
    bands = np.zeros(height, np.int64)

    def lay(rows: slice) -> None:
        bands[rows.start] = _lay(at, names, triangle, weight, away, covered, counts, rows.start, min(rows.stop, height))

    by_pieces(lay, height, max(-(-height // WORKERS), BAND))
    reached = int(bands.sum())
    return Texels(triangle, weight, reached, covered if counts else None)


def with_margin(triangle: Triangles, margin: int) -> Triangles:
    """(H W,) which texel each one takes its value from: itself, or the nearest that has one, up to so many texels off; -1."""
    height, width = triangle.shape
    out = np.where(triangle.reshape(-1) >= 0, np.arange(height * width, dtype=np.int32), np.int32(-1))
    _spread(out, width, height, margin)
    return out


@part_of_kernels
def _nearest(x, y, t):  # type: ignore[no-untyped-def]
    # shares of the second and third corner of the place of a flat triangle's rim that is nearest, and its distance squared
    best, one, two = np.inf, 0.0, 0.0
    for k in range(3):
        ax, ay = t[k, 0], t[k, 1]
        n = (k + 1) % 3
        dx, dy = t[n, 0] - ax, t[n, 1] - ay
        size = dx * dx + dy * dy
        share = 0.0
        if size > 0.0:
            share = min(max(((x - ax) * dx + (y - ay) * dy) / size, 0.0), 1.0)
        px, py = ax + share * dx - x, ay + share * dy - y
        off = px * px + py * py
        if off < best:
            best = off
            here, there = 1.0 - share, share
            one = here if k == 1 else (there if n == 1 else 0.0)
            two = here if k == 2 else (there if n == 2 else 0.0)
    return best, one, two


@part_of_kernels
def _meets(t, area, left, top):  # type: ignore[no-untyped-def]
    # whether a triangle reaches into the square of a texel: none of its three edges has all of the square outside
    turn = 1.0 if area >= 0.0 else -1.0
    for k in range(3):
        n = (k + 1) % 3
        dx, dy = (t[n, 0] - t[k, 0]) * turn, (t[n, 1] - t[k, 1]) * turn
        # the corner of the square farthest inward
        x = left + (1.0 if dy < 0.0 else 0.0)
        y = top + (1.0 if dx > 0.0 else 0.0)
        if dx * (y - t[k, 1]) - dy * (x - t[k, 0]) < 0.0:
            return False
    return True


@part_of_kernels
def _reach(t, row, low, high):  # type: ignore[no-untyped-def]
    # from where to where a triangle reaches between a line of the image and the next, and rather a little farther
    if high - low < 4.0:
        return low, high
    left, right = high, low
    for k in range(3):
        n = (k + 1) % 3
        ax, ay, bx, by = t[k, 0], t[k, 1], t[n, 0], t[n, 1]
        if min(ay, by) > row + 1.0 or max(ay, by) < row:
            continue
        if ay == by:
            left, right = min(left, ax, bx), max(right, ax, bx)
            continue
        for line in (row, row + 1.0):
            share = min(max((line - ay) / (by - ay), 0.0), 1.0)
            x = ax + share * (bx - ax)
            left, right = min(left, x), max(right, x)
    slack = 1e-9 * (high - low) + 1e-9
    return max(left - slack, low), min(right + slack, high)


@kernel(
    "int64(float64[:,:,::1], int32[::1], int32[:,::1], float32[:,:,::1], float32[:,::1], uint16[:,::1], boolean, "
    "int64, int64)"
)
def _lay(
    at: Figures, names: Triangles, triangle: Triangles, weight: Weights, away: Weights, counts: Counts, wanted: bool,
    begin: int, end: int,
) -> int:  # fmt: skip
    # into the rows from one to before another; how many texels are reached there
    width = triangle.shape[1]
    reached = 0
    for m in range(at.shape[0]):
        t = at[m]
        low_x, high_x = min(t[0, 0], t[1, 0], t[2, 0]), max(t[0, 0], t[1, 0], t[2, 0])
        low_y, high_y = min(t[0, 1], t[1, 1], t[2, 1]), max(t[0, 1], t[1, 1], t[2, 1])
        if not (high_x >= 0.0 and low_x <= width and high_y >= begin and low_y <= end):
            continue
        area = (t[1, 0] - t[0, 0]) * (t[2, 1] - t[0, 1]) - (t[1, 1] - t[0, 1]) * (t[2, 0] - t[0, 0])
        for row in range(max(int(np.floor(low_y)), begin), min(int(np.floor(high_y)) + 1, end)):
            left, right = _reach(t, float(row), low_x, high_x)
            for column in range(max(int(np.floor(left)), 0), min(int(np.floor(right)) + 1, width)):
                if not _meets(t, area, float(column), float(row)):
                    continue
                x, y = column + 0.5, row + 0.5
                inside = area != 0.0
                rule = inside
                second = third = 0.0
                for k in range(3):
                    n, o = (k + 1) % 3, (k + 2) % 3
                    dx, dy = t[o, 0] - t[n, 0], t[o, 1] - t[n, 1]
                    edge = dx * (y - t[n, 1]) - dy * (x - t[n, 0])
                    if (edge < 0.0) != (area < 0.0) and edge != 0.0:
                        inside = False
                        rule = False
                    if (
                        edge == 0.0 or area == 0.0
                    ):  # on an edge: to the triangle that the edge is an upper or left one of
                        turn = 1.0 if area > 0.0 else -1.0
                        rule = rule and (dy * turn < 0.0 or (dy == 0.0 and dx * turn > 0.0))
                    if k == 1:
                        second = edge
                    elif k == 2:
                        third = edge
                if wanted and rule and counts[row, column] < MOST_COUNTED:
                    counts[row, column] += 1
                off = one = two = 0.0
                if inside:
                    if away[row, column] > 0.0:
                        one, two = second / area, third / area
                else:
                    off, one, two = _nearest(x, y, t)
                    off += 1e-12
                if triangle[row, column] < 0:
                    reached += 1
                if off < away[row, column]:
                    away[row, column] = off
                    triangle[row, column] = names[m]
                    weight[row, column, 0], weight[row, column, 1] = one, two
    return reached


@kernel("void(int32[::1], int64, int64, int64)")
def _spread(source: Triangles, width: int, height: int, margin: int) -> None:
    # ring by ring from what has a value
    queue = np.empty(source.size, np.int32)
    end = 0
    for at in range(source.size):
        if source[at] >= 0:
            row, column = at // width, at % width
            edge = False
            for dy in range(-1, 2):
                for dx in range(-1, 2):
                    y, x = row + dy, column + dx
                    if 0 <= y < height and 0 <= x < width and source[y * width + x] < 0:
                        edge = True
            if edge:
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
