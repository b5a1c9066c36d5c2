"""Picking triangles out of tables, putting tables together, and finding connected parts."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable

Tables = tuple[VertexTable, CornerTable]


def part_of_triangles(corners: CornerTable) -> tuple[int, NDArray[np.int32]]:
    """How many connected parts there are, and the part of each live triangle, in order of size, largest first."""
    triangles = corners.live_triangles()
    count = corners.first_corner.size
    start, end = triangles.reshape(-1), np.roll(triangles, -1, axis=1).reshape(-1)
    graph = coo_array((np.ones(start.size, np.int8), (start, end)), (count, count))
    _, label = connected_components(graph, directed=False)
    names, part = np.unique(label[triangles[:, 0]], return_inverse=True)
    order = np.argsort(-np.bincount(part), kind="stable")
    place = np.empty_like(order)
    place[order] = np.arange(order.size)
    return names.size, place[part].astype(np.int32)


def picked(vertices: VertexTable, corners: CornerTable, chosen: NDArray[np.bool_]) -> Tables:
    """Tables of some of the live triangles, with the vertices they use."""
    live = corners.triangles[:, 0] >= 0
    triangles = corners.triangles[live][chosen]
    used, number = np.unique(triangles, return_inverse=True)
    table = VertexTable(used.size)
    for name in vertices.names:
        table.set_column(name, vertices[name][used])
    uv = None if corners.uv is None else corners.uv[live][chosen]
    result = CornerTable.from_triangles(number.reshape(-1, 3).astype(np.int32), used.size, uv)
    result.region[:] = corners.region[live][chosen]
    return table, result


def joined(one: Tables, other: Tables) -> Tables:
    """Both meshes in one pair of tables, the second's rows behind the first's.

    Columns that only one of them has are zero for the other, but for the form, which is then its position.
    """
    one, other = compact(*one), compact(*other)
    (first, first_corners), (second, second_corners) = one, other
    table = VertexTable(first.count + second.count)
    for name in dict.fromkeys((*first.names, *second.names)):
        width = first.width(name) if name in first else second.width(name)
        parts = []
        for source in (first, second):
            if name in source:
                parts.append(source[name])
            elif name == "rest":
                parts.append(source["position"])
            else:
                parts.append(np.zeros((source.count, width), np.float32))
        table.set_column(name, np.concatenate(parts))
    triangles = np.concatenate((first_corners.live_triangles(), second_corners.live_triangles() + first.count))
    uv = None
    if first_corners.uv is not None and second_corners.uv is not None:
        uv = np.concatenate([c.uv[c.triangles[:, 0] >= 0] for c in (first_corners, second_corners) if c.uv is not None])
    result = CornerTable.from_triangles(triangles.astype(np.int32), table.count, uv)
    result.region[:] = np.concatenate([c.region[c.triangles[:, 0] >= 0] for c in (first_corners, second_corners)])
    return table, result


def turned_over(vertices: VertexTable, corners: CornerTable) -> Tables:
    """The same mesh with its faces turned over."""
    vertices, corners = compact(vertices, corners)
    live = corners.triangles[:, 0] >= 0
    uv = None if corners.uv is None else np.ascontiguousarray(corners.uv[live][:, (0, 2, 1)])
    triangles = np.ascontiguousarray(corners.live_triangles()[:, (0, 2, 1)])
    result = CornerTable.from_triangles(triangles, vertices.count, uv)
    result.region[:] = corners.region[live]
    return vertices.copy(), result
