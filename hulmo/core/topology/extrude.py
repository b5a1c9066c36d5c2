"""Faces pulled out of a mesh, with walls between them and where they were."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.graph import hanging_together
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
    table = vertices.copy()
    # a vertex at the rim is doubled, once for every fan of the faces at it
    at, fan = _fans(corners, faces)
    rim = mine & others
    doubled = rim[corners.vertex[at]]
    _, first, which = np.unique(fan[doubled], return_index=True, return_inverse=True)
    old = corners.vertex[at[doubled]][first].astype(np.int32)
    fresh = table.allocate(old.size)
    table.blend(fresh, old, old, np.zeros(old.size))
    top = triangles.copy()
    top.reshape(-1)[at[doubled]] = fresh[which.reshape(-1)]
    for name in ("position", REST):
        if name in table:
            rows = np.flatnonzero(mine & ~rim)
            table[name][rows] += offset[rows].astype(np.float32)
            table[name][fresh] += offset[old].astype(np.float32)
    up, next_up = top[slot, (corner + 1) % 3], top[slot, (corner + 2) % 3]
    walls = np.concatenate((np.stack((a, b, next_up), axis=1), np.stack((a, next_up, up), axis=1)))
    ahead, behind = np.eye(3)[(corner + 1) % 3], np.eye(3)[(corner + 2) % 3]
    share = np.concatenate((np.stack((ahead, behind, behind), axis=1), np.stack((ahead, behind, ahead), axis=1)))
    along = np.full((walls.shape[0], 3), -1)
    whole = np.arange(corners.count)
    parent = np.concatenate((whole, slot, slot))
    every = np.concatenate((np.broadcast_to(np.eye(3), (corners.count, 3, 3)), share))
    edges = np.concatenate((np.broadcast_to(np.arange(3), (corners.count, 3)), along))
    return _manifold(table, np.concatenate((top, walls)), corners.slots.made(parent, every, edges), faces)


def _fans(corners: CornerTable, faces: Mask) -> tuple[NDArray[np.intp], NDArray[np.int64]]:
    # corners of some faces, and the fan of faces around its vertex that each belongs to, numbered by vertex
    at = np.flatnonzero(np.repeat(faces, 3))
    place = np.full(faces.size * 3, -1)
    place[at] = np.arange(at.size)
    ahead = at - at % 3 + (at + 1) % 3
    across = corners.opposite[ahead]
    beside = np.where(across >= 0, across - across % 3 + (across + 1) % 3, 0)
    joined = (across >= 0) & (place[beside] >= 0)
    _, label = hanging_together(np.flatnonzero(joined), place[beside[joined]], at.size)
    first = np.full(int(label.max(initial=-1)) + 1, np.iinfo(np.int64).max)
    np.minimum.at(first, label, corners.vertex[at].astype(np.int64) * at.size + np.arange(at.size))
    return at, first[label]


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
