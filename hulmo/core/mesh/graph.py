"""Graphs of vertices or triangles. SciPy is loaded when it is first needed: it would be a quarter of a second at start."""

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.integer]

FEW = 400_000
"""Edges up to which groups are found without SciPy."""


def hanging_together(start: Numbers, end: Numbers, count: int) -> tuple[int, NDArray[np.int64]]:
    """How many groups the edges of a graph join its nodes to, and the group of each node.

    Parameters
    ----------
    start, end : (K,) int
        Nodes that each edge joins.
    count : int
        Nodes of the graph.
    """
    if start.size <= FEW:
        return _least_first(start, end, count)
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    graph = coo_array((np.ones(start.size, np.int8), (start, end)), (count, count))
    groups, label = connected_components(graph, directed=False)
    return int(groups), label.astype(np.int64)


def _least_first(start: Numbers, end: Numbers, count: int) -> tuple[int, NDArray[np.int64]]:
    # each node takes the least number it can reach in one step, and leaps by what it took before, until none changes: Zhang,
    # Azad and Hu, "FastSV: a distributed-memory connected component algorithm with fast convergence" (2020)
    least = np.arange(count)
    one, other = np.concatenate((start, end)), np.concatenate((end, start))
    while True:
        beyond = least[least]
        new, reached = np.minimum(least, beyond), beyond[other]
        np.minimum.at(new, least[one], reached)
        np.minimum.at(new, one, reached)
        if np.array_equal(new, least):
            break
        least = new
    first = least == np.arange(count)
    return int(first.sum()), (np.cumsum(first) - 1)[least]


def close_pairs(points: NDArray[np.floating], tolerance: float) -> NDArray[np.intp]:
    """(K, 2) pairs of points that are no further apart than a distance."""
    from scipy.spatial import cKDTree

    return np.asarray(cKDTree(points).query_pairs(tolerance, output_type="ndarray"))
