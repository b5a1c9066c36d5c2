"""One vertex for each cell of a grid: coarser copies of a mesh on the vertices that it has."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels

Rows = NDArray[np.int32]
Points = NDArray[np.float32]

FULL = 0.6
"""Share of the table of cells that may be in use."""


class VertexClusters:
    """The vertex that stands for each of others: of those in its cell the one nearest to the middle of the cell.

    A triangle whose corners are stood for by three different vertices belongs to the coarser copy; the others vanish in it.
    The copy has no cracks, moves with the vertices, and lies within a diagonal of a cell of the mesh.

    Parameters
    ----------
    position : (V, 3) float32
        Must stay as it is.
    low : (3,) float64
        Lowest corner of the grid; nothing lies below it.
    size : float
        Edge of a cell, in the units of position; above 0, and no less than 1/2097151 of the extent.

    Notes
    -----
    Rossignac and Borrel, "Multi-resolution 3D approximations for rendering complex scenes" (1993), with the vertex nearest to
    the middle instead of the mean, so that no vertex is made. Cells are found by hashing: Teschner et al., "Optimized spatial
    hashing for collision detection of deformable objects" (2003).

    Examples
    --------
    >>> at = np.array([[0.1, 0, 0], [0.4, 0, 0], [1.2, 0, 0]], np.float32)
    >>> clusters = VertexClusters(at, np.zeros(3), 1.0)
    >>> rows = np.arange(3, dtype=np.int32)
    >>> clusters.add(rows)
    >>> clusters.standing_for(rows).tolist()
    [1, 1, 2]
    """

    def __init__(self, position: Points, low: NDArray[np.float64], size: float) -> None:
        self._position, self._low, self._scale = position, low, 1.0 / size
        self._made = 0
        self._key, self._best, self._away = _table(0)

    def add(self, rows: Rows) -> None:
        """Have some vertices share the cells that they lie in."""
        wanted = 1 << int((self._made + rows.size) / FULL).bit_length()
        if wanted > self._key.size:
            old = self._best[self._key >= 0]
            self._key, self._best, self._away = _table(wanted)
            _add(self._position, old, self._low, self._scale, self._key, self._best, self._away)
        self._made += _add(self._position, rows, self._low, self._scale, self._key, self._best, self._away)

    def standing_for(self, rows: Rows) -> Rows:
        """(K,) the vertex that stands for each of some that were added."""
        out = np.empty_like(rows)
        _find(self._position, rows, self._low, self._scale, self._key, self._best, out)
        return out


def _table(places: int) -> tuple[NDArray[np.int64], Rows, NDArray[np.float32]]:
    return np.full(places, -1, np.int64), np.empty(places, np.int32), np.empty(places, np.float32)


@part_of_kernels
def _cell(at, low, scale):  # type: ignore[no-untyped-def]
    # number of a cell along an axis, 21 bits, and how far from its middle a place is, in cells
    along = (np.float64(at) - low) * scale
    cell = np.int64(min(max(along, 0.0), 2097151.0))
    return cell, along - (cell + 0.5)


@part_of_kernels
def _found(position, row, low, scale, key):  # type: ignore[no-untyped-def]
    # number of the cell that a vertex lies in, the place of that in the table, or the first that is free where it has none,
    # and how far from the middle of the cell the vertex is: squared, in cells
    x, from_x = _cell(position[row, 0], low[0], scale)
    y, from_y = _cell(position[row, 1], low[1], scale)
    z, from_z = _cell(position[row, 2], low[2], scale)
    own = (x << 42) | (y << 21) | z
    mask = key.size - 1
    place = ((x * 73856093) ^ (y * 19349663) ^ (z * 83492791)) & mask
    while key[place] != -1 and key[place] != own:
        place = (place + 1) & mask
    return own, place, np.float32(from_x * from_x + from_y * from_y + from_z * from_z)


@kernel("int64(float32[:,::1], int32[::1], float64[::1], float64, int64[::1], int32[::1], float32[::1])")
def _add(
    position: Points, rows: Rows, low: NDArray[np.float64], scale: float, key: NDArray[np.int64], best: Rows,
    away: NDArray[np.float32],
) -> int:  # fmt: skip
    made = 0
    for i in range(rows.size):
        row = rows[i]
        own, place, distance = _found(position, row, low, scale, key)
        if key[place] == -1:
            key[place] = own
            made += 1
        elif distance >= away[place]:
            continue
        best[place] = row
        away[place] = distance
    return made


@kernel("void(float32[:,::1], int32[::1], float64[::1], float64, int64[::1], int32[::1], int32[::1])")
def _find(
    position: Points, rows: Rows, low: NDArray[np.float64], scale: float, key: NDArray[np.int64], best: Rows, out: Rows
) -> None:
    for i in range(rows.size):
        row = rows[i]
        own, place, _ = _found(position, row, low, scale, key)
        out[i] = best[place] if key[place] == own else row  # one that has moved since stands for itself
