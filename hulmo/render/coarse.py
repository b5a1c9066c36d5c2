"""Coarser copies of a body, for pictures whose pixels are larger than its triangles."""

from collections.abc import Iterator
from itertools import pairwise

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.extent import boxes_meet
from hulmo.core.mesh.vertex_clusters import VertexClusters
from hulmo.render.pieces import PIECE, Pieces, planes_of
from hulmo.render.portions import Portions

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Matrix = NDArray[np.float64]

CELLS = (2.0, 3.5, 6.0, 10.5, 18.0, 32.0)
"""Edges of the cells that one vertex is left in, in mean edges of the body."""

MOST_CELLS = 1 << 20
"""Cells along an axis at the most."""

LARGEST = 1.25
"""Pixels that a cell may cover."""

WORTH = 0.7
"""Share of the triangles of the body itself below which copies are drawn instead: their blocks reach farther than pieces."""

TOGETHER = 8
"""Pieces of a block: what is drawn of one copy."""

AT_ONCE = 1_000_000
"""Vertices, or triangles, between which whoever waits can answer the hand."""


class Coarse:
    """Copies on the vertices that the body has, which move with them; they hold until triangles change.

    A body is cut into blocks of pieces, each of which can be drawn as it is or as any of the copies. Where blocks that are
    drawn differently meet, the coarser one is drawn both ways: no crack is seen.

    Parameters
    ----------
    body : Body
    pieces : Pieces
    grain : float
        Its mean edge, metres.
    """

    def __init__(self, body: Body, pieces: Pieces, grain: float) -> None:
        self._body, self._pieces = body, pieces
        bounds = body.bounds()
        self._low = bounds.low
        self._cells = max(grain, 2.0 * bounds.radius / MOST_CELLS) * np.array(CELLS)
        self._blocks = -(-pieces.count // (TOGETHER * PIECE))
        self._starts: list[NDArray[np.int64]] = []
        self._triangles: dict[int, NDArray[np.int32]] = {}
        self._buffers: dict[int, moderngl.Buffer] = {}
        self._near = self._near_start = np.empty(0, np.int64)
        self._counts = np.empty((0, 0), np.int64)

    def made(self) -> Iterator[None]:
        """Make the copies, some of the work at a time."""
        body, corners, blocks = self._body, self._body.corners, self._blocks
        position, first = body.vertices["position"], corners.first_corner
        rows = np.flatnonzero(first >= 0).astype(np.int32)
        start = np.minimum(np.arange(blocks + 1, dtype=np.int64) * (TOGETHER * PIECE), self._pieces.count)
        triangles = corners.vertex.reshape(-1, 3)
        order = self._pieces.order
        near = []
        for cell in self._cells.tolist():
            clusters = VertexClusters(position, self._low, cell)
            for some in _portions(rows):
                clusters.add(some)
                yield
            stands = np.full(body.vertices.count, -1, np.int32)
            for some in _portions(rows):
                stands[some] = clusters.standing_for(some)
                yield
            kept, ends = [], [np.zeros(1, np.int64)]
            cuts = np.unique(np.append(np.searchsorted(start, np.arange(0, start[-1], AT_ONCE)), (0, blocks)))
            for begin, end in pairwise(cuts.tolist()):
                part = np.empty((int(start[end] - start[begin]), 3), np.int32)
                stop = np.empty(end - begin, np.int64)
                pairs = np.empty((6 * part.shape[0] + 1, 2), np.int32)
                made, met = _kept(
                    triangles, order, start[begin : end + 1], stands, first, self._pieces.place, begin,
                    np.full(blocks, -1, np.int32), part, stop, pairs,
                )  # fmt: skip
                kept.append(part[:made].copy())
                ends.append(stop + ends[-1][-1])
                near.append(pairs[:met].copy())
                yield
            triangles = np.concatenate(kept)
            order = np.arange(triangles.shape[0], dtype=np.int32)
            start = np.concatenate(ends)
            rows = rows[stands[rows] == rows]
            self._starts.append(start)
            self._triangles[len(self._starts)] = triangles
        self._near, self._near_start = _by_block(np.concatenate(near), blocks)
        own = np.minimum(np.arange(blocks + 1, dtype=np.int64) * (TOGETHER * PIECE), self._pieces.count)
        self._counts = np.stack([np.diff(begin) for begin in (own, *self._starts)])
        yield

    def buffer(self, context: moderngl.Context, copy: int) -> moderngl.Buffer:
        """Corners of a copy, 1 and up."""
        if copy not in self._buffers:
            corners = self._triangles.pop(copy)
            self._buffers[copy] = context.buffer(corners) if len(corners) else context.buffer(reserve=12)
        return self._buffers[copy]

    def release(self) -> None:
        """Free the buffers."""
        for buffer in self._buffers.values():
            buffer.release()
        self._buffers.clear()

    def portions(
        self, pieces: Rows, matrix: Matrix, frame: tuple[float, float, float, float], size: tuple[int, int]
    ) -> Portions | None:
        """What to draw so that no cell covers more than a pixel; None where that is hardly less than the pieces.

        Parameters
        ----------
        pieces : (K,) int32
            What `Pieces.within` finds for the matrix and the frame.
        matrix : (4, 4) float64
            From the coordinates of the tables to clip space.
        frame : tuple
            As of `Pieces.within`.
        size : tuple of int
            Pixels of the picture that clip space is.
        """
        low, high = np.empty((self._blocks, 3), np.float32), np.empty((self._blocks, 3), np.float32)
        _reach(self._pieces.boxes.low, self._pieces.boxes.high, self._near, self._near_start, low, high)
        seen = boxes_meet(low, high, planes_of(matrix, frame))
        if not seen.any():
            return None
        copy, finer = self._copies(low, high, seen, matrix, size)
        if not copy[seen].any():
            return None
        counts, blocks = self._counts, np.flatnonzero(seen)
        there = seen & (finer == 0)
        fine = pieces[pieces < self._blocks * TOGETHER]
        drawn = [self._pieces.portions(fine[there[fine // TOGETHER]])]
        for i, start in enumerate(self._starts, 1):
            those = blocks[((copy[blocks] == i) | (finer[blocks] == i)) & (counts[i, blocks] > 0)]
            first, count = start[those].astype(np.int32), counts[i, those].astype(np.int32)
            drawn.append(Portions(np.full(those.size, i, np.int32), first, count, low[those], high[those]))
        out = Portions.joined(drawn)
        return out if out.count.sum() < WORTH * pieces.size * PIECE else None

    def _copies(
        self, low: Points, high: Points, seen: NDArray[np.bool_], matrix: Matrix, size: tuple[int, int]
    ) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        # the copy that each block is drawn by, and one that it is drawn by as well, beside a block that is drawn finer
        ahead = matrix[3]
        box_low, box_high = low.astype(np.float64), high.astype(np.float64)
        away = np.minimum(box_low * ahead[:3], box_high * ahead[:3]).sum(axis=1) + ahead[3]
        pixels = max(np.linalg.norm(matrix[0, :3]) * size[0], np.linalg.norm(matrix[1, :3]) * size[1]) / 2
        copy = (self._cells[:, None] * pixels <= LARGEST * np.maximum(away, 0.0)).sum(axis=0)
        finer = np.empty_like(copy)
        _finest(np.where(seen, copy, len(CELLS)), self._near, self._near_start, finer)
        finer = np.minimum(finer, copy)
        counts, blocks = self._counts, np.flatnonzero(seen)
        two = blocks[finer[blocks] < copy[blocks]]
        mixed = counts[copy[blocks], blocks].sum() + counts[finer[two], two].sum()
        least = int(copy[seen].min())
        if counts[least, blocks].sum() <= mixed:  # as finely as the finest, and nothing twice
            copy = finer = np.full(self._blocks, least)
        return copy, finer


def _portions(rows: Rows) -> Iterator[Rows]:
    for begin in range(0, rows.size, AT_ONCE):
        yield rows[begin : begin + AT_ONCE]


def _by_block(pairs: Rows, blocks: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    # neighbours of every block, itself among them, block by block; and where those of each begin
    own = np.arange(blocks, dtype=np.int64)
    one, other = pairs[:, 0].astype(np.int64), pairs[:, 1].astype(np.int64)
    key = np.unique(np.concatenate((one * blocks + other, other * blocks + one, own * blocks + own)))
    return key % blocks, np.searchsorted(key, own * blocks)


@kernel(
    "UniTuple(int64, 2)(int32[:,::1], int32[::1], int64[::1], int32[::1], int32[::1], int32[::1], int64, int32[::1],"
    " int32[:,::1], int64[::1], int32[:,::1])"
)
def _kept(
    triangles: NDArray[np.int32], order: Rows, start: NDArray[np.int64], stands: Rows, first: Rows, place: Rows,
    block: int, met: Rows, out: NDArray[np.int32], stop: NDArray[np.int64], pairs: NDArray[np.int32],
) -> tuple[int, int]:  # fmt: skip
    # triangles, block by block, whose corners are stood for by three vertices; and which blocks they reach into
    made, found = 0, 0
    for b in range(stop.size):
        own = np.int32(block + b)
        met[own] = own
        for i in range(start[b], start[b + 1]):
            t = order[i]
            if t >= triangles.shape[0] or triangles[t, 0] < 0:  # freed, or the table has become shorter
                continue
            one, two, three = stands[triangles[t, 0]], stands[triangles[t, 1]], stands[triangles[t, 2]]
            vanishes = one == two or two == three or three == one
            for k in range(6):
                row = triangles[t, k % 3]
                if k >= 3:
                    if vanishes:
                        break
                    row = stands[row]
                other = place[first[row] // 3] // (TOGETHER * PIECE)
                if met[other] != own:
                    met[other] = own
                    pairs[found, 0] = own
                    pairs[found, 1] = other
                    found += 1
            if not vanishes:
                out[made, 0] = one
                out[made, 1] = two
                out[made, 2] = three
                made += 1
        stop[b] = made
    return made, found


@kernel("void(float32[:,::1], float32[:,::1], int64[::1], int64[::1], float32[:,::1], float32[:,::1])")
def _reach(
    piece_low: NDArray[np.float32], piece_high: NDArray[np.float32], near: NDArray[np.int64],
    near_start: NDArray[np.int64], low: NDArray[np.float32], high: NDArray[np.float32],
) -> None:  # fmt: skip
    # boxes of blocks, each with those of the blocks that its triangles reach into
    own_low, own_high = np.empty_like(low), np.empty_like(high)
    for b in range(low.shape[0]):
        for axis in range(3):
            own_low[b, axis] = piece_low[b * TOGETHER, axis]
            own_high[b, axis] = piece_high[b * TOGETHER, axis]
        for piece in range(b * TOGETHER + 1, min((b + 1) * TOGETHER, piece_low.shape[0])):
            for axis in range(3):
                own_low[b, axis] = min(own_low[b, axis], piece_low[piece, axis])
                own_high[b, axis] = max(own_high[b, axis], piece_high[piece, axis])
    for b in range(low.shape[0]):
        low[b] = own_low[b]
        high[b] = own_high[b]
        for i in range(near_start[b], near_start[b + 1] if b + 1 < near_start.size else near.size):
            for axis in range(3):
                low[b, axis] = min(low[b, axis], own_low[near[i], axis])
                high[b, axis] = max(high[b, axis], own_high[near[i], axis])


@kernel("void(int64[::1], int64[::1], int64[::1], int64[::1])")
def _finest(
    copy: NDArray[np.int64], near: NDArray[np.int64], near_start: NDArray[np.int64], out: NDArray[np.int64]
) -> None:
    # the least of each block's and its neighbours'
    for b in range(copy.size):
        out[b] = copy[b]
        for i in range(near_start[b], near_start[b + 1] if b + 1 < near_start.size else near.size):
            out[b] = min(out[b], copy[near[i]])
