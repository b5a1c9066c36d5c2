"""The vertex table: one row a vertex, named float32 columns that grow together."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.free_list import FreeList

Rows = NDArray[np.int32]
Column = NDArray[np.float32]


class VertexTable:
    """Named float32 columns over the same rows.

    Every column has a width (3 for `position`, one per ground for `weight`). A column that nobody has heard of yet is
    carried like the others: `blend` and `copy_rows` walk all of them. Storage is one contiguous array a column, so a
    brush that only moves vertices never pulls weights through the cache.

    Examples
    --------
    >>> table = VertexTable(3)
    >>> table.add_column("position", 3)
    >>> table["position"].shape
    (3, 3)
    >>> table.allocate(2).tolist()
    [3, 4]
    """

    def __init__(self, count: int = 0) -> None:
        self._count = count
        self._capacity = count
        self._columns: dict[str, Column] = {}
        self.free = FreeList()

    @property
    def count(self) -> int:
        """Rows in use, freed rows included."""
        return self._count

    @property
    def live_count(self) -> int:
        """Rows that belong to a vertex."""
        return self._count - self.free.count

    @property
    def names(self) -> tuple[str, ...]:
        """Column names in the order they were added."""
        return tuple(self._columns)

    @property
    def nbytes(self) -> int:
        """Bytes held, spare capacity included."""
        return sum(column.nbytes for column in self._columns.values())

    def __contains__(self, name: str) -> bool:
        return name in self._columns

    def __getitem__(self, name: str) -> Column:
        """View of a column, shape (count, width); writes go to the table."""
        return self._columns[name][: self._count]

    def get(self, name: str) -> Column | None:
        """View of a column; None where there is none."""
        return self[name] if name in self._columns else None

    def width(self, name: str) -> int:
        """Width of a column."""
        return int(self._columns[name].shape[1])

    def add_column(self, name: str, width: int, fill: float = 0.0) -> None:
        """Add a column filled with one value; an existing column of that name is an error."""
        if name in self._columns:
            raise ValueError(f"the vertex table already has a column {name!r}")
        if fill == 0.0:  # zeros come from the system as untouched pages: free until used
            self._columns[name] = np.zeros((self._capacity, width), np.float32)
        else:
            self._columns[name] = np.full((self._capacity, width), fill, np.float32)

    def set_column(self, name: str, values: NDArray[np.floating]) -> None:
        """Add or replace a whole column, shape (count, width)."""
        if values.ndim != 2 or values.shape[0] != self._count:
            raise ValueError(f"column {name!r}: shape {values.shape} does not fit {self._count} rows")
        if self._capacity == self._count:
            self._columns[name] = np.ascontiguousarray(values, np.float32)
        else:
            block = np.zeros((self._capacity, values.shape[1]), np.float32)
            block[: self._count] = values
            self._columns[name] = block

    def drop_column(self, name: str) -> None:
        """Remove a column."""
        del self._columns[name]

    def allocate(self, amount: int) -> Rows:
        """Rows for new vertices: freed ones first, then fresh ones; contents are unspecified until written."""
        reused = self.free.take(amount)
        fresh = amount - reused.size
        self.reserve(fresh)
        new = np.arange(self._count, self._count + fresh, dtype=np.int32)
        self._count += fresh
        return np.concatenate((reused, new))

    def storage(self, name: str) -> Column:
        """A whole column, the room behind its used rows included."""
        return self._columns[name]

    def resize(self, count: int) -> None:
        """Say how many rows count, freed ones included; there must be room for them."""
        assert count <= self._capacity, "more rows than there is room for"
        self._count = count

    def blend(self, rows: Rows, first: Rows, second: Rows, share: NDArray[np.floating]) -> None:
        """Write rows that lie between two others, in every column.

        Parameters
        ----------
        rows, first, second : (K,) int32
            Rows to write and the two rows each is made of.
        share : (K,) float
            0 gives the first, 1 the second.
        """
        part = np.ascontiguousarray(share, np.float32)
        at, one, other = (np.ascontiguousarray(each, np.int32) for each in (rows, first, second))
        for column in self._columns.values():
            column[at] = _between(column, one, other, part, np.empty((at.size, column.shape[1]), np.float32))

    def view(self) -> "VertexTable":
        """A table of the same columns that other columns can be set in without this one having them."""
        other = VertexTable(self._count)
        other.free = self.free
        other._capacity = self._capacity
        other._columns = dict(self._columns)
        return other

    def copy(self) -> "VertexTable":
        """An independent table with the same rows and no spare capacity."""
        other = VertexTable(self._count)
        other.free = self.free.copy()
        for name, column in self._columns.items():
            other._columns[name] = column[: self._count].copy()
        return other

    def reserve(self, more: int) -> None:
        """Make room for so many rows behind the used ones."""
        wanted = self._count + more
        if wanted <= self._capacity:
            return
        capacity = max(wanted, self._capacity + self._capacity // 2, 16)
        for name, column in self._columns.items():
            grown = np.zeros((capacity, column.shape[1]), np.float32)
            grown[: self._count] = column[: self._count]
            self._columns[name] = grown
        self._capacity = capacity


@kernel("float32[:,::1](float32[:,::1], int32[::1], int32[::1], float32[::1], float32[:,::1])")
def _between(column: Column, first: Rows, second: Rows, share: NDArray[np.float32], out: Column) -> Column:
    for i in range(first.size):
        for k in range(column.shape[1]):
            before = column[first[i], k] * (np.float32(1.0) - share[i])
            out[i, k] = before + column[second[i], k] * share[i]
    return out
