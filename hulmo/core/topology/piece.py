"""A piece of a mesh taken out, to be worked on by itself, and put back."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.vertex_table import VertexTable

Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Piece:
    """Some triangles of a mesh, with their vertices, as tables of their own.

    Attributes
    ----------
    vertices, corners
        Their first rows are those of `rows`; whoever works on them leaves the rim and these rows' numbers as they are.
    rows : (K,) int32
        Rows of the whole.
    faces : (M,) bool
        Which triangles of the whole they are.
    """

    vertices: VertexTable
    corners: CornerTable
    rows: NDArray[np.int32]
    faces: Mask


def taken_out(vertices: VertexTable, corners: CornerTable, faces: Mask) -> Piece:
    """A copy of some triangles of tables without freed slots, and of those without which they would touch in points."""
    faces = _whole_fans(corners, faces, vertices.count)
    triangles = corners.triangles[faces]
    held = np.zeros(vertices.count, np.bool_)
    held[triangles] = True
    rows = np.flatnonzero(held).astype(np.int32)
    number = np.zeros(vertices.count, np.int32)
    number[rows] = np.arange(rows.size, dtype=np.int32)
    table = VertexTable(rows.size)
    for name in vertices.names:
        table.set_column(name, vertices[name].take(rows, axis=0))
    return Piece(
        table, CornerTable.from_triangles(number[triangles], rows.size, corners.slots.taken(faces)), rows, faces
    )


def _whole_fans(corners: CornerTable, faces: Mask, count: int) -> Mask:
    # where two fans of them meet in a vertex, all triangles at it come along
    across = corners.opposite.reshape(-1, 3)
    while True:
        which = np.flatnonzero(faces)
        beyond = across[which]
        slot, corner = np.nonzero((beyond < 0) | ~faces[np.maximum(beyond, 0) // 3])
        slot = which[slot]
        begins = np.bincount(corners.triangles[slot, (corner + 1) % 3], minlength=count)
        pinched = begins > 1
        if not pinched.any():
            return faces
        more = any_of(pinched, corners.triangles) & ~faces
        if not more.any():
            return faces
        faces = faces | more


def put_back(
    vertices: VertexTable, corners: CornerTable, piece: Piece, made: VertexTable, triangles: CornerTable
) -> tuple[VertexTable, CornerTable, NDArray[np.int32]]:
    """Tables in which a piece is as it has become, without freed slots.

    Parameters
    ----------
    made, triangles
        What the piece has become; rows that lay in it first, whether or not triangles still use them.

    Returns
    -------
    tuple
        Both tables, and the row of the whole that each row of `made` has become; -1 where no triangle uses it.
    """
    live = triangles.triangles[:, 0] >= 0
    fresh = made.count - piece.rows.size
    assert not vertices.free.count, "a piece is put back into tables without freed slots"
    count = vertices.count
    rows = np.concatenate((piece.rows, np.arange(count, count + fresh, dtype=np.int32)))
    rest = np.flatnonzero(~piece.faces)
    whole = np.concatenate((corners.triangles.take(rest, axis=0), rows[triangles.triangles[live]]))
    slots = corners.slots.taken(rest).joined(triangles.slots.taken(live))
    used = np.zeros(count + fresh, np.bool_)
    used[whole] = True
    kept = np.flatnonzero(used[:count])
    number = np.cumsum(used, dtype=np.int32) - 1
    table = VertexTable(int(used.sum()))
    mine = np.where(used[rows], number[rows], -1)
    come = np.flatnonzero(mine >= 0)
    for name in vertices.names:
        column = np.empty((table.count, vertices.width(name)), np.float32)
        column[: kept.size] = vertices[name] if kept.size == count else vertices[name].take(kept, axis=0)
        column[mine[come]] = made[name][come]
        table.set_column(name, column)
    if table.count < used.size:
        whole = number[whole]
    return table, CornerTable.from_triangles(whole, table.count, slots), mine.astype(np.int32)


def with_a_ring(triangles: NDArray[np.int32], faces: Mask, count: int) -> Mask:
    """(M,) some triangles, and all that share a vertex with them."""
    near = np.zeros(count, np.bool_)
    near[triangles[faces]] = True
    return any_of(near, triangles)


def usual_edge(piece: Piece) -> float:
    """Median edge length around a piece, metres."""
    rim = piece.corners.border_corners()
    triangles = piece.corners.triangles
    return float(np.median(side_lengths(piece.vertices["position"], triangles[rim // 3] if rim.size else triangles)))


def off_rim(piece: Piece) -> Mask:
    """(K,) vertices off the rim of a piece: whom others are joined with beyond it is not known here."""
    inner = np.ones(piece.vertices.count, np.bool_)
    rim = piece.corners.border_corners()
    for step in (1, 2):
        inner[piece.corners.triangles[rim // 3, (rim + step) % 3]] = False
    return inner
