"""Edges along the rim of a region that a function describes."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import all_of, any_of
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.mesh.seams import on_seams, seams
from hulmo.core.mesh.sides import edges_at, side_lengths, unit_normals
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.improve import improved
from hulmo.core.topology.local_remesh import LocalRemesh
from hulmo.core.topology.longest_edges import HELD, longest_edges
from hulmo.core.topology.plant import plant
from hulmo.core.topology.split_edges import split_edges

Inward = Callable[[NDArray[np.float64]], NDArray[np.float64]]
Figures = NDArray[np.float64]
Mask = NDArray[np.bool_]

ROUNDS = 24
"""How often triangles are divided at the most to follow the rim."""

CHORDS, BENT = 6, 0.3
"""How often edges that cut a bend short are divided, and share of their length beyond which they lead across instead."""

SAME = 1e-5
"""Share of the usual edge within which a vertex lies on the rim as it is."""

SNAP = 0.3
"""Share of the shortest edge at a vertex that it may slide to come to lie on the rim."""

FLAT = 0.02
"""Share of that edge by which the shape may change there at the most."""

STUB = 0.35
"""Share of the usual edge at the rim under which edges beside it are collapsed."""

FAIR = 12.0
"""Degrees of the smallest angle from which on a triangle at a rim is good enough."""

FIGURE = "figure inward"
"""Vertex column that holds how far in each vertex lies while edges are divided."""

NEXT, LAST = (1, 2, 0), (2, 0, 1)


@dataclass
class _Work:
    # tables in work, how far in each vertex lies, which lie on the rim, and which triangles need not be divided
    vertices: VertexTable
    corners: CornerTable
    inward: Figures
    on: Mask
    fine: Mask


def cut_along(
    vertices: VertexTable, corners: CornerTable, inward: Inward, figures: Figures, tolerance: float,
    column: str, number: float, corner: tuple[NDArray[np.int32], NDArray[np.float64]] | None = None,
    longest: float = np.inf, lies: Mask | None = None,
) -> tuple[VertexTable, CornerTable, Mask, Figures]:  # fmt: skip
    """Put edges where a function is zero, within a tolerance; vertices near the rim slide onto it where that leaves the
    shape as it is, and others are made.

    Parameters
    ----------
    vertices, corners
        Without freed slots; borders stay as they are but where the rim runs over them.
    inward : callable
        (K, 3) places on the surface to (K,) metres inward.
    figures : (N,) float64
        What it is at the vertices.
    tolerance : float
        Metres that the edges may be off the rim.
    column : str
        Edge column to write `number` in, at the edges along the rim.
    corner : (triangles, shares), optional
        Places at which the rim turns sharply: a vertex comes to lie there.
    longest : float
        Metres that edges at the rim may be long.
    lies : (N,) bool, optional
        Vertices that lie on the rim as they are.

    Returns
    -------
    tuple
        Both tables, which vertices lie on the rim, and how far in each lies.

    Notes
    -----
    Longest-edge bisection (Rivara 1984) where the rim bends; vertices that slide as in isosurface stuffing (Labelle and
    Shewchuk 2007), in two dimensions.
    """
    on = np.zeros(vertices.count, np.bool_) if lies is None else lies.copy()
    work = _Work(vertices, corners, figures.copy(), on, np.zeros(corners.count, np.bool_))
    if corner is not None:
        _plant_corners(work, *corner)
    for _ in range(ROUNDS):
        wanted = _to_divide(work, inward, tolerance, longest)
        if not wanted.any():
            break
        _split(work, longest_edges(work.vertices, work.corners, wanted), None, inward)
    usual = float(np.median(side_lengths(work.vertices["position"], work.corners.triangles)))
    work.on |= np.abs(work.inward) <= SAME * usual
    _snap(work, inward)
    for _ in range(CHORDS):
        crossed = _crossed(work)
        share = np.where(crossed, _crossing(work, crossed, inward), 0.5)
        before = work.vertices.count
        _split(work, crossed, share, inward)
        work.on[before:] = True
        work.inward[work.on] = 0.0
        chords = _chords(work, inward, tolerance)
        if not chords.any():
            break
        _split(work, chords, None, inward)
    _mark(work, inward, tolerance, column, number)
    return work.vertices, work.corners, work.on, work.inward


def tidied_rim(vertices: VertexTable, corners: CornerTable, on: Mask) -> tuple[VertexTable, CornerTable]:
    """Triangles made better around a rim by turning edges, sliding vertices and joining stubs; what is marked stays."""
    body = Body("", vertices, corners)
    near = on.copy()
    for _ in range(2):
        near[corners.triangles[any_of(near, corners.triangles)]] = True
    whole = _whole(corners, vertices.count)
    faces = np.flatnonzero(any_of(near, corners.triangles) & all_of(whole, corners.triangles)).astype(np.int32)
    rim = corners.triangles[on[corners.triangles].sum(axis=1) == 2]
    if not faces.size or not rim.size:
        return vertices, corners
    usual = float(np.median(side_lengths(body.vertices["position"], rim)))
    LocalRemesh(body).run(faces, np.zeros(3), 1e30, usual, False, True, True, STUB)
    live = body.corners.triangles[:, 0] >= 0
    triangles = body.corners.triangles[live]
    table = CornerTable.from_triangles(triangles, body.vertices.count, body.corners.slots.taken(live))
    looked = any_of(near, triangles) & all_of(whole, triangles)
    return body.vertices, improved(body.vertices, table, np.asarray(looked), FAIR)


def _whole(corners: CornerTable, count: int) -> Mask:
    # vertices off the rim of the piece: of others it is not known whom they are joined with beyond it
    out = np.ones(count, np.bool_)
    held = corners.slots.get(HELD)
    if held is not None:
        slot, corner = np.nonzero(held[:, :, 0])
        out[corners.triangles[slot, (corner + 1) % 3]] = out[corners.triangles[slot, (corner + 2) % 3]] = False
    return out


def _plant_corners(work: _Work, triangle: NDArray[np.int32], share: NDArray[np.float64]) -> None:
    # places are asked for anew where triangles have been divided before
    position = work.vertices["position"].astype(np.float64)
    places = np.einsum("ki,kij->kj", share, position[work.corners.triangles[triangle]])
    for place in places:
        body = Body("", work.vertices, work.corners)
        found = body.own_nearest(place)
        if found is None:
            continue
        weight = np.clip(found.weights, 0.0, 1.0)
        row = int(work.corners.triangles[found.triangle][int(weight.argmax())])
        if weight.max() > 0.999:
            work.on[row], work.inward[row] = True, 0.0
            continue
        work.vertices, work.corners, row = plant(
            work.vertices, work.corners, int(found.triangle), weight / weight.sum(), 0.02
        )
        work.inward, work.on = np.append(work.inward, 0.0), np.append(work.on, True)


def _crossed(work: _Work) -> Mask:
    # (M, 3) edges whose ends lie on both sides
    out = np.empty((work.corners.count, 3), np.bool_)
    _between(work.corners.vertex, np.where(work.on, 0.0, work.inward), out.reshape(-1))
    held = work.corners.slots.get(HELD)
    return out if held is None else np.asarray(out & ~(held[:, :, 0] > 0))


@kernel("void(int32[::1], float64[::1], boolean[::1])")
def _between(vertex: NDArray[np.int32], value: Figures, out: Mask) -> None:
    for corner in range(vertex.size):
        out[corner] = value[vertex[next_corner(corner)]] * value[vertex[previous_corner(corner)]] < 0.0


@kernel("int64(int32[::1], float32[:,::1], float64[::1], boolean[::1], boolean[::1], int64[::1])")
def _near_rim(
    vertex: NDArray[np.int32],
    position: NDArray[np.float32],
    value: Figures,
    on: Mask,
    fine: Mask,
    out: NDArray[np.int64],
) -> int:
    # triangles at which the rim can pass: one corner lies on it, an edge crosses it, or is longer than its ends are off
    count = 0
    for t in range(vertex.size // 3):
        if fine[t]:
            continue
        near = False
        for k in range(3):
            a, b = vertex[3 * t + k], vertex[3 * t + (k + 1) % 3]
            size = 0.0
            for axis in range(3):
                size += (np.float64(position[a, axis]) - np.float64(position[b, axis])) ** 2
            near = (
                near or on[a] or abs(value[a]) + abs(value[b]) < np.sqrt(size) * 1.000001 or value[a] * value[b] < 0.0
            )
        if near:
            out[count] = t
            count += 1
        else:
            fine[t] = True
    return count


def _held(corners: CornerTable) -> Mask:
    # (M, 3) edges that are not to be divided
    held = corners.slots.get(HELD)
    return np.zeros((corners.count, 3), np.bool_) if held is None else np.asarray(held[:, :, 0] > 0)


def _crossing(work: _Work, edges: Mask, inward: Inward) -> Figures:
    # (M, 3) where on crossed edges the rim lies, from the end of the lower number; by the method of Illinois
    vertex, opposite = work.corners.vertex, work.corners.opposite
    named = edges.reshape(-1)
    at_edge = np.flatnonzero(named)
    across = opposite[at_edge]
    at_edge = at_edge[(across < at_edge) | ~named[across]]  # each from one side
    base = at_edge - at_edge % 3
    tail, tip = vertex[base + (at_edge + 1) % 3], vertex[base + (at_edge + 2) % 3]
    low, high = np.minimum(tail, tip).astype(np.int64), np.maximum(tail, tip).astype(np.int64)
    position = work.vertices["position"].astype(np.float64)
    a, b = np.zeros(low.size), np.ones(low.size)
    fa, fb = work.inward[low].copy(), work.inward[high].copy()
    t = np.full(low.size, 0.5)
    close = 1e-4 * float(np.linalg.norm(position[high] - position[low], axis=1).max(initial=0.0))
    start, way = position[low], position[high] - position[low]
    asked = np.arange(low.size)  # those that are not close enough yet
    for _ in range(12):
        one, two, low_value, value = a[asked], b[asked], fa[asked], fb[asked]
        rise = value - low_value
        at = np.where(rise != 0, (one * value - two * low_value) / np.where(rise != 0, rise, 1.0), (one + two) / 2)
        f = inward(start[asked] + at[:, None] * way[asked])
        same = f * value > 0
        fa[asked] = np.where(same, low_value / 2, value)
        a[asked] = np.where(same, one, two)
        b[asked], fb[asked], t[asked] = at, f, at
        asked = asked[np.abs(f) >= close]
        if not asked.size:
            break
    out = np.full(edges.size, 0.5)
    out[at_edge] = np.clip(t, 1e-3, 1 - 1e-3)
    across = opposite[at_edge]
    out[across[across >= 0]] = out[at_edge[across >= 0]]
    return out.reshape(edges.shape)


def _to_divide(work: _Work, inward: Inward, tolerance: float, longest: float) -> Mask:
    # (M,) triangles in which a straight edge would be too far off the rim, or of which it crosses an edge twice
    if work.fine.size != work.corners.count:
        work.fine = np.zeros(work.corners.count, np.bool_)
    room = np.empty(work.corners.count, np.int64)
    value = np.where(work.on, 0.0, work.inward)
    place = np.ascontiguousarray(work.vertices["position"], np.float32)
    asked = room[: _near_rim(work.corners.vertex, place, value, work.on, work.fine, room)]
    whole = np.zeros(work.corners.count, np.bool_)
    if not asked.size:
        return whole
    position = place.astype(np.float64)
    triangles, every = work.corners.triangles[asked], _crossed(work)
    crossed = every[asked]
    share = np.zeros(every.shape)
    some = np.zeros(every.shape, np.bool_)
    some[asked] = crossed
    if crossed.any():
        share = _crossing(work, some, inward)
    share = share[asked]
    tail, tip = triangles[:, NEXT], triangles[:, LAST]
    low, high = np.minimum(tail, tip), np.maximum(tail, tip)
    at = position[low] + share[..., None] * (position[high] - position[low])
    out = np.zeros(asked.size, np.bool_)
    count = crossed.sum(axis=1)
    two = np.flatnonzero(count == 2)
    ends = at[two][crossed[two]].reshape(-1, 2, 3)
    one = np.flatnonzero((count == 1) & any_of(work.on, triangles))
    vertex = position[triangles[one, work.on[triangles[one]].argmax(axis=1)]]
    middle = np.concatenate((ends.mean(axis=1), (vertex + at[one][crossed[one]]) / 2))
    which = np.concatenate((two, one))
    out[which[np.abs(inward(middle)) > tolerance]] = True
    size = np.linalg.norm(position[tip] - position[tail], axis=2)
    twice = (value[tail] * value[tip] > 0) & (np.abs(value[tail]) + np.abs(value[tip]) < size)
    if twice.any():
        middles = (position[tail] + position[tip])[twice] / 2
        flat = np.zeros(twice.shape, np.bool_)
        flat[twice] = inward(middles) * value[tail][twice] < 0
        out |= flat.any(axis=1)
    out |= (size.max(axis=1) > longest) & (crossed.any(axis=1) | (work.on[triangles].sum(axis=1) > 1))
    out &= size.max(axis=1) > 2 * tolerance
    work.fine[asked[~out]] = True
    whole[asked[out]] = True
    return whole


def _both_on(work: _Work) -> Mask:
    # (M, 3) edges both of whose ends lie on the rim
    on = work.on[work.corners.triangles]
    return np.stack((on[:, 1] & on[:, 2], on[:, 2] & on[:, 0], on[:, 0] & on[:, 1]), axis=1)


def _chords(work: _Work, inward: Inward, tolerance: float) -> Mask:
    # (M, 3) edges from one vertex of the rim to the next that cut its bend short
    triangles = work.corners.triangles
    position = work.vertices["position"].astype(np.float64)
    out = np.asarray(_both_on(work) & ~_held(work.corners))
    if out.any():
        a, b = position[triangles[:, NEXT][out]], position[triangles[:, LAST][out]]
        off, size = np.abs(inward((a + b) / 2)), np.linalg.norm(b - a, axis=1)
        out[out] = (off > tolerance) & (off < BENT * size)
    return out


def _split(work: _Work, edges: Mask, share: Figures | None, inward: Inward) -> None:
    before = work.vertices.count
    work.vertices = work.vertices.view()
    work.vertices.set_column(FIGURE, work.inward[:, None])
    work.vertices, work.corners, parent = split_edges(work.vertices, work.corners, edges, share)
    work.fine = work.fine[parent] & (np.bincount(parent)[parent] == 1) if work.fine.size else work.fine
    fresh = work.vertices.count - before
    if fresh:
        found = inward(work.vertices["position"][before:].astype(np.float64))
        # further off than any edge is long, both ends lie on one side, whatever the nearest piece of the rim says
        along = work.vertices[FIGURE][before:, 0].astype(np.float64)
        near = work.corners.triangles[any_of(np.arange(work.vertices.count) >= before, work.corners.triangles)]
        sure = np.abs(along) > edges_at(work.vertices["position"], near)[1][before:]
        work.inward = np.append(work.inward, np.where(sure, np.copysign(found, along), found))
        work.on = np.append(work.on, np.zeros(fresh, np.bool_))
    work.vertices.drop_column(FIGURE)


def _snap(work: _Work, inward: Inward) -> None:
    # vertices near the rim slide along the edge that it crosses nearest to them
    crossed = _crossed(work)
    if not crossed.any():
        return
    triangles, corners = work.corners.triangles, work.corners
    position = work.vertices["position"]
    share = _crossing(work, crossed, inward)
    tail, tip = triangles[:, NEXT][crossed], triangles[:, LAST][crossed]
    low, high, part = np.minimum(tail, tip), np.maximum(tail, tip), share[crossed]
    size = np.linalg.norm(position[high].astype(np.float64) - position[low], axis=1)
    row = np.concatenate((low, high))
    other = np.concatenate((high, low))
    part = np.concatenate((part, 1 - part))
    way = part * np.concatenate((size, size))
    shortest, _ = edges_at(position, triangles)
    fixed = work.on.copy()
    border = corners.border_corners()
    fixed[corners.vertex[border - border % 3 + (border + 1) % 3]] = True
    fixed[corners.vertex[border - border % 3 + (border + 2) % 3]] = True
    if GUARD in work.vertices:
        fixed |= work.vertices[GUARD][:, 0] > 0
    held = fixed.copy()
    slides = np.zeros(2 * low.size, np.bool_)
    marked = seams(corners)
    seam, regular = on_seams(corners, position, marked)
    for end, mine in ((low, slice(0, low.size)), (high, slice(low.size, None))):
        slides[mine] = regular[end] & marked[crossed]
    held[seam] = True
    able = (way < SNAP * shortest[row]) & (~held[row] | (slides & ~fixed[row]))
    order = np.lexsort((way, row))
    order = order[able[order]]
    first = order[np.concatenate(([True], row[order][1:] != row[order][:-1]))] if order.size else order
    row, other, part = row[first], other[first], part[first]
    if not row.size:
        return
    along = np.asarray(part, np.float32)[:, None]
    after = position.copy()
    after[row] = position[row] * (1 - along) + position[other] * along
    bad = _changed(position, after, triangles, row, shortest)
    good = ~bad[row]
    row, other, part = row[good], other[good], part[good]
    table = work.vertices.copy()
    table.blend(row.astype(np.int32), row.astype(np.int32), other.astype(np.int32), part)
    work.vertices = table
    work.inward[row], work.on[row] = 0.0, True


def _changed(
    before: NDArray[np.float32], after: NDArray[np.float32], triangles: NDArray[np.int32], rows: NDArray[np.integer],
    shortest: Figures,
) -> Mask:  # fmt: skip
    # vertices whose slide would change the shape, or turn a triangle over
    count = before.shape[0]
    moved = np.zeros(count, np.bool_)
    moved[rows] = True
    near = triangles[any_of(moved, triangles)]
    old, new = unit_normals(before, near), unit_normals(after, near)
    out = np.zeros(count, np.bool_)
    out[near[np.einsum("ki,ki->k", old, new) < 0.5]] = True
    step = after.astype(np.float64) - before
    for k in range(3):
        off = np.abs(np.einsum("ki,ki->k", step[near[:, k]], old))
        out[near[:, k][off > FLAT * shortest[near[:, k]]]] = True
    return out


def _mark(work: _Work, inward: Inward, tolerance: float, column: str, number: float) -> None:
    # edges whose ends lie on the rim, and whose middle does
    triangles = work.corners.triangles
    position = work.vertices["position"].astype(np.float64)
    both = _both_on(work)
    a, b = position[triangles[:, NEXT][both]], position[triangles[:, LAST][both]]
    middle, size = (a + b) / 2, np.linalg.norm(a - b, axis=1)
    along = np.zeros(both.shape, np.bool_)
    along[both] = np.abs(inward(middle)) <= np.maximum(1.5 * tolerance, 0.02 * size)
    slots = work.corners.slots
    if column not in slots:
        slots.add("edge", column, 1)
    slots[column][along] = number
