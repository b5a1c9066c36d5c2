"""The arrays of the box tree over a body's triangles."""

from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

T = TypeVar("T", bound=np.generic)

LEAF_FILL = 8
"""Triangles a leaf gets when the tree is built."""

LEAF_ROOM = 16
"""Triangles a leaf can hold before it is split in two."""


@dataclass
class Tree:
    """A binary tree of axis-aligned boxes; children have higher numbers than their parent and follow each other.

    Attributes
    ----------
    box : (K, 6) float32
        Low corner, high corner; low above high in an empty leaf.
    first : (K,) int32
        First child, or -1 - leaf.
    parent : (K,) int32
        -1 at the root.
    leaf_items : (L, 16) int32
        Triangles of each leaf; the first `leaf_count` count.
    leaf_count, leaf_node : (L,) int32
    leaf_of : (M,) int32
        Leaf of each triangle, -1 where a triangle is not held.
    nodes, leaves : int
        Used entries of the arrays above.
    """

    box: NDArray[np.float32]
    first: NDArray[np.int32]
    parent: NDArray[np.int32]
    leaf_items: NDArray[np.int32]
    leaf_count: NDArray[np.int32]
    leaf_node: NDArray[np.int32]
    leaf_of: NDArray[np.int32]
    nodes: int
    leaves: int

    @classmethod
    def empty(cls, leaves: int, triangles: int) -> "Tree":
        """Arrays for a tree of so many leaves, not yet filled."""
        nodes = 2 * leaves - 1
        box = np.empty((nodes, 6), np.float32)
        box[:, :3] = np.inf
        box[:, 3:] = -np.inf
        return cls(
            box=box,
            first=np.empty(nodes, np.int32),
            parent=np.empty(nodes, np.int32),
            leaf_items=np.empty((leaves, LEAF_ROOM), np.int32),
            leaf_count=np.zeros(leaves, np.int32),
            leaf_node=np.empty(leaves, np.int32),
            leaf_of=np.full(triangles, -1, np.int32),
            nodes=nodes,
            leaves=leaves,
        )

    def copy(self) -> "Tree":
        """A tree of its own with the same structure and boxes."""
        box, first, parent, items, count, node, of = (array.copy() for array in self._arrays)
        return Tree(box, first, parent, items, count, node, of, self.nodes, self.leaves)

    @property
    def _arrays(self) -> tuple[NDArray[Any], ...]:
        return self.box, self.first, self.parent, self.leaf_items, self.leaf_count, self.leaf_node, self.leaf_of

    @property
    def search(self) -> tuple[NDArray[np.float32], NDArray[np.int32], NDArray[np.int32], NDArray[np.int32]]:
        """The arrays that a search reads, in the order the query kernels take them."""
        return self.box, self.first, self.leaf_items, self.leaf_count

    @property
    def nbytes(self) -> int:
        """Bytes held."""
        return sum(array.nbytes for array in self._arrays)

    def holds(self, triangles: NDArray[np.int32]) -> NDArray[np.bool_]:
        """(K,) which triangles are held."""
        known = triangles < self.leaf_of.size
        held: NDArray[np.bool_] = known.copy()
        held[known] = self.leaf_of[triangles[known]] >= 0
        return held

    def leaves_of(self, triangles: NDArray[np.int32]) -> NDArray[np.int32]:
        """(K,) leaf of each of some triangles; -1 for those not held, be it that they came and went unseen."""
        if triangles.size and triangles.max() >= self.leaf_of.size:
            known = triangles < self.leaf_of.size
            return np.where(known, self.leaf_of[np.where(known, triangles, 0)], -1).astype(np.int32)
        return np.asarray(self.leaf_of[triangles])

    def reserve(self, leaves: int, triangles: int) -> None:
        """Make room for more leaves and for higher triangle numbers."""
        nodes = 2 * leaves - 1
        if leaves > self.leaf_count.size:
            size = max(leaves, self.leaf_count.size * 3 // 2 + 1)
            self.leaf_items = _longer(self.leaf_items, size, 0)
            self.leaf_count = _longer(self.leaf_count, size, 0)
            self.leaf_node = _longer(self.leaf_node, size, -1)
        if nodes > self.first.size:
            size = max(nodes, self.first.size * 3 // 2 + 1)
            self.box = _longer(self.box, size, 0)
            self.first = _longer(self.first, size, 0)
            self.parent = _longer(self.parent, size, -1)
        if triangles > self.leaf_of.size:
            self.leaf_of = _longer(self.leaf_of, max(triangles, self.leaf_of.size * 3 // 2), -1)


def _longer(array: NDArray[T], size: int, fill: int) -> NDArray[T]:
    grown = np.full((size, *array.shape[1:]), fill, array.dtype)
    grown[: array.shape[0]] = array
    return grown
