"""Thin triangles made better one by one, by turning an edge or joining two vertices."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import GUARD
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import all_of, any_of
from hulmo.core.mesh.seams import on_seams, seams
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.better import BORDER, FIXED, MOST_EDGES, ON, STRAIGHT, Changes, better_changes
from hulmo.core.topology.join_vertices import joined
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
        thin = np.flatnonzero((angle < limit) & all_of(looked, corners.triangles) & any_of(fresh, corners.triangles))
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
    return joined(corners, found.joins) if found.joins.size else corners
