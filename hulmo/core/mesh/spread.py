"""Letting a value of the vertices spread to their neighbours."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable

Share = NDArray[np.float32]


def spread(corners: CornerTable, value: Share, way: str) -> Share:
    """One step over the edges of a mesh.

    Parameters
    ----------
    corners : CornerTable
    value : (N,) float32
    way : str
        grow: the largest value of a vertex and its neighbours; shrink: the smallest; soften: halfway to the neighbours'
        mean.

    Returns
    -------
    (N,) float32
    """
    triangles = corners.live_triangles()
    out = value.copy()
    ends = [(triangles[:, i], triangles[:, j]) for i, j in ((0, 1), (1, 2), (2, 0), (1, 0), (2, 1), (0, 2))]
    if way == "soften":
        total, count = np.zeros(value.size), np.zeros(value.size)
        for start, end in ends:
            total += np.bincount(start, value[end], value.size)
            count += np.bincount(start, minlength=value.size)
        has = count > 0
        out[has] = 0.5 * value[has] + 0.5 * (total[has] / count[has])
        return out
    best = np.maximum if way == "grow" else np.minimum
    for start, end in ends:
        best.at(out, start, value[end])
    return out
