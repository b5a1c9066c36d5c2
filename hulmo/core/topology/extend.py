"""More faces along a border."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.vertex_table import VertexTable

Mask = NDArray[np.bool_]

LONGEST = 2.0
"""Times the distance that a corner goes at the most."""


def extend(
    vertices: VertexTable, corners: CornerTable, edges: Mask, distance: float
) -> tuple[VertexTable, CornerTable, Mask]:
    """Put a row of faces outward of border edges, along the surface.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    edges : (M, 3) bool
        By the corner across; those that are no border are passed over.
    distance : float
        Metres that each edge goes outward.

    Returns
    -------
    tuple
        Both tables, new rows and triangles behind the old ones, and which edges are the new border beyond those given.
    """
    border = edges & (corners.opposite.reshape(-1, 3) < 0)
    slot, corner = np.nonzero(border)
    triangles = corners.triangles
    a, b = triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]
    position = vertices["position"].astype(np.float64)
    p = triangles[slot]
    normal = np.cross(position[p[:, 1]] - position[p[:, 0]], position[p[:, 2]] - position[p[:, 0]])
    way = np.cross(position[b] - position[a], normal)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-300)
    total, ends = np.zeros_like(position), np.zeros(vertices.count)
    for rows in (a, b):
        np.add.at(total, rows, way)
        np.add.at(ends, rows, 1.0)
    old = np.flatnonzero(ends).astype(np.int32)
    length = np.linalg.norm(total[old], axis=1)
    # as for offset curves: longer by one over the cosine of half the turn
    half = np.maximum(length / ends[old], 1.0 / LONGEST)
    step = total[old] / np.maximum(length, 1e-300)[:, None] * (distance / half)[:, None]
    table = vertices.copy()
    fresh = table.allocate(old.size)
    table.blend(fresh, old, old, np.zeros(old.size))
    for name in ("position", REST):
        if name in table:
            table[name][fresh] += step.astype(np.float32)
    number = np.zeros(vertices.count, np.int64)
    number[old] = fresh
    made = np.concatenate((np.stack((b, a, number[a]), axis=1), np.stack((b, number[a], number[b]), axis=1)))
    ahead, behind = np.eye(3)[(corner + 1) % 3], np.eye(3)[(corner + 2) % 3]
    share = np.concatenate((np.stack((behind, ahead, ahead), axis=1), np.stack((behind, ahead, behind), axis=1)))
    whole = np.arange(corners.count)
    parent = np.concatenate((whole, slot, slot))
    every = np.concatenate((np.broadcast_to(np.eye(3), (corners.count, 3, 3)), share))
    along = np.concatenate((np.broadcast_to(np.arange(3), (corners.count, 3)), np.full((made.shape[0], 3), -1)))
    along[corners.count : corners.count + slot.size, 2] = corner  # what is known of the edge stays with it
    result = CornerTable.from_triangles(
        np.concatenate((triangles, made)).astype(np.int32), table.count, corners.slots.made(parent, every, along)
    )
    outer = np.zeros((result.count, 3), np.bool_)
    outer[corners.count + slot.size :, 0] = True
    return table, result, outer
