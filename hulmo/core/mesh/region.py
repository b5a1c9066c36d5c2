"""The piece of surface that a brush reaches: grown from triangle to triangle, never through the air."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


@dataclass(frozen=True)
class Region:
    """Result of `RegionGrower.grow`.

    Attributes
    ----------
    inside : (K,) int32
        Rows within the radius, ascending.
    around : (L,) int32
        Rows of touched triangles, `inside` among them, ascending: the rows whose normals depend on `inside`.
    triangles : (T,) int32
        Triangles with at least one row inside.
    """

    inside: Corners
    around: Corners
    triangles: Corners


@kernel(
    "void(int32[::1], int32[::1], float32[:,::1], int64, float64[::1], float64, int32[::1], int32[::1], int32, "
    "int32[::1], int32[::1], int64[::1])"
)
def _grow(
    vertex: Corners,
    opposite: Corners,
    position: Points,
    seed: int,
    centre: NDArray[np.float64],
    radius: float,
    vertex_stamp: Corners,
    triangle_stamp: Corners,
    stamp: int,
    rows: Corners,
    triangles: Corners,
    counts: NDArray[np.int64],
) -> None:
    # rows is filled with inside rows from the front and outside rows from the back. Stamps: `stamp` outside, +1 inside.
    limit = radius * radius
    cx = centre[0]
    cy = centre[1]
    cz = centre[2]
    n_inside = 0
    n_outside = 0
    triangles[0] = seed
    triangle_stamp[seed] = stamp
    n_triangles = 1
    done = 0
    while done < n_triangles:
        base = 3 * triangles[done]
        done += 1
        for corner in range(base, base + 3):
            row = vertex[corner]
            if vertex_stamp[row] < stamp:
                x = position[row, 0] - cx
                y = position[row, 1] - cy
                z = position[row, 2] - cz
                if n_inside + n_outside >= rows.size:
                    counts[0] = -1
                    return
                if x * x + y * y + z * z < limit:
                    vertex_stamp[row] = stamp + 1
                    rows[n_inside] = row
                    n_inside += 1
                else:
                    vertex_stamp[row] = stamp
                    n_outside += 1
                    rows[rows.size - n_outside] = row
        in0 = vertex_stamp[vertex[base]] == stamp + 1
        in1 = vertex_stamp[vertex[base + 1]] == stamp + 1
        in2 = vertex_stamp[vertex[base + 2]] == stamp + 1
        for side in range(3):
            reached = (in1 or in2) if side == 0 else ((in2 or in0) if side == 1 else (in0 or in1))
            if not reached:
                continue
            across = opposite[base + side]
            if across < 0:
                continue
            other = across // 3
            if triangle_stamp[other] != stamp:
                if n_triangles >= triangles.size:
                    counts[0] = -1
                    return
                triangle_stamp[other] = stamp
                triangles[n_triangles] = other
                n_triangles += 1
    counts[0] = n_inside
    counts[1] = n_outside
    counts[2] = n_triangles


class RegionGrower:
    """Grows regions on one body; keeps its stamp tables between calls, so a call costs what it reaches."""

    def __init__(self) -> None:
        self._vertex_stamp = np.zeros(0, np.int32)
        self._triangle_stamp = np.zeros(0, np.int32)
        self._rows = np.empty(4096, np.int32)
        self._triangles = np.empty(8192, np.int32)
        self._stamp = 0
        self._counts = np.zeros(3, np.int64)

    @property
    def nbytes(self) -> int:
        """Bytes of the stamp tables."""
        return self._vertex_stamp.nbytes + self._triangle_stamp.nbytes

    def grow(
        self,
        position: Points,
        vertex: Corners,
        opposite: Corners,
        seed: int,
        centre: NDArray[np.float64],
        radius: float,
    ) -> Region:
        """Rows within `radius` of `centre` that hang together with a triangle through rows that are also within it.

        Parameters
        ----------
        position : (N, 3) float32
            Metres.
        vertex, opposite : (3 M,) int32
            Corner table.
        seed : int
            Triangle to start from, normally the one under the pointer.
        centre : (3,) float64
            Metres.
        radius : float
            Metres, greater than 0.
        """
        self._fit(position.shape[0], vertex.size // 3)
        while True:
            self._stamp += 2
            _grow(
                vertex,
                opposite,
                position,
                seed,
                centre,
                radius,
                self._vertex_stamp,
                self._triangle_stamp,
                np.int32(self._stamp),
                self._rows,
                self._triangles,
                self._counts,
            )
            n_inside, n_outside, n_triangles = (int(n) for n in self._counts)
            if n_inside >= 0:
                break
            self._rows = np.empty(4 * self._rows.size, np.int32)
            self._triangles = np.empty(4 * self._triangles.size, np.int32)
        if n_inside == 0:
            none = np.empty(0, np.int32)
            return Region(none, none, none)
        inside = np.sort(self._rows[:n_inside])
        around = np.concatenate((inside, np.sort(self._rows[self._rows.size - n_outside :])))
        return Region(inside, around, self._triangles[:n_triangles].copy())

    def _fit(self, vertices: int, triangles: int) -> None:
        if self._vertex_stamp.size < vertices or self._triangle_stamp.size < triangles or self._stamp > 2**31 - 16:
            self._vertex_stamp = np.zeros(max(vertices, self._vertex_stamp.size), np.int32)
            self._triangle_stamp = np.zeros(max(triangles, self._triangle_stamp.size), np.int32)
            self._stamp = 0
