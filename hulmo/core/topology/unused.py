"""Tables without rows that no triangle uses."""

import numpy as np

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable


def without_unused(vertices: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable]:
    """The same mesh without vertices that lie at no triangle; the very same tables where there are none.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    """
    used = np.zeros(vertices.count, np.bool_)
    used[corners.triangles] = True
    if used.all():
        return vertices, corners
    number = np.cumsum(used, dtype=np.int32) - 1
    table = VertexTable(int(used.sum()))
    for name in vertices.names:
        table.set_column(name, vertices[name][used])
    return table, CornerTable.from_triangles(number[corners.triangles], table.count, corners.slots)
