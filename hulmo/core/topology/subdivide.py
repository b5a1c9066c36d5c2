"""Split every triangle in four at the middles of its edges."""

import numpy as np

from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable


def subdivide(vertices: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable]:
    """New tables with four triangles for each old one; the shape stays as it is.

    Every vertex column is interpolated at the edge middles, those of corners likewise; what is known of faces and edges is
    inherited.

    Returns
    -------
    tuple
        Vertex table with V + E rows (old rows first) and corner table with 4 F triangles.

    Examples
    --------
    >>> from hulmo.core.mesh.forms import FORMS
    >>> from hulmo.core.mesh.body import Body
    >>> sheet = FORMS["sheet"]
    >>> body = Body.from_shape("Sheet", sheet.build({"size": 1.0, "depth": 1.0, "edge": 1.0}))
    >>> subdivide(body.vertices, body.corners)[1].count
    8
    """
    vertices, corners = compact(vertices, corners)
    triangles = corners.live_triangles()
    tail = triangles[:, (1, 2, 0)].astype(np.int64)
    tip = triangles[:, (2, 0, 1)].astype(np.int64)
    key = np.minimum(tail, tip) * vertices.count + np.maximum(tail, tip)
    edges, inverse = np.unique(key.reshape(-1), return_inverse=True)
    table = vertices.copy()
    rows = table.allocate(edges.size)
    low = (edges // vertices.count).astype(np.int32)
    high = (edges % vertices.count).astype(np.int32)
    table.blend(rows, low, high, np.full(edges.size, 0.5))
    middle = rows[inverse].reshape(-1, 3)
    a, b, c = (triangles[:, i] for i in range(3))
    ma, mb, mc = (middle[:, i] for i in range(3))
    quarters = np.stack((a, mc, mb, mc, b, ma, mb, ma, c, ma, mb, mc), axis=1).reshape(-1, 3)
    return table, CornerTable.from_triangles(quarters, table.count, corners.slots.quartered())
