"""Remeshing just around triangles that are at fault."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.low_high import low_high
from hulmo.core.mesh.bends import bends
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.patch import PatchRecorder
from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.thin import THIN, shapes_of
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import silent
from hulmo.core.topology.crossing import crossing
from hulmo.core.topology.local_remesh import SHORT, LocalRemesh

Rows = NDArray[np.int32]

RINGS = 2
"""Rings of triangles around a fault that are remeshed with it."""

CLEANINGS = 3
"""How often the rims of a cut are gone over."""

STUBS = 0.4
"""Share of the wanted length under which edges along a cut are collapsed: only stubs, so that the shape stays."""

STUBBY = 0.1
"""Share of the usual edge under which an edge along a cut is a fault of its own."""

SMOOTHINGS = 12
"""How often a fold is smoothed at the most."""

FAR = 1e30
"""A radius within which everything lies, metres."""


def remesh_around(
    body: Body,
    slots: Rows,
    split: bool,
    collapse: bool,
    length: float,
    recorder: PatchRecorder | None,
    short: float = SHORT,
    share: float = 1.0,
) -> Rows:
    """Remesh around some triangles, every patch of them at the length its edges have.

    Parameters
    ----------
    body : Body
        Changed in place; `recorder` is told before, where there is one.
    slots : (K,) int32
    split, collapse : bool
    length : float
        Wanted edge length, metres; 0 for the median edge of each patch.
    short : float
        Share of it under which edges are collapsed.
    share : float
        Of the median, for a length of 0.

    Returns
    -------
    (T,) int32
        Slots of the remeshed patches, ascending.
    """
    remesh = LocalRemesh(body)
    done = [np.empty(0, np.int32)]
    # without a length to keep to, all patches are one piece
    for piece in patches(body, slots) if split or collapse else [_ringed(body, slots)]:
        wanted = length or share * float(
            np.median(side_lengths(body.vertices["position"], body.corners.triangles[piece]))
        )
        if not wanted > 0:
            continue
        changed = remesh.run(piece, np.zeros(3), FAR, wanted, split, collapse, True, short, recorder)
        if changed is not None:
            done.append(changed.triangles)
    return distinct(np.concatenate(done))


def unfold(body: Body, slots: Rows, limit: float, recorder: PatchRecorder) -> None:
    """Smooth triangles that are bent by more than `limit` degrees from a neighbour, no more than it takes."""
    for _ in range(SMOOTHINGS):
        slots = slots[bends(body, slots) > limit]
        if not slots.size:
            break
        _smooth(body, distinct(body.corners.triangles[slots]), recorder)


def untangle(body: Body, slots: Rows, recorder: PatchRecorder) -> None:
    """Smooth the surface around triangles that cross others, ring by ring more of it, until none does any more."""
    for done in range(SMOOTHINGS):
        rows = distinct(body.corners.triangles[slots])
        for _ in range(1 + done // 2):
            rows = body.touched(rows).around
        for _ in range(2):
            _smooth(body, rows, recorder)
        # what crosses now lies within what was smoothed, or did so before
        near = body.touched(rows).triangles
        slots = crossing(body, silent(), distinct(near))
        if not slots.size:
            break


def smooth_around(body: Body, slots: Rows) -> None:
    """Smooth the surface around some triangles, one ring more than they have."""
    for _ in range(SMOOTHINGS):
        _smooth(body, body.touched(distinct(body.corners.triangles[slots])).around, None)


def _smooth(body: Body, rows: Rows, recorder: PatchRecorder | None) -> None:
    # borders that are locked and guarded vertices keep their place
    column = REST if body.layers else "position"
    if recorder is not None:
        recorder.note(rows, np.empty(0, np.int32))
    amount = np.full(rows.size, 0.5, np.float32)
    free, held = body.free_share(rows), body.held(rows)
    if free is not None:
        amount *= free
    if held is not None:
        amount[held] = 0
    position = body.vertices["position"]
    moved = ring_means(position, body.corners, rows, amount, body.vertices["normal"], along=False)
    body.vertices[column][rows] += moved - position[rows]
    body.compose(rows)
    body.rows_moved(rows)


def patches(body: Body, slots: Rows) -> list[Rows]:
    """Patches of triangles around some triangles, each hanging together; no two touch along an edge."""
    piece = _ringed(body, slots)
    across = body.corners.opposite.reshape(-1, 3)[piece]
    near = np.searchsorted(piece, across // 3)
    near[near == piece.size] = 0
    joined = (across >= 0) & (piece[near] == across // 3)
    start = np.broadcast_to(np.arange(piece.size)[:, None], near.shape)[joined]
    count, label = hanging_together(start, near[joined], piece.size)
    order = np.argsort(label, kind="stable")
    ends = np.cumsum(np.bincount(label, minlength=count))
    return [np.ascontiguousarray(part) for part in np.split(piece[order], ends[:-1])]


def _ringed(body: Body, slots: Rows) -> Rows:
    piece = slots
    for _ in range(RINGS):
        piece = distinct(body.touched(distinct(body.corners.triangles[piece])).triangles)
    return piece


def clean_cut(
    body: Body, tables: tuple[VertexTable, CornerTable], tool: NDArray[np.float32]
) -> tuple[VertexTable, CornerTable]:
    """Remesh around the thin triangles that a boolean leaves along its rims.

    Parameters
    ----------
    body : Body
        What was cut: its layers and border lock hold for the tables, too.
    tables : tuple
        Of the result; they are changed.
    tool : (K, 3) float32
        Vertices of what it was cut with, metres; only triangles within their box are looked at.
    """
    work = _workpiece(body, tables)
    position = work.vertices["position"]
    low, high = low_high(tool)
    near = np.asarray(((position >= low) & (position <= high)).all(axis=1))
    slots = np.flatnonzero(any_of(near, work.corners.triangles)).astype(np.int32)
    for _ in range(CLEANINGS):
        triangles = work.corners.triangles[slots]
        sides = side_lengths(work.vertices["position"], triangles)
        stubby = sides.min(axis=1) < STUBBY * (np.median(sides) if sides.size else 0.0)
        faults = slots[(shapes_of(work.vertices["position"], triangles)[0] < THIN) | stubby]
        if not faults.size:
            break
        slots = remesh_around(work, faults, True, True, 0.0, None, STUBS)
        slots = slots[work.corners.triangles[slots, 0] >= 0]
    return work.vertices, work.corners


def turn_slivers(body: Body, tables: tuple[VertexTable, CornerTable]) -> tuple[VertexTable, CornerTable]:
    """Flip edges and ease vertices around thin triangles that a reduction leaves; the count stays.

    Parameters
    ----------
    body : Body
        What was reduced: its layers and border lock hold for the tables, too.
    tables : tuple
        Of the result; they are changed.
    """
    work = _workpiece(body, tables)
    for _ in range(CLEANINGS):
        thin = np.flatnonzero(shapes_of(work.vertices["position"], work.corners.triangles)[0] < THIN).astype(np.int32)
        if not thin.size:
            break
        remesh_around(work, thin, False, False, 0.0, None)
    return work.vertices, work.corners


def _workpiece(body: Body, tables: tuple[VertexTable, CornerTable]) -> Body:
    if "normal" not in tables[0]:
        tables[0].add_column("normal", 3)  # made when the tables are put in place; nothing here reads them
    work = Body(body.name, *tables, body.ident)
    work.layers, work.border_lock = body.layers, body.border_lock
    return work
