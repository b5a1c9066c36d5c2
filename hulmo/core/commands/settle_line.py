"""Triangles made good again as the relief of a line has drawn them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import all_of, any_of
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.sides import edges_at, side_lengths
from hulmo.core.mesh.thin import shapes_of
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.cut_along import FAIR
from hulmo.core.topology.improve import improved
from hulmo.core.topology.local_remesh import LocalRemesh
from hulmo.core.topology.piece import off_rim, put_back, taken_out, usual_edge, with_a_ring

Mask = NDArray[np.bool_]

SAME_RISE = 0.1
"""Share of the shortest edges at a vertex by which its relief may change with triangles as good as they were."""

COARSE = 0.7
"""Share of the usual edge from which on a triangle may be divided because a relief stretches it."""

SHORTEST = 0.4
"""Share of the usual edge under which edges are collapsed once the relief is laid."""


def worth_settling(work: Body, below: np.ndarray, zone: Mask, fresh: Mask, change: np.ndarray) -> Mask:
    """(N,) vertices whose triangles are to be looked at: what has the triangles and the relief that it had is as good as it
    was.

    Parameters
    ----------
    work : Body
        As the relief has drawn it.
    below : (N, 3) float32
        Positions without the relief.
    zone, fresh : (N,) bool
        Where the relief lies, and what has other triangles than before.
    change : (N, 3) float32
        What the relief has changed by.
    """
    triangles = work.corners.triangles
    shortest, _ = edges_at(below, triangles[any_of(zone, triangles)])
    moved = np.linalg.norm(change, axis=1) > SAME_RISE * shortest
    return np.asarray((zone & (fresh | moved)) | _thin_at(work.vertices["position"], work.corners, zone))


def _thin_at(position: np.ndarray, corners: CornerTable, rows: Mask) -> Mask:
    # (N,) corners of thin triangles all of whose corners are among some rows
    slots = np.flatnonzero(all_of(rows, corners.triangles))
    angle, _ = shapes_of(position, corners.triangles[slots])
    out = np.zeros(rows.size, np.bool_)
    out[corners.triangles[slots[angle < FAIR]]] = True
    return out


def settled(
    vertices: VertexTable, corners: CornerTable, layers: tuple[Layer, ...], below: np.ndarray, near: np.ndarray
) -> tuple[VertexTable, CornerTable]:
    """Tables whose triangles at some vertices are good as the relief has drawn them: divided where they are stretched.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    layers : tuple of Layer
        That positions are added up from.
    below : (N, 3) float32
        Positions without the relief: triangles that are fine there are not divided, however steep it is.
    near : (N,) bool
    """
    faces = any_of(near, corners.triangles)
    if not faces.any():
        return vertices, corners
    piece = taken_out(vertices, corners, with_a_ring(corners.triangles, faces, vertices.count))
    body = Body("", piece.vertices, piece.corners)
    body.layers = layers
    inner, usual = off_rim(piece), usual_edge(piece)
    coarse = side_lengths(below[piece.rows], piece.corners.triangles).max(axis=1) > COARSE * usual
    every = np.flatnonzero(all_of(inner, piece.corners.triangles) & coarse).astype(np.int32)
    if every.size:
        LocalRemesh(body).run(every, np.zeros(3), 1e30, usual, True, True, True, SHORTEST)
    live = body.corners.triangles[:, 0] >= 0
    triangles = body.corners.triangles[live]
    table = CornerTable.from_triangles(triangles, body.vertices.count, body.corners.slots.taken(live))
    looked = np.ones(body.vertices.count, np.bool_)
    looked[: inner.size] = inner
    made = improved(body.vertices, table, all_of(looked, triangles), FAIR)
    out, corners, _ = put_back(vertices, corners, piece, body.vertices, made)
    return out, corners
