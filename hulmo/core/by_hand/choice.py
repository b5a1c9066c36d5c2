"""What is chosen of a body: vertices, edges or faces."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import ColumnDelta, Delta, RowsDelta, SlotColumnDelta, SlotsDelta
from hulmo.core.ground.marked import CHOSEN
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import EDGES, FACES
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.edge_ends import edge_ends

Mask = NDArray[np.bool_]

DOMAINS = ("vertex", "edge", "face")

AHEAD, BEHIND = (1, 2, 0), (2, 0, 1)
"""Corner at which the edge across each corner begins, and at which it ends."""


@dataclass(frozen=True)
class Amount:
    """How much is chosen.

    Attributes
    ----------
    count : int
    size : float
        Metres of edges, square metres of faces; 0 for vertices.
    """

    count: int
    size: float


def live(corners: CornerTable) -> Mask:
    """(M,) which slots hold a triangle."""
    return np.asarray(corners.triangles[:, 0] >= 0)


def chosen(body: Body, domain: str) -> Mask:
    """(N,) vertices, (M,) faces, or (M, 3) edges by the corner across, the same from both sides."""
    corners = body.corners
    if domain == "vertex":
        if CHOSEN not in body.vertices:
            return np.zeros(body.vertices.count, np.bool_)
        return np.asarray((body.vertices[CHOSEN][:, 0] >= 0.5) & (corners.first_corner >= 0))
    name, there = (FACES, live(corners)) if domain == "face" else (EDGES, live(corners)[:, None])
    values = corners.slots.get(name)
    shape = (corners.count,) if domain == "face" else (corners.count, 3)
    if values is None:
        return np.zeros(shape, np.bool_)
    return np.asarray((values.reshape(shape) >= 0.5) & there)


def both_sides(corners: CornerTable, edges: Mask) -> Mask:
    """(M, 3) edges, said of both triangles at each."""
    across = corners.opposite.reshape(-1, 3)
    flat = edges.reshape(-1)
    return np.asarray(edges | ((across >= 0) & flat[np.maximum(across, 0)]))


def as_domain(body: Body, mask: Mask, domain: str, to: str) -> Mask:
    """What is chosen, in another domain: faces become their edges and corners, edges the vertices at their ends; the other
    way round, what has all its parts chosen."""
    if domain == to:
        return mask
    corners, count = body.corners, body.vertices.count
    triangles, there = corners.triangles, live(corners)
    if domain == "face":
        if to == "edge":
            return both_sides(corners, np.repeat(mask[:, None], 3, axis=1))
        out = np.zeros(count, np.bool_)
        out[triangles[mask].reshape(-1)] = True
        return out
    if domain == "edge":
        if to == "face":
            return np.asarray(mask.all(axis=1) & there)
        out = np.zeros(count, np.bool_)
        slot, corner = np.nonzero(mask)
        out[triangles[slot, np.take(AHEAD, corner)]] = out[triangles[slot, np.take(BEHIND, corner)]] = True
        return out
    near = mask[triangles] & there[:, None]
    if to == "face":
        return np.asarray(near.all(axis=1))
    return np.asarray(near[:, AHEAD] & near[:, BEHIND])


def amount(body: Body, domain: str, mask: Mask) -> Amount:
    """How many there are, and how large they are together."""
    position, triangles = body.vertices["position"], body.corners.triangles
    if domain == "vertex":
        return Amount(int(mask.sum()), 0.0)
    if domain == "face":
        a, b, c = (position[triangles[mask][:, k]].astype(np.float64) for k in range(3))
        return Amount(int(mask.sum()), float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2))
    once = np.flatnonzero(mask.reshape(-1) & (body.corners.opposite < np.arange(mask.size)))
    start, end = edge_ends(body.corners, once)
    step = position[start].astype(np.float64) - position[end]
    return Amount(int(once.size), float(np.linalg.norm(step, axis=1).sum()))


def choice_deltas(body: Body, domain: str, mask: Mask) -> tuple[Delta, ...]:
    """Deltas after which this is what is chosen; none where it is already."""
    if np.array_equal(chosen(body, domain), mask):
        return ()
    return column_deltas(body, domain, {"vertex": CHOSEN, "face": FACES, "edge": EDGES}[domain], mask)


def column_deltas(body: Body, domain: str, name: str, mask: Mask) -> tuple[Delta, ...]:
    """Deltas after which a column of width 1 is 1 where a mask says so; without the column where that is nowhere."""
    if domain == "vertex":
        before = body.vertices[name].copy() if name in body.vertices else None
        after = mask.astype(np.float32)[:, None] if mask.any() else None
        if before is not None and after is not None:
            rows = np.flatnonzero(before[:, 0] != after[:, 0]).astype(np.int32)
            return (RowsDelta(body.ident, name, rows, before[rows], after[rows]),)
        return (ColumnDelta(body.ident, name, before, after),)
    old = body.corners.slots.get(name)
    new = mask.astype(np.float32).reshape(body.corners.count, -1, 1) if mask.any() else None
    if old is not None and new is not None:
        slots = np.flatnonzero((old != new).any(axis=(1, 2))).astype(np.int32)
        return (SlotsDelta(body.ident, name, slots, old[slots], new[slots]),)
    return (SlotColumnDelta(body.ident, domain, name, None if old is None else old.copy(), new),)
