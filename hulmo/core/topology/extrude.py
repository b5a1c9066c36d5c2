"""Faces pulled out of a mesh, with walls between them and where they were."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.mend import mend

Mask = NDArray[np.bool_]
Vector = NDArray[np.float64]


def extrude(
    vertices: VertexTable, corners: CornerTable, faces: Mask, offset: Vector
) -> tuple[VertexTable, CornerTable, Mask]:
    """Pull faces away and close the gap around them with walls of two triangles an edge.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    faces : (M,) bool
    offset : (N, 3) float64
        Metres by which each vertex of the faces goes.

    Returns
    -------
    tuple
        Both tables (the walls behind the old triangles), and which triangles are the faces that were pulled.
    """
    triangles = corners.triangles
    across = corners.opposite.reshape(-1, 3)
    beyond = np.where(across >= 0, faces[np.maximum(across, 0) // 3], False)
    slot, corner = np.nonzero(faces[:, None] & ~beyond)  # the rim, seen from within
    a, b = triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]
    mine = np.zeros(vertices.count, np.bool_)
    mine[triangles[faces].reshape(-1)] = True
    others = np.zeros(vertices.count, np.bool_)
    others[triangles[~faces].reshape(-1)] = True
    others[a] = others[b] = True  # at a border, too, the wall has a foot
    double = np.flatnonzero(mine & others).astype(np.int32)
    table = vertices.copy()
    fresh = table.allocate(double.size)
    table.blend(fresh, double, double, np.zeros(double.size))
    number = np.arange(table.count, dtype=np.int32)
    number[double] = fresh
    for name in ("position", REST):
        if name in table:
            rows = np.flatnonzero(mine)
            table[name][number[rows]] = table[name][rows] + offset[rows].astype(np.float32)
    top = triangles.copy()
    top[faces] = number[triangles[faces]]
    walls = np.concatenate((np.stack((a, b, number[b]), axis=1), np.stack((a, number[b], number[a]), axis=1)))
    ahead, behind = np.eye(3)[(corner + 1) % 3], np.eye(3)[(corner + 2) % 3]
    share = np.concatenate((np.stack((ahead, behind, behind), axis=1), np.stack((ahead, behind, ahead), axis=1)))
    along = np.full((walls.shape[0], 3), -1)
    whole = np.arange(corners.count)
    parent = np.concatenate((whole, slot, slot))
    every = np.concatenate((np.broadcast_to(np.eye(3), (corners.count, 3, 3)), share))
    edges = np.concatenate((np.broadcast_to(np.arange(3), (corners.count, 3)), along))
    return _manifold(table, np.concatenate((top, walls)), corners.slots.made(parent, every, edges), faces)


def _manifold(
    table: VertexTable, triangles: NDArray[np.integer], slots: SlotTable, faces: Mask
) -> tuple[VertexTable, CornerTable, Mask]:
    # where faces only touched in a vertex, walls would meet there in one: each gets its own
    result = mend(table["position"], triangles, outward=False)
    out = VertexTable(result.source.size)
    for name in table.names:
        out.set_column(name, table[name][result.source])
    made = CornerTable.from_triangles(result.triangles, out.count, slots.taken(result.faces, result.turned))
    pulled = np.zeros(triangles.shape[0], np.bool_)
    pulled[: faces.size] = faces
    return out, made, pulled[result.faces]


def inward(vertices: VertexTable, corners: CornerTable, faces: Mask, distance: float) -> Vector:
    """(N, 3) steps along the surface by which the rim of faces goes inward, so that every edge of it moves by a distance; the
    middle stays.

    Notes
    -----
    At a corner of the rim the step is along the mean of both edges' inward ways, longer by one over the cosine of half the
    turn, as for offset curves; twice at the most.
    """
    position = vertices["position"].astype(np.float64)
    triangles = corners.triangles
    across = corners.opposite.reshape(-1, 3)
    beyond = np.where(across >= 0, faces[np.maximum(across, 0) // 3], False)
    slot, corner = np.nonzero(faces[:, None] & ~beyond)
    a, b = triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]
    p = triangles[slot]
    normal = np.cross(position[p[:, 1]] - position[p[:, 0]], position[p[:, 2]] - position[p[:, 0]])
    edge = position[b] - position[a]
    way = np.cross(normal, edge)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    total, ends = np.zeros_like(position), np.zeros(vertices.count)
    for rows in (a, b):
        np.add.at(total, rows, way)
        np.add.at(ends, rows, 1.0)
    length = np.linalg.norm(total, axis=1)
    there = length > 1e-12
    out = np.zeros_like(position)
    # two unit ways u and v: their sum is 2 cos(half) long, and the step 1 / cos(half)
    half = length[there] / np.maximum(ends[there], 1)
    out[there] = total[there] / length[there, None] * (distance * np.minimum(1.0 / np.maximum(half, 0.5), 2.0))[:, None]
    return out
