"""Graphs of vertices or triangles. SciPy is loaded when it is first needed: it would be a quarter of a second at start."""

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.integer]


def hanging_together(start: Numbers, end: Numbers, count: int) -> tuple[int, NDArray[np.int64]]:
    """How many groups the edges of a graph join its nodes to, and the group of each node.

    Parameters
    ----------
    start, end : (K,) int
        Nodes that each edge joins.
    count : int
        Nodes of the graph.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    graph = coo_array((np.ones(start.size, np.int8), (start, end)), (count, count))
    groups, label = connected_components(graph, directed=False)
    return int(groups), label.astype(np.int64)


def close_pairs(points: NDArray[np.floating], tolerance: float) -> NDArray[np.intp]:
    """(K, 2) pairs of points that are no further apart than a distance."""
    from scipy.spatial import cKDTree

    return np.asarray(cKDTree(points).query_pairs(tolerance, output_type="ndarray"))
