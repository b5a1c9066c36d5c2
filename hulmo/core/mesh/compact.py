"""Tables without freed slots, for files and exports."""

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.used_rows import over_used_rows
from hulmo.core.mesh.vertex_table import VertexTable


def compact(vertices: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable]:
    """The same mesh without freed rows and triangle slots; the very same tables when there are none.

    Order is kept.
    """
    if vertices.live_count == vertices.count and corners.live_count == corners.count:
        return vertices, corners
    live = corners.triangles[:, 0] >= 0
    triangles = corners.triangles[live]
    used, triangles = over_used_rows(triangles, vertices.count)
    table = VertexTable(used.size)
    for name in vertices.names:
        table.set_column(name, vertices[name][used])
    return table, CornerTable.from_triangles(triangles, used.size, corners.slots.taken(live))
