"""What is known of faces, corners and edges: named float32 columns over the triangle slots of a corner table."""

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel

Values = NDArray[np.float32]
Slots = NDArray[np.integer]

SIDES = {"face": 1, "corner": 3, "edge": 3}
"""Domains, and how many rows each has in a triangle. Row k of an edge column is the edge that corner k faces; both triangles
at an edge say the same of it."""


LOOSE = "chosen"
"""How names of columns begin that hold nothing in place: where they differ is no seam. They lie behind the others."""


class Blocks(NamedTuple):
    """One array a domain, for kernels: all columns of it beside each other, the room behind the used slots included.

    Attributes
    ----------
    face : (capacity, 1, F) float32
    corner, edge : (capacity, 3, C or E) float32
    """

    face: Values
    corner: Values
    edge: Values


class SlotTable:
    """Named columns of three domains over the same triangle slots.

    Columns of a domain lie beside each other in one block, in the order of their names, so that a kernel that changes
    connectivity treats all of them alike, whoever added them.

    Examples
    --------
    >>> table = SlotTable(2)
    >>> table.add("edge", "crease", 1)
    >>> table["crease"].shape
    (2, 3, 1)
    >>> table.names("edge")
    ('crease',)
    """

    def __init__(self, count: int = 0) -> None:
        self._count = count
        self._blocks = {domain: np.zeros((count, sides, 0), np.float32) for domain, sides in SIDES.items()}
        self._widths: dict[str, dict[str, int]] = {domain: {} for domain in SIDES}

    @property
    def count(self) -> int:
        """Slots in use, freed ones included."""
        return self._count

    @property
    def nbytes(self) -> int:
        """Bytes held, spare capacity included."""
        return sum(block.nbytes for block in self._blocks.values())

    def names(self, domain: str = "") -> tuple[str, ...]:
        """Columns of a domain, or all of them, in the order of the blocks."""
        domains = (domain,) if domain else tuple(SIDES)
        return tuple(name for each in domains for name in self._widths[each])

    def domain(self, name: str) -> str:
        """Domain of a column."""
        return next(domain for domain, widths in self._widths.items() if name in widths)

    def width(self, name: str) -> int:
        """Numbers of one row of a column."""
        return self._widths[self.domain(name)][name]

    def __contains__(self, name: str) -> bool:
        return any(name in widths for widths in self._widths.values())

    def __getitem__(self, name: str) -> Values:
        """View of a column, (count, 1 or 3, width); writes go to the table."""
        domain = self.domain(name)
        start = 0
        for other, width in self._widths[domain].items():
            if other == name:
                return self._blocks[domain][: self._count, :, start : start + width]
            start += width
        raise KeyError(name)

    def get(self, name: str) -> Values | None:
        """View of a column; None where there is none."""
        if name not in self:
            return None
        return self[name]

    def set(self, domain: str, name: str, values: NDArray[np.floating]) -> None:
        """Add or replace a whole column, (count, 1 or 3, width).

        Raises
        ------
        ValueError
            A shape that does not fit, or a name that another domain has.
        """
        sides = SIDES[domain]
        if values.ndim != 3 or values.shape[:2] != (self._count, sides):
            raise ValueError(f"column {name!r}: shape {values.shape} does not fit {self._count} slots of {sides}")
        if name in self and (self.domain(name) != domain or self.width(name) != values.shape[2]):
            self.drop(name)
        if name not in self:
            self._insert(domain, name, values.shape[2])
        self[name][:] = values

    def add(self, domain: str, name: str, width: int) -> None:
        """Add a column of zeros; an existing one of that name is an error."""
        if name in self:
            raise ValueError(f"the slot table already has a column {name!r}")
        self._insert(domain, name, width)

    def drop(self, name: str) -> None:
        """Remove a column."""
        domain = self.domain(name)
        widths, block = self._widths[domain], self._blocks[domain]
        start = sum(widths[other] for other in list(widths)[: list(widths).index(name)])
        stop = start + widths.pop(name)
        self._blocks[domain] = np.ascontiguousarray(np.concatenate((block[:, :, :start], block[:, :, stop:]), axis=2))

    def blocks(self) -> Blocks:
        """Whole arrays, one a domain."""
        return Blocks(**self._blocks)

    def holding(self, domain: str) -> int:
        """Numbers of a row, from the first, that make seams where they differ."""
        return sum(width for name, width in self._widths[domain].items() if not name.startswith(LOOSE))

    def reserve(self, capacity: int) -> None:
        """Have room for so many slots."""
        for domain, block in self._blocks.items():
            if block.shape[0] < capacity:
                grown = np.zeros((capacity, *block.shape[1:]), np.float32)
                grown[: self._count] = block[: self._count]
                self._blocks[domain] = grown

    def resize(self, count: int) -> None:
        """Say how many slots count; there must be room for them."""
        self._count = count

    def copy(self) -> "SlotTable":
        """An independent table with the same slots and no spare capacity."""
        return self.taken(slice(0, self._count))

    def taken(self, slots: Slots | NDArray[np.bool_] | slice, turned: NDArray[np.bool_] | None = None) -> "SlotTable":
        """A table of some slots of this one, in that order.

        Parameters
        ----------
        slots : (K,) int, (count,) bool, or slice
        turned : (K,) bool, optional
            Triangles whose second and third corner are exchanged.
        """
        if isinstance(slots, slice):
            blocks = {domain: block[: self._count][slots].copy() for domain, block in self._blocks.items()}
        else:
            which = np.flatnonzero(slots) if slots.dtype == np.bool_ else slots
            blocks = {domain: block.take(which, axis=0) for domain, block in self._blocks.items()}
        if turned is not None and turned.any():
            for domain, sides in SIDES.items():
                if sides == 3:
                    blocks[domain][turned] = blocks[domain][turned][:, (0, 2, 1)]
        return self._like(blocks)

    def with_more(self, count: int) -> "SlotTable":
        """A table with so many slots of zeros behind those of this one."""
        return self._like(
            {
                domain: np.concatenate(
                    (block[: self._count], np.zeros((count, *block.shape[1:]), np.float32)), dtype=np.float32
                )
                for domain, block in self._blocks.items()
            }
        )

    def joined(self, other: "SlotTable") -> "SlotTable":
        """A table with the slots of another one behind those of this one; what only one has is zero in the other.

        A corner column that one of them does not have is dropped: there is no place on an image that would mean none.
        """
        table = SlotTable(0)
        table._count = self._count + other.count
        for domain, sides in SIDES.items():
            widths: dict[str, int] = {}
            for name in dict.fromkeys((*self.names(), *other.names())):
                owner = self if name in self else other
                if owner.domain(name) == domain and (domain != "corner" or self._fits(other, name)):
                    widths[name] = owner.width(name)
            widths = dict(sorted(widths.items(), key=lambda entry: _order(entry[0])))
            block = np.zeros((table._count, sides, sum(widths.values())), np.float32)
            start = 0
            for name, width in widths.items():
                for side, rows in ((self, slice(0, self._count)), (other, slice(self._count, None))):
                    if name in side and (side.domain(name), side.width(name)) == (domain, width):
                        block[rows, :, start : start + width] = side[name]
                start += width
            table._blocks[domain], table._widths[domain] = block, widths
        return table

    def _fits(self, other: "SlotTable", name: str) -> bool:
        return name in self and name in other and (self.domain(name), self.width(name)) == (
            other.domain(name), other.width(name)
        )  # fmt: skip

    def quartered(self) -> "SlotTable":
        """A table for four triangles of each: (a, mc, mb), (mc, b, ma), (mb, ma, c), (ma, mb, mc), m the middles of edges.

        Faces are inherited, corners interpolated, halves of edges get what the whole had, and edges within a triangle zero.
        """
        old = {domain: block[: self._count] for domain, block in self._blocks.items()}
        a, b, c = (old["corner"][:, i] for i in range(3))
        ma, mb, mc = (b + c) / 2, (c + a) / 2, (a + b) / 2
        corner = np.stack((a, mc, mb, mc, b, ma, mb, ma, c, ma, mb, mc), axis=1)
        ea, eb, ec = (old["edge"][:, i] for i in range(3))
        no = np.zeros_like(ea)
        edge = np.stack((no, eb, ec, ea, no, ec, ea, eb, no, no, no, no), axis=1)
        shape = {domain: (4 * self._count, 3, block.shape[2]) for domain, block in old.items()}
        return self._like(
            {
                "face": np.repeat(old["face"], 4, axis=0),
                "corner": corner.reshape(shape["corner"]).astype(np.float32),
                "edge": edge.reshape(shape["edge"]),
            }
        )

    def made(self, parent: Slots, share: NDArray[np.floating], along: Slots, which: Slots | None = None) -> "SlotTable":
        """A table of triangles that lie within those of this one.

        Parameters
        ----------
        parent : (K,) int
            Slot that each lies in.
        share : (L, 3, 3) float
            What each of its corners has of the three corners of its parent.
        along : (L, 3) int
            Corner of the parent across from the edge that each of its edges lies on; -1 for edges within. What has 0, 1, 2 is
            its parent.
        which : (L,) int, optional
            Of which of them the last two tell; all others are their parents. All of them where left out.
        """
        blocks = {domain: block.take(parent, axis=0) for domain, block in self._blocks.items()}
        which = np.arange(len(parent)) if which is None else which
        slots: NDArray[np.int32] = np.ascontiguousarray(parent[which], np.int32)
        corner, edge = (np.empty((slots.size, *blocks[name].shape[1:]), np.float32) for name in ("corner", "edge"))
        _made(
            slots, np.ascontiguousarray(share, np.float64), np.ascontiguousarray(along, np.int32),
            self._blocks["corner"], self._blocks["edge"], corner, edge,
        )  # fmt: skip
        blocks["corner"][which], blocks["edge"][which] = corner, edge
        return self._like(blocks)

    def rows(self, slots: Slots) -> dict[str, Values]:
        """(K, 1 or 3, width) values of every column at some slots."""
        return {name: self[name][slots] for name in self.names()}

    def put(self, slots: Slots, values: dict[str, Values]) -> None:
        """Write what `rows` gave; columns that came later stay as they are."""
        for name, part in values.items():
            if name in self:
                self[name][slots] = part

    def layout(self) -> Iterable[tuple[str, str, int]]:
        """Domain, name and width of every column, in the order of the blocks."""
        return ((domain, name, width) for domain, widths in self._widths.items() for name, width in widths.items())

    def _like(self, blocks: dict[str, Values]) -> "SlotTable":
        table = SlotTable(0)
        table._count = blocks["face"].shape[0]
        table._blocks = {domain: np.ascontiguousarray(block) for domain, block in blocks.items()}
        table._widths = {domain: dict(widths) for domain, widths in self._widths.items()}
        return table

    def _insert(self, domain: str, name: str, width: int) -> None:
        # in the order of names, so that the same columns always make the same block
        block, widths = self._blocks[domain], self._widths[domain]
        before = [other for other in widths if _order(other) < _order(name)]
        start = sum(widths[other] for other in before)
        fresh = np.zeros((*block.shape[:2], width), np.float32)
        self._blocks[domain] = np.concatenate((block[:, :, :start], fresh, block[:, :, start:]), axis=2)
        self._widths[domain] = dict(sorted((*widths.items(), (name, width)), key=lambda entry: _order(entry[0])))


@kernel(
    "void(int32[::1], float64[:,:,::1], int32[:,::1], float32[:,:,::1], float32[:,:,::1], float32[:,:,::1], "
    "float32[:,:,::1])"
)
def _made(
    parent: NDArray[np.int32], share: NDArray[np.float64], along: NDArray[np.int32], corner: Values, edge: Values,
    corner_out: Values, edge_out: Values,
) -> None:  # fmt: skip
    for t in range(parent.size):
        p = parent[t]
        whole = along[t, 0] == 0 and along[t, 1] == 1 and along[t, 2] == 2
        for i in range(3):
            for w in range(corner.shape[2]):
                if whole:
                    corner_out[t, i, w] = corner[p, i, w]
                    continue
                total = 0.0
                for j in range(3):
                    total += share[t, i, j] * corner[p, j, w]
                corner_out[t, i, w] = total
            for w in range(edge.shape[2]):
                edge_out[t, i, w] = edge[p, along[t, i], w] if along[t, i] >= 0 else np.float32(0.0)


def _order(name: str) -> tuple[bool, str]:
    return name.startswith(LOOSE), name
