"""A band of triangles between two border loops."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable

Rows = NDArray[np.int32]


def bridge(vertices: VertexTable, corners: CornerTable, one: Rows, other: Rows) -> tuple[VertexTable, CornerTable]:
    """Join two loops, as `fill.border_loops` gives them, by a band whose triangles take the shorter diagonal each time.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    one, other : (K,), (L,) int32
        Rows in the direction that new triangles run.
    """
    position = vertices["position"].astype(np.float64)
    back = other[::-1]  # both loops run the same way round then
    best = min(range(back.size), key=lambda at: float(np.linalg.norm(position[one[0]] - position[back[at]])))
    back = np.roll(back, -best)
    i = j = 0
    band = []
    while i < one.size or j < back.size:
        p, q = one[i % one.size], back[j % back.size]
        p2, q2 = one[(i + 1) % one.size], back[(j + 1) % back.size]
        first = float(np.linalg.norm(position[p2] - position[q]))
        second = float(np.linalg.norm(position[p] - position[q2]))
        if j >= back.size or (i < one.size and first <= second):
            band.append((p, p2, q))
            i += 1
        else:
            band.append((p, q2, q))
            j += 1
    triangles = np.concatenate((corners.triangles, np.array(band, np.int32)))
    slots = corners.slots.with_more(len(band))
    return vertices.copy(), CornerTable.from_triangles(triangles, vertices.count, slots)
