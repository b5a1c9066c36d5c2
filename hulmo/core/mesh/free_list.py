"""Freed slots of a table, a stack: the last one freed is the first one used again."""

import numpy as np
from numpy.typing import NDArray

Slots = NDArray[np.int32]


class FreeList:
    """A stack of slot numbers in one array, so that kernels can push and pop.

    Examples
    --------
    >>> free = FreeList()
    >>> free.put(np.array([4, 9], np.int32))
    >>> free.take(1).tolist()
    [9]
    >>> free.count
    1
    """

    def __init__(self) -> None:
        self._slots = np.empty(0, np.int32)
        self._count = 0

    @property
    def count(self) -> int:
        """Freed slots."""
        return self._count

    @property
    def slots(self) -> Slots:
        """(count,) the freed slots, the first to be used again last."""
        return self._slots[: self._count]

    def put(self, slots: Slots) -> None:
        """Push slots."""
        self.room(slots.size)[self._count : self._count + slots.size] = slots
        self._count += slots.size

    def take(self, most: int) -> Slots:
        """Pop as many as `most` slots, or fewer when there are fewer."""
        kept = max(0, self._count - most)
        taken = self._slots[kept : self._count].copy()
        self._count = kept
        return taken

    def room(self, more: int) -> Slots:
        """The whole array, with room for so many more; whoever writes to it tells `resize`."""
        if self._count + more > self._slots.size:
            grown = np.empty(max(self._count + more, 2 * self._slots.size), np.int32)
            grown[: self._count] = self.slots
            self._slots = grown
        return self._slots

    def resize(self, count: int) -> None:
        """Say how many entries of the array count."""
        self._count = count

    def replace_tail(self, kept: int, tail: Slots) -> None:
        """Drop all but the lowest `kept` entries and push others."""
        self._count = kept
        self.put(tail)

    def copy(self) -> "FreeList":
        """An independent list."""
        other = FreeList()
        other.put(self.slots)
        return other
