"""A sheet made a body: its other side, and a rim."""

import numpy as np

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.vertex_table import VertexTable


def thicken(vertices: VertexTable, corners: CornerTable, thickness: float) -> tuple[VertexTable, CornerTable]:
    """Give a surface a second side, some metres behind it along its normals, turned over, and close both along borders.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    thickness : float
        Metres; below 0 in front.
    """
    count, triangles = vertices.count, corners.triangles
    table = vertices.copy()
    rows = np.arange(count, dtype=np.int32)
    fresh = table.allocate(count)
    table.blend(fresh, rows, rows, np.zeros(count))
    for name in ("position", REST):
        if name in table:
            table[name][fresh] = table[name][rows] - table["normal"][rows] * np.float32(thickness)
    border = corners.border_corners()
    base = border - border % 3
    a, b = corners.vertex[base + (border + 1) % 3], corners.vertex[base + (border + 2) % 3]
    rim = np.concatenate((np.stack((b, a, a + count), axis=1), np.stack((b, a + count, b + count), axis=1)))
    behind = triangles[:, (0, 2, 1)] + count
    made = np.concatenate((triangles, behind, rim)).astype(np.int32)
    slots = corners.slots.joined(corners.slots.taken(slice(0, corners.count), np.ones(corners.count, np.bool_)))
    return table, CornerTable.from_triangles(made, table.count, slots.with_more(rim.shape[0]))
