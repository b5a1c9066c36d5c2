"""Building the box tree over triangles: order them along a Morton curve, cut into leaves, halve the leaves."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.low_high import low_high
from hulmo.core.mesh.morton import in_order, spread
from hulmo.core.mesh.tree import LEAF_FILL, Tree

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


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
            total |= np.uint32(spread(cell)) << np.uint32(axis)
        code[i] = total


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
    least, most = low_high(used)
    low = least.astype(np.float64)
    extent = float((most - low).max())
    code = np.empty(count, np.uint32)
    _codes(vertex, position, triangles, low, 1023.999 / extent if extent > 0 else 0.0, code)
    return in_order(code, triangles.copy())


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
