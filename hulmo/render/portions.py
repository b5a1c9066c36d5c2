"""Stretches of a body's triangles, each in a box: what of it is to be drawn."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Depths = NDArray[np.float64]

Runs = list[tuple[int, int, int]]
"""Copy of the body (0: all of its triangles), first triangle and number of triangles of each."""

SURELY = 1e-6
"""Depth beyond which something lies behind something else, however depth is rounded."""


@dataclass(frozen=True, eq=False)
class Portions:
    """Stretches of triangles.

    Attributes
    ----------
    copy : (K,) int32
        0: of the body itself; above: of a coarser copy.
    first, count : (K,) int32
        Ascending within each copy.
    low, high : (K, 3) float32
        Box, in the coordinates of the tables.
    """

    copy: Rows
    first: Rows
    count: Rows
    low: Points
    high: Points

    @property
    def size(self) -> int:
        """How many there are."""
        return int(self.first.size)

    def of(self, chosen: NDArray[np.bool_]) -> "Portions":
        """Some of them."""
        return Portions(self.copy[chosen], self.first[chosen], self.count[chosen], self.low[chosen], self.high[chosen])

    @classmethod
    def joined(cls, parts: "list[Portions]") -> "Portions":
        """All of several, one after the other."""
        return cls(
            np.concatenate([part.copy for part in parts]),
            np.concatenate([part.first for part in parts]),
            np.concatenate([part.count for part in parts]),
            np.concatenate([part.low for part in parts]),
            np.concatenate([part.high for part in parts]),
        )

    def runs(self) -> Runs:
        """What to draw; neighbours are joined."""
        if not self.size:
            return []
        end = self.first + self.count
        apart = np.concatenate(([True], (self.first[1:] != end[:-1]) | (self.copy[1:] != self.copy[:-1])))
        begin = np.flatnonzero(apart)
        last = np.concatenate((begin[1:], [self.size])) - 1
        return list(
            zip(
                self.copy[begin].tolist(),
                self.first[begin].tolist(),
                (end[last] - self.first[begin]).tolist(),
                strict=True,
            )
        )

    def depths(self, matrix: NDArray[np.float64]) -> Depths:
        """(K,) least depth, 0 to 1, that anything of each can have in the depth buffer.

        Parameters
        ----------
        matrix : (4, 4) float64
            From the coordinates of the tables to clip space.
        """
        ahead, depth = matrix[3], matrix[2]
        low, high = self.low.astype(np.float64), self.high.astype(np.float64)
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
        self, depth: Depths, matrix: NDArray[np.float64], frame: tuple[float, float, float, float], far: Depths
    ) -> NDArray[np.bool_]:
        """(K,) which lie behind what has been drawn.

        Parameters
        ----------
        depth : (K,) float64
            As `depths` gives it.
        matrix : (4, 4) float64
        frame : tuple
            Left, lower, right and upper edge, -1 to 1 over the picture.
        far : (rows, columns) float64
            Greatest depth, 0 to 1, in equal fields of the frame, the lowest row first.
        """
        out = np.empty(self.size, np.bool_)
        _hidden(self.low, self.high, depth, np.ascontiguousarray(matrix), np.array(frame), far, out)
        return out


@kernel(
    "void(float32[:,::1], float32[:,::1], float64[::1], float64[:,::1], float64[::1], float64[:,::1], boolean[::1])"
)
def _hidden(
    low: NDArray[np.float32], high: NDArray[np.float32], depth: NDArray[np.float64], matrix: NDArray[np.float64],
    frame: NDArray[np.float64], far: Depths, out: NDArray[np.bool_],
) -> None:  # fmt: skip
    rows, columns = far.shape
    for i in range(depth.size):
        left, lower, right, upper = np.inf, np.inf, -np.inf, -np.inf
        ahead = True
        for corner in range(8):
            p = np.float64(high[i, 0] if corner & 1 else low[i, 0])
            q = np.float64(high[i, 1] if corner & 2 else low[i, 1])
            r = np.float64(high[i, 2] if corner & 4 else low[i, 2])
            w = matrix[3, 0] * p + matrix[3, 1] * q + matrix[3, 2] * r + matrix[3, 3]
            ahead = ahead and w > 1e-9
            if not ahead:
                break
            x = (matrix[0, 0] * p + matrix[0, 1] * q + matrix[0, 2] * r + matrix[0, 3]) / w
            y = (matrix[1, 0] * p + matrix[1, 1] * q + matrix[1, 2] * r + matrix[1, 3]) / w
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
