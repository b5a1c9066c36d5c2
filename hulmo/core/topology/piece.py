"""A piece of a mesh taken out, to be worked on by itself, and put back."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.connectivity import check_fans
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
    across = _joined(corners, piece, rest, triangles, live, whole)
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
    joined = CornerTable.from_opposites(whole.reshape(-1), across, table.count, slots)
    changed = np.zeros(table.count, np.bool_)  # only there it can be no manifold
    changed[mine[come]] = True
    check_fans(joined.vertex, joined.opposite, joined.first_corner, changed)
    return table, joined, mine.astype(np.int32)


def _joined(
    corners: CornerTable, piece: Piece, rest: NDArray[np.intp], triangles: CornerTable, live: Mask,
    whole: NDArray[np.int32],
) -> NDArray[np.int32]:  # fmt: skip
    # opposite corners of the rest and of what a piece has become, one behind the other: joined along the rim
    out = np.empty(3 * whole.shape[0], np.int32)
    kept = 3 * rest.size
    rim = np.empty(3 * int(np.count_nonzero(piece.faces)), np.int32)
    rim = rim[: _renumbered(corners.opposite, _slots(~piece.faces), 0, out[:kept], rim)]
    _renumbered(triangles.opposite, _slots(live), rest.size, out[kept:], np.empty(triangles.opposite.size, np.int32))
    open_ = kept + np.flatnonzero(out[kept:] < 0)
    there, here = (_edge_keys(whole, at, back) for at, back in ((rim, False), (open_, True)))
    order = np.argsort(here)
    at = np.searchsorted(here[order], there)
    found = order[np.minimum(at, order.size - 1)] if order.size else np.zeros(0, np.intp)
    met = here[found] == there if order.size else np.zeros(rim.size, np.bool_)  # the rest has become a border
    out[rim[met]], out[open_[found[met]]] = open_[found[met]], rim[met]
    return out


def _slots(stays: Mask) -> NDArray[np.int32]:
    # (M,) new slots of the triangles that stay, and -1
    return np.where(stays, np.cumsum(stays, dtype=np.int32) - 1, np.int32(-1))


@kernel("int64(int32[::1], int32[::1], int64, int32[::1], int32[::1])")
def _renumbered(
    opposite: NDArray[np.int32], slot: NDArray[np.int32], shift: int, out: NDArray[np.int32], rim: NDArray[np.int32]
) -> int:
    # opposite corners of the triangles that stay, in their new slots; -1 where the other one does not, and those are told
    count, at = 0, 0
    for t in range(slot.size):
        if slot[t] < 0:
            continue
        for k in range(3):
            across = opposite[3 * t + k]
            out[at] = -1
            if across >= 0:
                other = slot[across // 3]
                if other >= 0:
                    out[at] = 3 * (other + shift) + across % 3
                else:
                    rim[count] = at
                    count += 1
            at += 1
    return count


def _edge_keys(triangles: NDArray[np.int32], corner: NDArray[np.integer], back: bool) -> NDArray[np.int64]:
    # a number for each directed edge across from a corner
    slot, k = np.divmod(corner, 3)
    tail, tip = (triangles[slot, (k + step) % 3].astype(np.int64) for step in ((2, 1) if back else (1, 2)))
    return np.asarray((tail << 32) | tip)


def with_a_ring(triangles: NDArray[np.int32], faces: Mask, count: int, rings: int = 1) -> Mask:
    """(M,) some triangles, and all that share a vertex with them; and so on for more rings."""
    near = np.zeros(count, np.bool_)
    for _ in range(rings):
        _at_corners(triangles, faces, near)
        faces = any_of(near, triangles)
    return faces


@kernel("void(int32[:,::1], boolean[::1], boolean[::1])")
def _at_corners(triangles: NDArray[np.int32], faces: Mask, near: Mask) -> None:
    for t in range(triangles.shape[0]):
        if faces[t]:
            for k in range(3):
                near[triangles[t, k]] = True


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
