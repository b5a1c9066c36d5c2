"""Remeshing just around triangles that are at fault."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.patch import PatchRecorder
from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.topology.local_remesh import LocalRemesh

Rows = NDArray[np.int32]

RINGS = 2
"""Rings of triangles around a fault that are remeshed with it."""

UNFOLD = 12
"""How often a fold is smoothed."""

FAR = 1e30
"""A radius within which everything lies, metres."""


def remesh_around(body: Body, slots: Rows, split: bool, collapse: bool, length: float, recorder: PatchRecorder) -> None:
    """Remesh around some triangles, every patch of them at the length its edges have.

    Parameters
    ----------
    body : Body
        Changed in place; `recorder` is told before.
    slots : (K,) int32
    split, collapse : bool
    length : float
        Wanted edge length, metres; 0 for the median edge of each patch.
    """
    remesh = LocalRemesh(body)
    for piece in patches(body, slots):
        at = body.vertices["position"][body.corners.triangles[piece]]
        wanted = length or float(np.median(np.linalg.norm(at - np.roll(at, 1, axis=1), axis=2)))
        if not wanted > 0:
            continue
        recorder.note(*remesh.around(piece))
        recorder.note_free(2 * remesh.spare(piece))
        changed = remesh.run(piece, np.zeros(3), FAR, wanted, split, collapse, throughout=True)
        if changed is not None:
            body.retriangulated(changed.rows, changed.triangles, changed.around)


def unfold(body: Body, slots: Rows, recorder: PatchRecorder) -> None:
    """Smooth the surface around some triangles until folds are gone. Borders and guarded vertices keep their place."""
    column = REST if body.layers else "position"
    for _ in range(UNFOLD):
        rows = distinct(body.corners.triangles[slots])
        rows = body.touched(rows).around
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
    piece = slots
    for _ in range(RINGS):
        piece = distinct(body.touched(distinct(body.corners.triangles[piece])).triangles)
    across = body.corners.opposite.reshape(-1, 3)[piece]
    near = np.searchsorted(piece, across // 3)
    near[near == piece.size] = 0
    joined = (across >= 0) & (piece[near] == across // 3)
    start = np.broadcast_to(np.arange(piece.size)[:, None], near.shape)[joined]
    graph = coo_array((np.ones(start.size, np.int8), (start, near[joined])), (piece.size, piece.size))
    count, label = connected_components(graph, directed=False)
    order = np.argsort(label, kind="stable")
    ends = np.cumsum(np.bincount(label, minlength=count))
    return [np.ascontiguousarray(part) for part in np.split(piece[order], ends[:-1])]
