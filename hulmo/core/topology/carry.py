"""Carrying what is known at the vertices of one mesh over to the vertices of another that lies on it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.vertex_table import VertexTable

Points = NDArray[np.float32]

INSIDE = 0.02
"""Share of the way from a corner to the middle of its triangle."""


def carry(source: Body, position: Points) -> VertexTable:
    """A vertex table for new positions, with every column of a body taken from the nearest point of its surface.

    Parameters
    ----------
    source : Body
    position : (K, 3) float32
        Metres; on the source or near it.

    Returns
    -------
    VertexTable
        K rows: `position`, and all further columns but normals, interpolated within the nearest triangle. Relief layers
        keep their offsets, and the form is what is left of the position.
    """
    triangle, weight = source.index.nearest_many(source.corners.vertex, source.vertices["position"], position)
    rows = source.corners.triangles[triangle]
    table = VertexTable(position.shape[0])
    table.set_column("position", position)
    for name in source.vertices.names:
        if name in ("position", "normal"):
            continue
        column = source.vertices[name]
        values = sum(weight[:, i, None] * column[rows[:, i]] for i in range(3))
        table.set_column(name, np.asarray(values, np.float32))
    if source.layers:
        form = position.copy()
        for layer in reversed(source.layers):
            if layer.share:
                form -= np.float32(layer.share) * table[layer.column]
        table.set_column(REST, form)
    return table


def carry_faces(
    source: Body, position: Points, triangles: NDArray[np.int32]
) -> tuple[NDArray[np.float32] | None, NDArray[np.uint16]]:
    """UV of the corners and region of the triangles of a mesh that lies on a body.

    Returns
    -------
    uv : (M, 3, 2) float32 or None
        From the nearest triangle, looked up a little inside each corner so that seams stay seams; None without UV.
    region : (M,) uint16
    """
    if source.corners.uv is None and not source.corners.region.any():
        return None, np.zeros(triangles.shape[0], np.uint16)
    corner = position[triangles]
    middle = corner.mean(axis=1)
    index, vertex, old = source.index, source.corners.vertex, source.vertices["position"]
    face, _ = index.nearest_many(vertex, old, middle)
    region = source.corners.region[face].astype(np.uint16)
    if source.corners.uv is None:
        return None, region
    inside = corner + (middle[:, None] - corner) * np.float32(INSIDE)
    face, weight = index.nearest_many(vertex, old, inside.reshape(-1, 3))
    uv = np.einsum("ki,kij->kj", weight, source.corners.uv[face])
    return uv.reshape(-1, 3, 2).astype(np.float32), region


def carried(source: Body, position: Points, triangles: NDArray[np.int32]) -> tuple[VertexTable, CornerTable]:
    """Both tables of a mesh that lies on a body, with everything `carry` and `carry_faces` bring along."""
    table = carry(source, position)
    uv, region = carry_faces(source, table["position"], triangles)
    corners = CornerTable.from_triangles(triangles, table.count, uv)
    corners.region[:] = region
    return table, corners
