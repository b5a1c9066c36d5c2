"""Carrying what is known at the vertices of one mesh over to the vertices of another that lies on it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.parts_across import parts_across
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.torn import torn
from hulmo.core.mesh.vertex_table import VertexTable

Points = NDArray[np.float32]

INSIDE = 0.02
"""Share of the way from a corner to the middle of its triangle."""

ALIKE, BEYOND, SIDES = 0.35, 3.0, 6
"""Shares of a triangle's extent by which corners of one vertex may differ to count as alike, and by which one may lie beyond
a triangle; and sides of seams that may meet at a vertex."""

SAME = 1e-5
"""Share of its extent within which values on both sides of an edge are the same."""

ALONG, STEP, MOST_STEPS = 0.25, 0.2, 1_000_000
"""How far a new edge may lie from an old one to lie along it, how far apart old ones are probed (shares of a new edge), and
how many probes there are at the most."""


def carry(source: Body, position: Points) -> VertexTable:
    """A vertex table for new positions, with every column of a body taken from the nearest point of its surface.

    Parameters
    ----------
    source : Body
    position : (K, 3) float32
        Metres; on the source or near it.

    Returns
    -------
    VertexTable
        K rows: `position`, and all further columns but normals, interpolated within the nearest triangle. Relief layers
        keep their offsets, and the form is what is left of the position.
    """
    return _carry(source, position, *_nearest(source, position))


def _nearest(source: Body, points: Points) -> tuple[NDArray[np.int32], Points]:
    return source.index.nearest_many(source.corners.vertex, source.vertices["position"], points)


def _carry(source: Body, position: Points, triangle: NDArray[np.int32], weight: Points) -> VertexTable:
    weight = weight.copy()
    off = (weight < 0).any(axis=1)
    if off.any():  # by rounding: a share below 0 would leave the range of what it is of
        within = np.maximum(weight[off], 0.0)
        weight[off] = within / within.sum(axis=1, keepdims=True)
    rows = source.corners.triangles[triangle]
    table = VertexTable(position.shape[0])
    table.set_column("position", position)
    for name in source.vertices.names:
        if name in ("position", "normal"):
            continue
        column = source.vertices[name]
        values = sum(weight[:, i, None] * column[rows[:, i]] for i in range(3))
        table.set_column(name, np.asarray(values, np.float32))
    if source.layers:
        form = position.copy()
        for layer in reversed(source.layers):
            if layer.share:
                form -= np.float32(layer.share) * table[layer.column]
        table.set_column(REST, form)
    return table


def carry_slots(
    source: Body,
    position: Points,
    triangles: NDArray[np.int32],
    nearest: tuple[NDArray[np.int32], Points] | None = None,
) -> SlotTable:
    """What is known of faces, corners and edges of a mesh that lies on a body.

    Parameters
    ----------
    nearest : tuple, optional
        Where the positions lie on it, as an index gives it.

    Returns
    -------
    SlotTable
        (M,) slots. Faces get what the nearest triangle to their middle has; corners are looked up a little inside of each,
        so that seams stay seams; edges get what an edge that they lie along has.
    """
    slots = SlotTable(triangles.shape[0])
    known = source.corners.slots
    old = source.vertices["position"]
    tears = {name: torn(known[name], source.corners.opposite, SAME) for name in known.names("corner")}
    live = source.corners.triangles[:, 0] >= 0
    sides = {name: parts_across(source.corners.opposite, live, tear) for name, tear in tears.items()}
    if known.names("corner"):
        at, share = nearest or _nearest(source, position)
    centre = whole = np.empty(0, np.int32)
    if known.names("face") or any(tears[name].any() or sides[name][0] > 1 for name in tears):
        corner = position[triangles]
        middle = corner.mean(axis=1)
        centre = _nearest(source, middle)[0]
        whole = np.repeat(centre, 3)
    for name in known.names("face"):
        slots.set("face", name, known[name][centre])
    rows = triangles.reshape(-1)
    for name in known.names("corner"):
        # a triangle that reaches over a seam goes wholly with the side that its middle lies on
        parts, side = sides[name]
        there = np.einsum("ki,kij->kj", share, known[name][at])
        apart = np.zeros(rows.size, np.bool_) if parts < 2 else side[at][rows] != side[whole]
        if not apart.any() and not tears[name].any():
            whole_values = there.astype(np.float32).take(rows, axis=0)
            slots.set("corner", name, whole_values.reshape(-1, 3, known.width(name)))
            continue
        here = there.astype(np.float64)[rows]
        here[apart] = np.nan
        inside = corner + (middle[:, None] - corner) * np.float32(INSIDE)
        face, _ = _nearest(source, inside.reshape(-1, 3))
        of = np.where(side[face] == side[whole], face, whole)
        weight = _shares(old[source.corners.triangles[of]], corner.reshape(-1, 3))
        values = np.einsum("ki,kij->kj", weight, known[name][of])
        size = np.ptp(known[name][of], axis=1).max(axis=1)
        together = _together(values, here, rows, ALIKE * size, position.shape[0])
        slots.set("corner", name, together.reshape(-1, 3, known.width(name)).astype(np.float32))
    for name in known.names("edge"):
        slots.set("edge", name, _carried_edges(source, name, position, triangles))
    return slots


def _shares(corner: Points, point: Points) -> NDArray[np.float64]:
    # (K, 3) shares of points in the planes of (K, 3, 3) triangles, a little beyond their sides at the most
    a, b, c = (corner[:, i].astype(np.float64) for i in range(3))
    ab, ac, ap = b - a, c - a, point.astype(np.float64) - a
    d00, d01, d11 = (ab * ab).sum(axis=1), (ab * ac).sum(axis=1), (ac * ac).sum(axis=1)
    d20, d21 = (ap * ab).sum(axis=1), (ap * ac).sum(axis=1)
    area = d00 * d11 - d01 * d01
    safe = np.where(area > 1e-30, area, 1.0)
    second, third = (d11 * d20 - d01 * d21) / safe, (d00 * d21 - d01 * d20) / safe
    out = np.stack((1.0 - second - third, second, third), axis=1)
    out[area <= 1e-30] = 1 / 3
    out = np.clip(out, -BEYOND, 1.0 + BEYOND)
    return np.asarray(out / out.sum(axis=1, keepdims=True))


def _together(
    values: NDArray[np.float64],
    here: NDArray[np.float64],
    rows: NDArray[np.int32],
    near: NDArray[np.floating],
    count: int,
) -> NDArray[np.float64]:
    # corners of one vertex whose values are nearly alike get the same one: that of the surface there, or of the first of them
    out = values.copy()
    left = np.arange(rows.size)
    base = here.copy()
    for _ in range(SIDES):
        alike = np.abs(values[left] - base[left]).max(axis=1) <= near[left]
        out[left[alike]] = base[left[alike]]
        left = left[~alike]
        if not left.size:
            break
        first = np.full(count, -1)
        first[rows[left[::-1]]] = left[::-1]
        base[left] = values[first[rows[left]]]
    return out


def _carried_edges(source: Body, name: str, position: Points, triangles: NDArray[np.int32]) -> Points:
    # points are set along the old edges that have a value; a new edge lies along one if such points are near both its ends
    # and its middle
    from scipy.spatial import KDTree  # see `mesh.graph`

    values = source.corners.slots[name]
    out = np.zeros((triangles.shape[0], 3, values.shape[2]), np.float32)
    slot, side = np.nonzero(values.any(axis=2) & (source.corners.triangles[:, :1] >= 0))
    if not slot.size or not triangles.size:
        return out
    old, rows = source.vertices["position"].astype(np.float64), source.corners.triangles
    start, end = old[rows[slot, (side + 1) % 3]], old[rows[slot, (side + 2) % 3]]
    tail, tip = (position[triangles[:, order]].astype(np.float64) for order in ((1, 2, 0), (2, 0, 1)))
    length = np.linalg.norm(tip - tail, axis=2)
    step = max(STEP * float(np.median(length)), float(np.linalg.norm(end - start, axis=1).sum()) / MOST_STEPS)
    parts = np.maximum(1, np.ceil(np.linalg.norm(end - start, axis=1) / max(step, 1e-30))).astype(np.int64)
    edge = np.repeat(np.arange(slot.size), parts + 1)
    share = (np.arange(edge.size) - np.repeat(np.cumsum(parts + 1) - parts - 1, parts + 1)) / parts[edge]
    tree = KDTree(start[edge] + share[:, None] * (end - start)[edge])
    ends, _ = tree.query(position)
    near = (ends[triangles[:, (1, 2, 0)]] < ALONG * length) & (ends[triangles[:, (2, 0, 1)]] < ALONG * length)
    found = np.flatnonzero(near.reshape(-1))
    away, which = tree.query(((tail + tip) / 2).reshape(-1, 3)[found])
    along = away < ALONG * length.reshape(-1)[found]
    out.reshape(-1, values.shape[2])[found[along]] = values[slot, side][edge[which[along]]]
    return out


def carried(source: Body, position: Points, triangles: NDArray[np.int32]) -> tuple[VertexTable, CornerTable]:
    """Both tables of a mesh that lies on a body, with everything `carry` and `carry_slots` bring along."""
    nearest = _nearest(source, position)
    table = _carry(source, position, *nearest)
    slots = carry_slots(source, table["position"], triangles, nearest)
    return table, CornerTable.from_triangles(triangles, table.count, slots)
