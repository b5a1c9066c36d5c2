"""A skirt: a band that hangs down from the border of a patch, so that no gap shows where coarser ones meet it."""

import numpy as np

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.vertex_table import VertexTable


def skirted(body: Body, metres: float) -> Body:
    """A plain body with a band of so many metres straight down from its border; what lay there keeps its normals."""
    corners, count = body.corners, body.vertices.count
    at = corners.border_corners()
    if not metres or not at.size:
        return body
    base = at - at % 3
    begin, end = base + (at + 1) % 3, base + (at + 2) % 3
    rows, number = np.unique(np.concatenate((corners.vertex[begin], corners.vertex[end])), return_inverse=True)
    low_begin, low_end = (count + number).reshape(2, -1)
    table = VertexTable(count + rows.size)
    for name in body.vertices.names:
        column = body.vertices[name]
        table.set_column(name, np.concatenate((column, column[rows])))
    position = table["position"]
    position[count:] -= (metres * body.up(position[count:])).astype(np.float32)
    top_begin, top_end = corners.vertex[begin], corners.vertex[end]
    band = np.concatenate(
        (np.stack((top_end, top_begin, low_begin), axis=1), np.stack((top_end, low_begin, low_end), axis=1))
    ).astype(np.int32)
    slots = SlotTable(corners.count + len(band))
    face = np.concatenate((at // 3, at // 3))
    for name in corners.slots.names():
        values, domain = corners.slots[name], corners.slots.domain(name)
        if domain == "corner":
            flat = values.reshape(-1, values.shape[2])
            more = np.concatenate((np.stack((flat[end], flat[begin], flat[begin]), axis=1),
                                   np.stack((flat[end], flat[begin], flat[end]), axis=1)))  # fmt: skip
        else:
            more = values[face] if domain == "face" else np.zeros((len(band), *values.shape[1:]), np.float32)
        slots.set(domain, name, np.concatenate((values, more)))
    triangles = np.concatenate((corners.triangles, band))
    made = Body(body.name, table, CornerTable.from_triangles(triangles, table.count, slots), body.ident)
    made.origin, made.down, made.base = body.origin, body.down, body.base
    normal = table["normal"].copy()
    made.replaced()
    made.vertices["normal"][:] = normal
    return made
