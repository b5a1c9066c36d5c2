"""Where water runs: down the steepest way, through pits over their lowest pass, to where it leaves."""

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.weather.graph import Graph
from hulmo.core.workers import WORKERS, side_by_side

Rows = NDArray[np.int32]
Vector = NDArray[np.float64]
Single = NDArray[np.float32]

MANY = 50_000
"""Vertices from which threads pay."""


@dataclass(frozen=True)
class Flow:
    """Ways of water over a surface.

    Attributes
    ----------
    to : (N,) int32
        Where the water of each vertex goes; itself where it leaves.
    far : (N,) float32
        Metres there, level.
    order : (N,) int32
        All vertices, each behind the one its water goes to.
    spill : (N,) float64
        Height to which water would stand in a pit; the vertex's own height everywhere else.
    """

    to: Rows
    far: Single
    order: Rows
    spill: Vector

    def gathered(self, rain: Vector) -> Vector:
        """(N,) what comes together at every vertex of what falls on each."""
        out = np.array(rain, np.float64)
        _gather(self.order, self.to, out)
        return out


@kernel(
    "void(float64[::1], int32[::1], int32[::1], float32[::1], boolean[::1], int64, int64, int32[::1], float32[::1])"
)
def _steepest(
    height: Vector, first: Rows, other: Rows, away: Single, leaves: NDArray[np.bool_], start: int, stop: int, to: Rows,
    far: Single,
) -> None:  # fmt: skip
    for i in range(start, stop):
        to[i] = i
        far[i] = 1.0
        if leaves[i]:
            continue
        best = 0.0
        for k in range(first[i], first[i + 1]):
            slope = (height[i] - height[other[k]]) / away[k]
            if slope > best:
                best = slope
                to[i] = other[k]
                far[i] = away[k]


@kernel("void(int32[::1], int32[::1], int32[::1], int32[::1])")
def _sort(to: Rows, order: Rows, begin: Rows, donors: Rows) -> None:
    # Braun and Willett (2013): a stack that begins at every place where water stays, and goes on with who gives to it, one
    # whole branch after the other, so that what is worked on next lies near
    count = to.size
    for i in range(count + 1):
        begin[i] = 0
    for i in range(count):
        if to[i] != i:
            begin[to[i] + 1] += 1
    for i in range(count):
        begin[i + 1] += begin[i]
    put = begin[:count].copy()
    for i in range(count):
        if to[i] != i:
            donors[put[to[i]]] = i
            put[to[i]] += 1
    done = 0
    stack = put  # no longer needed
    for root in range(count):
        if to[root] != root:
            continue
        stack[0] = root
        size = 1
        while size > 0:
            size -= 1
            here = stack[size]
            order[done] = here
            done += 1
            for k in range(begin[here + 1] - 1, begin[here] - 1, -1):
                stack[size] = donors[k]
                size += 1


@kernel("int64(int32[::1], boolean[::1], int32[::1], int32[::1])")
def _basins(to: Rows, leaves: NDArray[np.bool_], basin: Rows, pit: Rows) -> int:
    # number of the pit that each vertex drains to; 0 for all that leaves
    count = 1
    for i in range(to.size):
        basin[i] = -1
        if to[i] == i:
            if leaves[i]:
                basin[i] = 0
            else:
                basin[i] = count
                pit[count] = i
                count += 1
    for i in range(to.size):
        end = i
        while basin[end] < 0:
            end = to[end]
        here = i
        while basin[here] < 0:
            basin[here] = basin[end]
            here = to[here]
    return count


@kernel("int64(int32[::1], int32[::1], int32[::1], int32[::1], int32[::1])")
def _rims(first: Rows, other: Rows, basin: Rows, one: Rows, two: Rows) -> int:
    # edges between basins
    count = 0
    for i in range(first.size - 1):
        for k in range(first[i], first[i + 1]):
            j = other[k]
            if i < j and basin[i] != basin[j]:
                if count < one.size:
                    one[count] = i
                    two[count] = k
                count += 1
    return count


@kernel(
    "void(int64[::1], int32[::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[::1], float64[::1], int32[::1], "
    "float32[::1], float64[::1])"
)
def _link(
    ranked: NDArray[np.int64], one: Rows, two: Rows, other: Rows, basin: Rows, pit: Rows, away: Single, height: Vector,
    to: Rows, far: Single, spill: Vector,
) -> None:  # fmt: skip
    """Basins joined over their lowest passes (Kruskal), and every pit sent over the pass that leads out."""
    count = pit.size
    root = np.arange(count)
    head = np.full(count, -1, np.int64)
    after = np.full(2 * count, -1, np.int64)
    edge = np.empty(2 * count, np.int64)
    used = 0
    for at in ranked:
        a = basin[one[at]]
        b = basin[other[two[at]]]
        while root[a] != a:
            root[a] = root[root[a]]
            a = root[a]
        while root[b] != b:
            root[b] = root[root[b]]
            b = root[b]
        if a == b:
            continue
        root[max(a, b)] = min(a, b)
        for side in range(2):
            name = basin[one[at]] if side == 0 else basin[other[two[at]]]
            edge[used] = at
            after[used] = head[name]
            head[name] = used
            used += 1
    stack = np.empty(count, np.int64)
    seen = np.zeros(count, np.bool_)
    stack[0] = 0
    seen[0] = True
    size = 1
    while size > 0:
        size -= 1
        here = stack[size]
        link = head[here]
        while link >= 0:
            at = edge[link]
            i = one[at]
            j = other[two[at]]
            if basin[i] != here:
                i, j = j, i
            child = basin[j]
            if not seen[child]:
                seen[child] = True
                stack[size] = child
                size += 1
                to[pit[child]] = i
                far[pit[child]] = away[two[at]]
                spill[pit[child]] = max(height[i], height[j])
            link = after[link]


@kernel("void(int32[::1], int32[::1], float64[::1])")
def _gather(order: Rows, to: Rows, out: Vector) -> None:
    for k in range(order.size - 1, -1, -1):
        here = order[k]
        if to[here] != here:
            out[to[here]] += out[here]


def flow_of(graph: Graph, height: Vector, leaves: NDArray[np.bool_]) -> Flow:
    """Ways of water down a surface.

    Parameters
    ----------
    graph : Graph
    height : (N,) float64
        Metres.
    leaves : (N,) bool
        Where water leaves; at least one vertex of every part that hangs together, or its water stays where it comes to.

    Notes
    -----
    Pits are joined over their lowest passes as in Cordonnier, Bovy and Braun, "A versatile, linear complexity algorithm for
    flow routing in topographies with depressions" (2019).
    """
    count = height.size
    to, far = np.empty(count, np.int32), np.empty(count, np.float32)
    ends = np.linspace(0, count, WORKERS + 1).astype(int).tolist() if count > MANY else [0, count]

    def ways(part: tuple[int, int]) -> None:
        _steepest(height, graph.first, graph.other, graph.away, leaves, part[0], part[1], to, far)

    side_by_side(ways, list(itertools.pairwise(ends)))  # every row is written by one thread
    order, begin, donors = np.empty(count, np.int32), np.empty(count + 1, np.int32), np.empty(count, np.int32)
    basin, pit = np.empty(count, np.int32), np.empty(count + 1, np.int32)
    pits = _basins(to, leaves, basin, pit)
    spill = height.copy()
    if pits > 1:
        room = count // 4 + 64
        while True:
            one, two = np.empty(room, np.int32), np.empty(room, np.int32)
            rims = _rims(graph.first, graph.other, basin, one, two)
            if rims <= room:
                break
            room = rims
        one, two = one[:rims], two[:rims]
        ranked = np.argsort(np.maximum(height[one], height[graph.other[two]]))
        _link(ranked, one, two, graph.other, basin, pit[:pits].copy(), graph.away, height, to, far, spill)
    _sort(to, order, begin, donors)
    return Flow(to, far, order, spill)
