"""The piece of surface that a brush reaches: grown from triangle to triangle, never through the air."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels
from hulmo.core.mesh.moment import NOW, Earlier, Slots, place_at
from hulmo.core.mesh.one_ring import next_corner, previous_corner, triangle_of
from hulmo.core.sparse_zeros import sparse_zeros

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

    @property
    def nbytes(self) -> int:
        """Bytes of the three."""
        return self.inside.nbytes + self.around.nbytes + self.triangles.nbytes


@written_into_kernels
def _grown(
    vertex: Corners,
    opposite: Corners,
    position: Points,
    start: Points,
    slot: Slots,
    seed: int,
    centre: NDArray[np.float64],
    radius: float,
    vertex_stamp: Corners,
    triangle_stamp: Corners,
    stamp: int,
    rows: Corners,
    triangles: Corners,
    counts: NDArray[np.int64],
    then: bool,
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
                px, py, pz = place_at(position, start, slot, row, then)
                x = px - cx
                y = py - cy
                z = pz - cz
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
            other = triangle_of(across)
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


@kernel(
    "void(int32[::1], int32[::1], float32[:,::1], float32[:,::1], int32[::1], int64, float64[::1], float64, int32[::1], "
    "int32[::1], int64, int32[::1], int32[::1], int64[::1])"
)
def _grow(
    vertex: Corners,
    opposite: Corners,
    position: Points,
    start: Points,
    slot: Slots,
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
    # two ways through the same code, each without the other's branches
    if slot.size:
        _grown(
            vertex, opposite, position, start, slot, seed, centre, radius, vertex_stamp, triangle_stamp, stamp, rows,
            triangles, counts, True,
        )  # fmt: skip
    else:
        _grown(
            vertex, opposite, start, start, slot, seed, centre, radius, vertex_stamp, triangle_stamp, stamp, rows,
            triangles, counts, False,
        )  # fmt: skip


@kernel(
    "int64(int32[::1], int32[::1], int32[::1], int32[::1], int32[::1], int32[::1], int64, int32[::1], int32[::1], "
    "int64[::1])"
)
def _touch(
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    rows: Corners,
    vertex_stamp: Corners,
    triangle_stamp: Corners,
    stamp: int,
    around: Corners,
    triangles: Corners,
    counts: NDArray[np.int64],
) -> int:
    n_around = 0
    n_triangles = 0
    for i in range(rows.size):
        start = first[rows[i]]
        if start < 0:
            continue
        corner = start
        forward = True
        while True:
            triangle = triangle_of(corner)
            if triangle_stamp[triangle] != stamp:
                if n_triangles >= triangles.size or n_around + 3 > around.size:
                    return 0
                triangle_stamp[triangle] = stamp
                triangles[n_triangles] = triangle
                n_triangles += 1
                for other in range(3 * triangle, 3 * triangle + 3):
                    row = vertex[other]
                    if vertex_stamp[row] != stamp:
                        vertex_stamp[row] = stamp
                        around[n_around] = row
                        n_around += 1
            if forward:
                across = opposite[next_corner(corner)]
                if across >= 0:
                    corner = next_corner(across)
                    if corner == start:
                        break
                    continue
                forward = False
                corner = start
            across = opposite[previous_corner(corner)]
            if across < 0:
                break
            corner = previous_corner(across)
    counts[0] = n_around
    counts[1] = n_triangles
    return 1


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
        before: Earlier | None = None,
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
        before : tuple, optional
            Positions as they were, and which rows they hold for; see `moment`.
        """
        start, slot = before or (position, NOW)
        self._fit(position.shape[0], vertex.size // 3)
        while True:
            self._stamp += 2
            _grow(
                vertex,
                opposite,
                position,
                start,
                slot,
                seed,
                centre,
                radius,
                self._vertex_stamp,
                self._triangle_stamp,
                self._stamp,
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
        around = np.sort(np.concatenate((inside, self._rows[self._rows.size - n_outside :])))
        return Region(inside, around, self._triangles[:n_triangles].copy())

    def around(self, vertex: Corners, opposite: Corners, first_corner: Corners, rows: Corners) -> Region:
        """Triangles that use some rows, and all rows of those triangles.

        Parameters
        ----------
        vertex, opposite : (3 M,) int32
        first_corner : (N,) int32
        rows : (K,) int32
            Ascending; they come back as `inside`.
        """
        self._fit(first_corner.size, vertex.size // 3)
        while True:
            self._stamp += 2
            if _touch(
                vertex,
                opposite,
                first_corner,
                rows,
                self._vertex_stamp,
                self._triangle_stamp,
                self._stamp,
                self._rows,
                self._triangles,
                self._counts,
            ):
                break
            self._rows = np.empty(4 * self._rows.size, np.int32)
            self._triangles = np.empty(4 * self._triangles.size, np.int32)
        n_around, n_triangles = int(self._counts[0]), int(self._counts[1])
        return Region(rows, np.sort(self._rows[:n_around]), self._triangles[:n_triangles].copy())

    def _fit(self, vertices: int, triangles: int) -> None:
        if self._vertex_stamp.size < vertices or self._triangle_stamp.size < triangles or self._stamp > 2**31 - 16:
            # room for more, so that a mesh that grows does not make them anew at every dab
            self._vertex_stamp = sparse_zeros(vertices + vertices // 4, np.int32)
            self._triangle_stamp = sparse_zeros(triangles + triangles // 4, np.int32)
            self._stamp = 0
