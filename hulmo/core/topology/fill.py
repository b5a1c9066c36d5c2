"""Closing border loops."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable


def border_loops(corners: CornerTable) -> list[NDArray[np.int32]]:
    """Rows along every border, in the direction that new triangles on the open side would run."""
    border = corners.border_corners()
    vertex = corners.vertex
    base = border - border % 3
    # the border edge runs from next to previous corner; a triangle on the other side runs it backward
    start, end = vertex[base + (border + 2) % 3], vertex[base + (border + 1) % 3]
    after = dict(zip(start.tolist(), end.tolist(), strict=True))
    loops = []
    while after:
        first, row = after.popitem()
        loop = [first]
        while row != first:
            loop.append(row)
            row = after.pop(row)
        loops.append(np.array(loop, np.int32))
    return loops


def fill_borders(vertices: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable, int]:
    """Tables with every border loop closed by a fan around its middle, and how many loops there were.

    The new vertex gets the mean of its loop in every column.
    """
    vertices, corners = compact(vertices, corners)
    loops = border_loops(corners)
    return *fill_loops(vertices, corners, loops), len(loops)


def fill_loops(
    vertices: VertexTable, corners: CornerTable, loops: list[NDArray[np.int32]]
) -> tuple[VertexTable, CornerTable]:
    """As `fill_borders`, some loops only; of tables without freed slots. A loop of three vertices gets one triangle."""
    large = [loop for loop in loops if loop.size > 3]
    table = vertices.copy()
    new = table.allocate(len(large))
    fans = [loop[None].astype(np.int64) for loop in loops if loop.size == 3]
    for row, loop in zip(new.tolist(), large, strict=True):
        for name in table.names:
            table[name][row] = table[name][loop].mean(axis=0)
        fans.append(np.stack((loop, np.roll(loop, -1), np.full(loop.size, row)), axis=1))
    old = corners.live_triangles()
    triangles = np.concatenate((old, *fans)).astype(np.int32)
    slots = corners.slots.with_more(triangles.shape[0] - old.shape[0])
    return table, CornerTable.from_triangles(triangles, table.count, slots)
