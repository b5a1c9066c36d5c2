"""Thin triangles made better one by one, by turning an edge or joining two vertices."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import GUARD
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.seams import on_seams, seams
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.better import BORDER, FIXED, MOST_EDGES, ON, STRAIGHT, Changes, better_changes
from hulmo.core.topology.turn_edges import turn_edges

Mask = NDArray[np.bool_]
Places = NDArray[np.float64]

ROUNDS = 6
"""How often what is left is gone over again."""


def improved(vertices: VertexTable, corners: CornerTable, faces: Mask, limit: float, joins: bool = True) -> CornerTable:
    """Make thin triangles better where the shape allows it.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    faces : (M,) bool
        Which triangles are looked at; those next to them can change as well.
    limit : float
        Degrees of the smallest angle from which on a triangle is good enough.
    joins : bool
        Whether vertices may be joined; otherwise edges are turned only.

    Returns
    -------
    CornerTable
        Over the same rows, some of which it may not use any more. Borders, guarded vertices and seams stay where they are; a
        vertex through which a seam goes on straight can be joined with the next one of it.
    """
    position = np.ascontiguousarray(vertices["position"], np.float64)
    looked, fresh = np.zeros(vertices.count, np.bool_), np.ones(vertices.count, np.bool_)
    looked[corners.triangles[faces]] = True
    for _ in range(ROUNDS):
        angle, _ = shapes_of(position, corners.triangles)
        # after the first round only what has changed can be better off
        thin = np.flatnonzero(
            (angle < limit) & looked[corners.triangles].all(axis=1) & fresh[corners.triangles].any(axis=1)
        )
        edges = np.bincount(corners.vertex, minlength=vertices.count)  # at a border one more
        crowded = np.flatnonzero((edges > MOST_EDGES) & looked & fresh)
        if not thin.size and not crowded.size:
            break
        marked = seams(corners)
        order = thin[np.argsort(angle[thin])]
        states = _states(vertices, corners, marked)
        found = better_changes(corners, position, angle, marked, states, order, crowded, limit, joins)
        if not found.turns.size and not found.joins.size:
            break
        fresh = found.touched
        corners = _changed(corners, found)
    return corners


def _states(vertices: VertexTable, corners: CornerTable, marked: Mask) -> NDArray[np.uint8]:
    # what is to be known of each vertex; see `better_changes`
    on, straight = on_seams(corners, vertices["position"], marked)
    border = np.zeros(vertices.count, np.bool_)
    at = corners.border_corners()
    for step in (1, 2):
        border[corners.vertex[at - at % 3 + (at + step) % 3]] = True
    fixed = border.copy()
    if GUARD in vertices:
        fixed |= vertices[GUARD][:, 0] > 0
    return np.asarray(FIXED * fixed + BORDER * border + ON * on + STRAIGHT * straight, np.uint8)


def _changed(corners: CornerTable, found: Changes) -> CornerTable:
    # the triangles after all that was found
    if found.turns.size:
        which = np.zeros(3 * corners.count, np.bool_)
        which[found.turns] = which[corners.opposite[found.turns]] = True
        corners, _ = turn_edges(corners, which.reshape(-1, 3), corners.first_corner.size)
    if not found.joins.size:
        return corners
    triangles = corners.triangles.copy()
    slots = corners.slots.copy()
    keep = np.ones(corners.count, np.bool_)
    known = slots.names("corner")
    for gone, stays in found.joins.tolist():
        ring = corners.ring(gone)
        slot = int(next(c // 3 for c in ring.tolist() if stays in triangles[c // 3]))
        for name in known:
            value = slots[name][slot, int(np.flatnonzero(triangles[slot] == stays)[0])].copy()
            slots[name][ring // 3, ring % 3] = value
        triangles.reshape(-1)[ring] = stays
        _joined_edges(corners, slots, ring, stays, keep)
    return CornerTable.from_triangles(triangles[keep], corners.first_corner.size, slots.taken(keep))


def _joined_edges(corners: CornerTable, slots: SlotTable, ring: NDArray[np.int32], stays: int, keep: Mask) -> None:
    # two edges of a triangle that goes become one, and say what either said
    for corner in ring.tolist():
        slot, mine = divmod(corner, 3)
        at = np.flatnonzero(corners.triangles[slot] == stays)
        if not at.size:
            continue
        keep[slot] = False
        one, two = (int(corners.opposite[3 * slot + k]) for k in (mine, int(at[0])))
        for name in slots.names("edge"):
            value = max(slots[name][slot, mine], slots[name][slot, int(at[0])], key=lambda v: float(np.abs(v).max()))
            for other in (one, two):
                if other >= 0:
                    slots[name][other // 3, other % 3] = value
