"""The corner table: triangles and who lies across each of their edges."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.agreed import make_agreed
from hulmo.core.mesh.connectivity import build_opposites, first_corners
from hulmo.core.mesh.free_list import FreeList
from hulmo.core.mesh.one_ring import one_ring_corners
from hulmo.core.mesh.slot_table import Blocks, SlotTable

Corners = NDArray[np.int32]
Triangles = NDArray[np.int32]

TRIANGLES = "triangles"
"""Stands for the slots of a corner table wherever what was touched is told, as if they were a column."""


class Storage(NamedTuple):
    """Whole arrays of a corner table, for kernels that change connectivity."""

    vertex: Corners
    opposite: Corners
    first: Corners
    known: Blocks


UV = "uv"
"""Corner column (width 2) of texture coordinates."""

REGION = "region"
"""Face column (width 1) of whole numbers: which part of a file, or which outline, a face belongs to."""


def with_uv(count: int, uv: NDArray[np.float32] | None) -> SlotTable:
    """What is known of so many triangles whose corners have texture coordinates, (count, 3, 2), or none."""
    slots = SlotTable(count)
    if uv is not None:
        slots.set("corner", UV, uv)
    return slots


class CornerTable:
    """Triangles (M, 3), the opposite corner of each corner, and in `slots` what else is known of faces, corners and edges.

    Arrays grow geometrically and freed triangle slots are reused, so a local edit never rebuilds the table.

    Examples
    --------
    >>> table = CornerTable.from_triangles(np.array([[0, 1, 2], [2, 1, 3]], np.int32), 4)
    >>> table.opposite.tolist()
    [5, -1, -1, -1, -1, 0]
    """

    def __init__(
        self,
        vertex: Corners,
        opposite: Corners,
        first_corner: Corners,
        slots: SlotTable | None = None,
    ) -> None:
        self._count = vertex.size // 3
        self._vertex = vertex
        self._opposite = opposite
        self._first_corner = first_corner
        self._vertex_count = first_corner.size
        self.slots = SlotTable(self._count) if slots is None else slots
        assert self.slots.count == self._count, "what is known of the triangles is of other ones"
        self.free = FreeList()

    @classmethod
    def from_triangles(cls, triangles: Triangles, vertex_count: int, slots: SlotTable | None = None) -> "CornerTable":
        """Build from a triangle list.

        Parameters
        ----------
        triangles : (M, 3) int32
            Counter-clockwise seen from outside.
        vertex_count : int
            Rows of the vertex table.
        slots : SlotTable, optional
            What is known of them: M slots.

        Raises
        ------
        InvalidInput
            When the triangles are no orientable manifold (see `build_opposites`).
        """
        vertex = np.ascontiguousarray(triangles, np.int32).reshape(-1)
        opposite, first = build_opposites(vertex, vertex_count)
        table = cls(vertex, opposite, first, slots)
        table.agree()
        return table

    @classmethod
    def from_opposites(
        cls,
        vertex: Corners,
        opposite: Corners,
        vertex_count: int,
        slots: SlotTable | None = None,
        agreed: bool = False,
    ) -> "CornerTable":
        """Build where it is known already who lies across each edge, as after a change that keeps a manifold one.

        Parameters
        ----------
        vertex, opposite : (3 M,) int32
            Without freed slots; the table takes them over.
        vertex_count : int
        slots : SlotTable, optional
        agreed : bool
            Whether it is sure that both triangles at every edge say the same of it.
        """
        table = cls(vertex, opposite, first_corners(vertex, opposite, vertex_count), slots)
        if not agreed:
            table.agree()
        return table

    @property
    def count(self) -> int:
        """Triangle slots in use, freed ones included."""
        return self._count

    @property
    def live_count(self) -> int:
        """Triangles."""
        return self._count - self.free.count

    @property
    def vertex(self) -> Corners:
        """(3 M,) vertex at each corner; -1 in a freed slot."""
        return self._vertex[: 3 * self._count]

    @property
    def triangles(self) -> Triangles:
        """(M, 3) view of `vertex`."""
        return np.reshape(self.vertex, (-1, 3))

    @property
    def opposite(self) -> Corners:
        """(3 M,) opposite corner, -1 at a border."""
        return self._opposite[: 3 * self._count]

    @property
    def first_corner(self) -> Corners:
        """(N,) one corner of each vertex; at a border vertex the one its fan starts with. -1: no triangle."""
        return self._first_corner[: self._vertex_count]

    @property
    def uv(self) -> NDArray[np.float32] | None:
        """(M, 3, 2) texture coordinate of every corner, or None."""
        return self.slots.get(UV)

    @property
    def nbytes(self) -> int:
        """Bytes held, spare capacity included."""
        return self._vertex.nbytes + self._opposite.nbytes + self._first_corner.nbytes + self.slots.nbytes

    def live_triangles(self) -> Triangles:
        """(M, 3) triangles without freed slots."""
        triangles = self.triangles
        return triangles if not self.free.count else np.asarray(triangles[triangles[:, 0] >= 0])

    def ring(self, vertex: int) -> Corners:
        """Corners at a vertex, counter-clockwise; empty where the vertex has no triangle."""
        start = int(self.first_corner[vertex])
        return np.empty(0, np.int32) if start < 0 else one_ring_corners(self.opposite, start)

    def neighbours(self, vertex: int) -> Corners:
        """Vertices joined to a vertex by an edge, counter-clockwise; a border fan runs from border to border."""
        corners = self.ring(vertex)
        if corners.size == 0:
            return corners
        around: Corners = self.vertex[corners - corners % 3 + (corners + 1) % 3]
        last = corners[-1]
        if self.opposite[last - last % 3 + (last + 1) % 3] < 0:
            around = np.append(around, self.vertex[last - last % 3 + (last + 2) % 3])
        return around

    def is_border(self, vertex: int) -> bool:
        """Whether a vertex lies on a border of the mesh."""
        return self.neighbours(vertex).size != self.ring(vertex).size

    def holds(self, triangle: int) -> bool:
        """Whether a slot holds a triangle."""
        return 0 <= triangle < self._count and bool(self._vertex[3 * triangle] >= 0)

    def border_corners(self) -> Corners:
        """Corners whose facing edge is a border."""
        corners = np.flatnonzero((self.opposite < 0) & (self.vertex >= 0))
        return corners.astype(np.int32)

    def agree(self) -> None:
        """Have both triangles at an edge say the same of it: of what they say, what is farther from zero."""
        values = self.slots.blocks().edge
        if values.shape[2]:
            make_agreed(self.opposite, values, 0, values.shape[2])

    def reserve(self, triangles: int, vertices: int) -> None:
        """Make room for so many triangles and vertices behind the used ones."""
        wanted = self._count + triangles
        if 3 * wanted > self._vertex.size:
            self._grow(max(wanted, self._vertex.size // 2, 16))
        wanted = self._vertex_count + vertices
        if wanted > self._first_corner.size:
            grown = np.full(max(wanted, self._first_corner.size * 3 // 2), -1, np.int32)
            grown[: self._vertex_count] = self.first_corner
            self._first_corner = grown

    def storage(self) -> Storage:
        """All arrays, the room behind their used part included."""
        return Storage(self._vertex, self._opposite, self._first_corner, self.slots.blocks())

    def resize(self, triangles: int, vertices: int) -> None:
        """Say how many triangle slots and vertices count, freed ones included; there must be room for them."""
        assert 3 * triangles <= self._vertex.size and vertices <= self._first_corner.size, "more than there is room for"
        self._count, self._vertex_count = triangles, vertices
        self.slots.resize(triangles)

    def copy(self) -> "CornerTable":
        """An independent table with the same triangles."""
        other = CornerTable(self.vertex.copy(), self.opposite.copy(), self.first_corner.copy(), self.slots.copy())
        other.free = self.free.copy()
        return other

    def _grow(self, capacity: int) -> None:
        count = 3 * self._count
        for name in ("_vertex", "_opposite"):
            old = getattr(self, name)
            grown = np.full(3 * capacity, -1, np.int32)
            grown[:count] = old[:count]
            setattr(self, name, grown)
        self.slots.reserve(capacity)
