"""Picking triangles out of tables, putting tables together, and finding connected parts."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.parts_across import parts_across
from hulmo.core.mesh.used_rows import over_used_rows
from hulmo.core.mesh.vertex_table import VertexTable

Tables = tuple[VertexTable, CornerTable]


def part_of_triangles(corners: CornerTable) -> tuple[int, NDArray[np.int32]]:
    """How many connected parts there are, and the part of each live triangle, in order of size, largest first."""
    count, label = parts_across(corners.opposite, corners.triangles[:, 0] >= 0)
    part = label[label >= 0]
    order = np.argsort(-np.bincount(part, minlength=count), kind="stable")
    place = np.empty_like(order)
    place[order] = np.arange(order.size)
    return count, place[part].astype(np.int32)


def picked(vertices: VertexTable, corners: CornerTable, chosen: NDArray[np.bool_]) -> Tables:
    """Tables of some of the live triangles, with the vertices they use."""
    return taken(vertices, corners, np.flatnonzero(corners.triangles[:, 0] >= 0)[chosen])


def taken(vertices: VertexTable, corners: CornerTable, slots: NDArray[np.intp]) -> Tables:
    """Tables of the triangles in some slots, in their order, with the vertices they use.

    Raises
    ------
    InvalidInput
        They touch each other in a single vertex somewhere.
    """
    used, own = over_used_rows(corners.triangles[slots], vertices.count)
    table = VertexTable(used.size)
    for name in vertices.names:
        table.set_column(name, vertices[name][used])
    return table, CornerTable.from_triangles(own, used.size, corners.slots.taken(slots))


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
    slots = first_corners.slots.joined(second_corners.slots)
    return table, CornerTable.from_triangles(triangles.astype(np.int32), table.count, slots)


def turned_over(vertices: VertexTable, corners: CornerTable) -> Tables:
    """The same mesh with its faces turned over."""
    vertices, corners = compact(vertices, corners)
    triangles = np.ascontiguousarray(corners.triangles[:, (0, 2, 1)])
    slots = corners.slots.taken(slice(0, corners.count), np.ones(corners.count, np.bool_))
    return vertices.copy(), CornerTable.from_triangles(triangles, vertices.count, slots)
