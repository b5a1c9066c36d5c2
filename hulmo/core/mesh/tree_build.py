"""Building the box tree over triangles: order them along a Morton curve, cut into leaves, halve the leaves."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.tree import LEAF_FILL, Tree

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


@njit(inline="always")
def _spread(value):  # type: ignore[no-untyped-def]
    value = (value | (value << 16)) & 0x030000FF
    value = (value | (value << 8)) & 0x0300F00F
    value = (value | (value << 4)) & 0x030C30C3
    return (value | (value << 2)) & 0x09249249


@kernel("void(int32[::1], float32[:,::1], int32[::1], float64[::1], float64, uint32[::1])")
def _codes(
    vertex: Corners,
    position: Points,
    triangles: Corners,
    low: NDArray[np.float64],
    scale: float,
    code: NDArray[np.uint32],
) -> None:
    for i in range(triangles.size):
        base = 3 * triangles[i]
        total = np.uint32(0)
        for axis in range(3):
            middle = (
                np.float64(position[vertex[base], axis])
                + position[vertex[base + 1], axis]
                + position[vertex[base + 2], axis]
            ) / 3.0
            cell = min(max(int((middle - low[axis]) * scale), 0), 1023)
            total |= np.uint32(_spread(cell)) << np.uint32(axis)
        code[i] = total


@kernel("void(uint32[::1], int32[::1], uint32[::1], int32[::1])")
def _radix(code: NDArray[np.uint32], item: Corners, code2: NDArray[np.uint32], item2: Corners) -> None:
    # three stable counting passes of ten bits; the result ends in the second pair of arrays
    n = code.size
    for turn in range(3):
        shift = np.uint32(10 * turn)
        start = np.zeros(1025, np.int64)
        if turn == 1:
            for i in range(n):
                start[((code2[i] >> shift) & np.uint32(1023)) + 1] += 1
        else:
            for i in range(n):
                start[((code[i] >> shift) & np.uint32(1023)) + 1] += 1
        for i in range(1024):
            start[i + 1] += start[i]
        if turn == 1:
            for i in range(n):
                digit = (code2[i] >> shift) & np.uint32(1023)
                to = start[digit]
                start[digit] += 1
                code[to] = code2[i]
                item[to] = item2[i]
        else:
            for i in range(n):
                digit = (code[i] >> shift) & np.uint32(1023)
                to = start[digit]
                start[digit] += 1
                code2[to] = code[i]
                item2[to] = item[i]


@kernel("void(int32[::1], int32[::1], int32[::1], int32[:,::1], int32[::1], int32[::1], int32[::1])")
def _structure(
    order: Corners,
    first: Corners,
    parent: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    leaf_node: Corners,
    leaf_of: Corners,
) -> None:
    leaves = leaf_count.size
    fill = (order.size + leaves - 1) // leaves
    begin = np.empty(first.size, np.int32)
    end = np.empty(first.size, np.int32)
    begin[0] = 0
    end[0] = leaves
    parent[0] = -1
    made = 1
    for node in range(first.size):
        if end[node] - begin[node] == 1:
            leaf = begin[node]
            first[node] = -1 - leaf
            leaf_node[leaf] = node
            count = 0
            for i in range(leaf * fill, min((leaf + 1) * fill, order.size)):
                leaf_items[leaf, count] = order[i]
                leaf_of[order[i]] = leaf
                count += 1
            leaf_count[leaf] = count
            continue
        middle = (begin[node] + end[node]) // 2
        first[node] = made
        for side in range(2):
            parent[made] = node
            begin[made] = begin[node] if side == 0 else middle
            end[made] = middle if side == 0 else end[node]
            made += 1


def morton_order(vertex: Corners, position: Points, triangles: Corners) -> Corners:
    """Some triangles in the order of the Morton codes of their centroids, so that neighbours in it are neighbours in space.

    Parameters
    ----------
    vertex : (3 M,) int32
    position : (N, 3) float32
    triangles : (T,) int32
        None of them freed.
    """
    count = triangles.size
    if not count:
        return triangles
    used = position if count * 3 >= position.shape[0] else position[vertex.reshape(-1, 3)[triangles].reshape(-1)]
    low = used.min(axis=0).astype(np.float64)
    extent = float((used.max(axis=0) - low).max())
    code = np.empty(count, np.uint32)
    _codes(vertex, position, triangles, low, 1023.999 / extent if extent > 0 else 0.0, code)
    order = np.empty(count, np.int32)
    _radix(code, triangles.copy(), np.empty_like(code), order)
    return order


def build_tree(vertex: Corners, position: Points, triangles: Corners) -> Tree:
    """A box tree over some triangles.

    Parameters
    ----------
    vertex : (3 M,) int32
    position : (N, 3) float32
    triangles : (T,) int32
        Triangles to hold; freed slots are left out by the caller.

    Notes
    -----
    Triangles are ordered by the Morton code of their centroid (Lauterbach et al., "Fast BVH construction on GPUs",
    2009), here cut into equal leaves that are halved top-down, so the tree is balanced by construction. Children always
    have higher numbers than their parent, which the box updates rely on.
    """
    count = triangles.size
    leaves = max(1, (count + LEAF_FILL - 1) // LEAF_FILL)
    tree = Tree.empty(leaves, vertex.size // 3)
    order = morton_order(vertex, position, triangles)
    _structure(order, tree.first, tree.parent, tree.leaf_items, tree.leaf_count, tree.leaf_node, tree.leaf_of)
    return tree
