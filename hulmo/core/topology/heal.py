"""Cutting out what cannot be mended where it lies, and closing the surface over it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.cure import patches, remesh_around, smooth_around
from hulmo.core.topology.fill import border_loops
from hulmo.core.topology.mend import mend, same_rows
from hulmo.core.topology.parts import part_of_triangles, picked

Rows = NDArray[np.int32]

CRUMB = 24
"""Triangles of a loose piece under which it goes with what was cut out."""

LARGEST = 0.02
"""Share of all triangles that may be cut out."""


def healed(body: Body, slots: Rows) -> Body | None:
    """A copy of a body without some triangles and those around them, closed again; None where that cannot be.

    What is guarded, and what lies on a border, is left alone.

    Parameters
    ----------
    body : Body
    slots : (K,) int32
        Triangles at fault.
    """
    pieces = [piece for piece in patches(body, slots) if _free(body, piece)]
    if not pieces:
        return None
    cut = distinct(np.concatenate(pieces))
    if cut.size > LARGEST * body.corners.live_count + CRUMB:
        return None
    length = float(np.median(side_lengths(body.vertices["position"], body.corners.triangles[cut])))
    live = np.flatnonzero(body.corners.triangles[:, 0] >= 0)
    try:
        vertices, corners = _opened(*picked(body.vertices, body.corners, ~np.isin(live, cut)))
        count, part = part_of_triangles(corners)
        sizes = np.bincount(part, minlength=count)
        if (sizes < CRUMB).any():
            vertices, corners = picked(vertices, corners, (sizes >= CRUMB)[part])
        vertices, corners, fresh = _closed(body, vertices, corners)
    except InvalidInput:
        return None
    if not fresh.size and cut.size >= CRUMB:
        return None  # a part that is at fault as a whole is more than a crumb: it is not for a cure to take it away
    work = Body(body.name, vertices, corners, body.ident)
    work.layers, work.border_lock, work.origin = body.layers, body.border_lock, body.origin
    work.base, work.rules, work.down = body.base, body.rules, body.down
    work.replaced()
    if not fresh.size:
        return work
    done = remesh_around(work, fresh, True, True, length, None)
    smooth_around(work, done[work.corners.triangles[done, 0] >= 0])
    return work


def _free(body: Body, piece: Rows) -> bool:
    rows = distinct(body.corners.triangles[piece])
    guarded = GUARD in body.vertices and bool(body.vertices[GUARD][rows].any())
    return not guarded and not bool((body.corners.opposite.reshape(-1, 3)[piece] < 0).any())


def _opened(vertices: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable]:
    # where fans touch in one vertex after the cut, each gets its own
    result = mend(vertices["position"], corners.live_triangles(), outward=False)
    table = VertexTable(result.source.size)
    for name in vertices.names:
        table.set_column(name, vertices[name][result.source])
    slots = corners.slots.taken(result.faces, result.turned)
    return table, CornerTable.from_triangles(result.triangles, table.count, slots)


def _closed(body: Body, vertices: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable, Rows]:
    # every border loop that was not there before gets a fan; returns the slots of the fans
    border = body.corners.border_corners()
    after = body.corners.vertex[border - border % 3 + (border + 1) % 3]
    places = np.concatenate((body.vertices["position"][after], vertices["position"]))
    first = same_rows(np.ascontiguousarray(places + np.float32(0.0)).view(np.uint32))
    kept = first[after.size :] < after.size  # by place, to the bit: a vertex of the border that was
    loops = [loop for loop in border_loops(corners) if not kept[loop].all()]
    table = VertexTable(vertices.count + len(loops))
    for name in vertices.names:
        means = [vertices[name][loop].mean(axis=0) for loop in loops]
        middles = np.array(means, np.float32).reshape(len(loops), vertices.width(name))
        table.set_column(name, np.concatenate((vertices[name], middles)))
    fans = [
        np.stack((loop, np.roll(loop, -1), np.full(loop.size, vertices.count + i, np.int32)), axis=1)
        for i, loop in enumerate(loops)
    ]
    old = corners.live_triangles()
    triangles = np.concatenate((old, *fans)).astype(np.int32)
    slots = corners.slots.with_more(triangles.shape[0] - old.shape[0])
    made = CornerTable.from_triangles(triangles, table.count, slots)
    return table, made, np.arange(old.shape[0], triangles.shape[0], dtype=np.int32)
