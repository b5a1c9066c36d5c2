"""Keeping the box tree true while triangles move, come and go; the cost is that of the triangles named."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels, written_into_kernels
from hulmo.core.mesh.moment import Slots, place_at

Corners = NDArray[np.int32]
Points = NDArray[np.float32]

ANEW, KEEP, READ = 0, 1, 2
"""What boxes of leaves hold: triangles where they are; and whatever they held before; and triangles where they were, too."""


@written_into_kernels
def _leaf_box(box, node, leaf_items, leaf, count, vertex, position, start, slot, mode):  # type: ignore[no-untyped-def]
    if mode == READ:  # two ways through the same code, each without the other's branches
        _span(box, node, leaf_items, leaf, count, vertex, position, start, slot, False, True)
    else:
        _span(box, node, leaf_items, leaf, count, vertex, position, start, slot, mode == KEEP, False)


@written_into_kernels
def _span(box, node, leaf_items, leaf, count, vertex, position, start, slot, keep, then):  # type: ignore[no-untyped-def]
    lx = box[node, 0] if keep else np.float32(np.inf)
    ly = box[node, 1] if keep else np.float32(np.inf)
    lz = box[node, 2] if keep else np.float32(np.inf)
    hx = box[node, 3] if keep else np.float32(-np.inf)
    hy = box[node, 4] if keep else np.float32(-np.inf)
    hz = box[node, 5] if keep else np.float32(-np.inf)
    for i in range(count):
        base = 3 * leaf_items[leaf, i]
        for corner in range(base, base + 3):
            row = vertex[corner]
            x = position[row, 0]
            y = position[row, 1]
            z = position[row, 2]
            lx = min(lx, x)
            ly = min(ly, y)
            lz = min(lz, z)
            hx = max(hx, x)
            hy = max(hy, y)
            hz = max(hz, z)
            if then:
                x, y, z = place_at(position, start, slot, row)
                lx = min(lx, x)
                ly = min(ly, y)
                lz = min(lz, z)
                hx = max(hx, x)
                hy = max(hy, y)
                hz = max(hz, z)
    box[node, 0] = lx
    box[node, 1] = ly
    box[node, 2] = lz
    box[node, 3] = hx
    box[node, 4] = hy
    box[node, 5] = hz


@written_into_kernels
def _join_box(box, node, child):  # type: ignore[no-untyped-def]
    for axis in range(3):
        box[node, axis] = min(box[child, axis], box[child + 1, axis])
        box[node, 3 + axis] = max(box[child, 3 + axis], box[child + 1, 3 + axis])


@kernel("void(float32[:,::1], int32[::1], int64, int32[:,::1], int32[::1], int32[::1], float32[:,::1])")
def fit_all(
    box: Points,
    first: Corners,
    nodes: int,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    vertex: Corners,
    position: Points,
) -> None:
    """Boxes of every node, from the leaves up."""
    now = np.empty(0, np.int32)
    for node in range(nodes - 1, -1, -1):
        if first[node] < 0:
            leaf = -1 - first[node]
            _leaf_box(box, node, leaf_items, leaf, leaf_count[leaf], vertex, position, position, now, ANEW)
        else:
            _join_box(box, node, first[node])


@kernel(
    "int64(float32[:,::1], int32[::1], int32[::1], int32[:,::1], int32[::1], int32[::1], int32[::1], float32[:,::1], "
    "float32[:,::1], int32[::1], int64, int32[::1], int32[::1], int64)"
)
def fit_leaves(
    box: Points,
    first: Corners,
    parent: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    leaf_node: Corners,
    vertex: Corners,
    position: Points,
    start: Points,
    slot: Slots,
    mode: int,
    leaves: Corners,
    node_stamp: Corners,
    stamp: int,
) -> int:
    """Boxes of some leaves (-1 is passed over), and of all nodes above them; returns how many boxes were made anew."""
    above = np.empty(4 * leaves.size + 64, np.int32)
    n_above = 0
    n_leaves = 0
    for i in range(leaves.size):
        leaf = leaves[i]
        if leaf < 0:
            continue
        node = leaf_node[leaf]
        if node_stamp[node] == stamp:
            continue
        node_stamp[node] = stamp
        _leaf_box(box, node, leaf_items, leaf, leaf_count[leaf], vertex, position, start, slot, mode)
        n_leaves += 1
        node = parent[node]
        while node >= 0 and node_stamp[node] != stamp:
            node_stamp[node] = stamp
            if n_above == above.size:
                grown = np.empty(2 * above.size, np.int32)
                grown[:n_above] = above
                above = grown
            above[n_above] = node
            n_above += 1
            node = parent[node]
    order = np.sort(above[:n_above])
    for i in range(n_above - 1, -1, -1):
        _join_box(box, order[i], first[order[i]])
    return n_leaves + n_above


@kernel("void(int32[:,::1], int32[::1], int32[::1], int32[::1])")
def take_out(leaf_items: NDArray[np.int32], leaf_count: Corners, leaf_of: Corners, triangles: Corners) -> None:
    """Forget triangles. Boxes stay as they are until `fit_leaves`: too large, but true."""
    for i in range(triangles.size):
        leaf = leaf_of[triangles[i]]
        if leaf < 0:
            continue
        leaf_of[triangles[i]] = -1
        last = leaf_count[leaf] - 1
        for slot in range(last + 1):
            if leaf_items[leaf, slot] == triangles[i]:
                leaf_items[leaf, slot] = leaf_items[leaf, last]
                break
        leaf_count[leaf] = last


@written_into_kernels
def _growth(box, node, middle):  # type: ignore[no-untyped-def]
    # how much the half perimeter of a box grows when a point joins it
    total = 0.0
    for axis in range(3):
        total += max(box[node, axis] - middle[axis], 0.0) + max(middle[axis] - box[node, 3 + axis], 0.0)
    return total


@part_of_kernels
def _centres(items, count, axis, vertex, position, out):  # type: ignore[no-untyped-def]
    for i in range(count):
        base = 3 * items[i]
        out[i] = (
            np.float64(position[vertex[base], axis])
            + position[vertex[base + 1], axis]
            + position[vertex[base + 2], axis]
        )


@part_of_kernels
def _hang(  # type: ignore[no-untyped-def]
    node, items, fill, box, first, parent, leaf_items, leaf_count, leaf_node, leaf_of, vertex, moments, mode, used
):  # fmt: skip
    # a balanced tree over some triangles in place of a leaf: halved along the widest axis of their centres
    position, start, slot = moments
    starts = np.empty(64, np.int64)
    ends = np.empty(64, np.int64)
    nodes = np.empty(64, np.int64)
    spare = -1 - first[node]  # the leaf that is taken apart is used for the first part
    centres = np.empty(items.size, np.float64)
    starts[0] = 0
    ends[0] = items.size
    nodes[0] = node
    size = 1
    low_node = used[0]
    while size > 0:
        size -= 1
        begin = starts[size]
        end = ends[size]
        node_at = nodes[size]
        count = end - begin
        if count <= fill:
            leaf = spare
            if leaf < 0:
                leaf = used[1]
                used[1] += 1
            spare = -1
            first[node_at] = -1 - leaf
            leaf_node[leaf] = node_at
            leaf_count[leaf] = count
            for i in range(count):
                leaf_items[leaf, i] = items[begin + i]
                leaf_of[items[begin + i]] = leaf
            _leaf_box(box, node_at, leaf_items, leaf, count, vertex, position, start, slot, mode)
            continue
        wide = -1.0
        widest = 0
        for axis in range(3):
            _centres(items[begin:end], count, axis, vertex, position, centres)
            spread = centres[:count].max() - centres[:count].min()
            if spread > wide:
                wide = spread
                widest = axis
        _centres(items[begin:end], count, widest, vertex, position, centres)
        order = np.argsort(centres[:count])
        items[begin:end] = items[begin:end][order]
        child = used[0]
        used[0] += 2
        first[node_at] = child
        middle = begin + count // 2
        for side in range(2):
            parent[child + side] = node_at
            starts[size] = begin if side == 0 else middle
            ends[size] = middle if side == 0 else end
            nodes[size] = child + side
            size += 1
    for other in range(used[0] - 1, low_node - 1, -1):
        if first[other] >= 0:
            _join_box(box, other, first[other])
    if first[node] >= 0:
        _join_box(box, node, first[node])


@kernel(
    "int64(float32[:,::1], int32[::1], int32[::1], int32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], "
    "float32[:,::1], float32[:,::1], int32[::1], int64, int32[::1], int32[::1], int64[::1], int64)"
)
def put_in(
    box: Points,
    first: Corners,
    parent: Corners,
    leaf_items: NDArray[np.int32],
    leaf_count: Corners,
    leaf_node: Corners,
    leaf_of: Corners,
    vertex: Corners,
    position: Points,
    start: Points,
    slot: Slots,
    mode: int,
    triangles: Corners,
    goals: Corners,
    used: NDArray[np.int64],
    fill: int,
) -> int:
    """Take in triangles, each into the leaf of `goals`, or, at -1, into the one whose boxes would grow least.

    Leaves that get too many become balanced trees of leaves of at most `fill`, so that depth grows with the logarithm of
    what came. `used` holds nodes, leaves.

    Boxes stay as they are until `fit_leaves`: a leaf that grew with each arrival would draw in all that follow.

    Returns
    -------
    int
        Depth of the deepest leaf that was taken apart, its new branches included.
    """
    room = leaf_items.shape[1]
    middle = np.empty(3, np.float64)
    waiting = np.empty(triangles.size, np.int64)
    where = np.empty(triangles.size, np.int64)
    count = 0
    for i in range(triangles.size):
        triangle = triangles[i]
        for axis in range(3):
            middle[axis] = 0.0
            for corner in range(3 * triangle, 3 * triangle + 3):
                middle[axis] += position[vertex[corner], axis] / 3.0
        leaf = goals[i]
        if leaf < 0:
            node = 0
            while first[node] >= 0:
                child = first[node]
                node = child if _growth(box, child, middle) <= _growth(box, child + 1, middle) else child + 1
            leaf = -1 - first[node]
        if leaf_count[leaf] < room:
            leaf_items[leaf, leaf_count[leaf]] = triangle
            leaf_count[leaf] += 1
            leaf_of[triangle] = leaf
        else:
            waiting[count] = triangle
            where[count] = leaf
            count += 1
    deepest = 0
    order = np.argsort(where[:count], kind="mergesort")
    i = 0
    while i < count:
        leaf = where[order[i]]
        j = i
        while j < count and where[order[j]] == leaf:
            j += 1
        items = np.empty(room + j - i, np.int32)
        items[:room] = leaf_items[leaf]
        for k in range(i, j):
            items[room + k - i] = waiting[order[k]]
        node = leaf_node[leaf]
        depth = 0
        above = parent[node]
        while above >= 0:
            depth += 1
            above = parent[above]
        parts = (items.size + fill - 1) // fill
        while parts > 1:
            depth += 1
            parts = (parts + 1) // 2
        deepest = max(deepest, depth + 1)
        _hang(
            node, items, fill, box, first, parent, leaf_items, leaf_count, leaf_node, leaf_of, vertex,
            (position, start, slot), mode, used,
        )  # fmt: skip
        i = j
    return deepest
