"""Even triangles at a wanted edge length, along the surface."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.mesh.sides import side_lengths, unit_normals
from hulmo.core.mesh.slot_table import LOOSE
from hulmo.core.mesh.used_rows import over_used_rows
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.carry import carried
from hulmo.core.topology.edge_ops import (
    MOST_RING,
    can_collapse,
    collapse_edge,
    facing,
    flip_edge,
    joined,
    ring_of,
    split_edge,
    squared,
)
from hulmo.core.topology.split_edges import split_edges

Corners = NDArray[np.int32]
Triangles = NDArray[np.int32]
Places = NDArray[np.float64]

LONG, SHORT = 4.0 / 3.0, 4.0 / 5.0
"""Shares of the wanted length from which edges are split, and under which they are collapsed."""

EASE = 0.8
"""Part of the way to the middle of its neighbours that a vertex goes in one pass."""


@part_of_kernels
def _halve(line, t, k, t3):  # type: ignore[no-untyped-def]
    # which edges of a triangle are lines, when the one across corner k is split and `t3` gets the previous corner
    n = 3 * t + (k + 1) % 3
    line[3 * t3] = line[3 * t + k]
    line[3 * t3 + 1] = line[n]
    line[3 * t3 + 2] = False
    line[n] = False


@kernel("int64(float64[:,::1], int32[::1], int32[::1], int32[::1], boolean[::1], boolean[::1], int64[::1], float64)")
def _split_long(
    position: Places, vertex: Corners, opposite: Corners, first: Corners, line: NDArray[np.bool_], fixed: NDArray[np.bool_],
    used: NDArray[np.int64], length: float,
) -> int:  # fmt: skip
    # `used` holds the rows and triangles in use; splits go on until nothing is too long or there is no more room; a vertex
    # on a line is fixed
    limit = length * length
    done = 0
    c = 0
    while c < 3 * used[1]:
        o = opposite[c]
        if vertex[c] >= 0 and o > c:
            a = vertex[next_corner(c)]
            b = vertex[previous_corner(c)]
            if squared(position, a, b) > limit:
                if used[0] >= position.shape[0] or 3 * used[1] + 6 > vertex.size:
                    return -1
                m = used[0]
                for axis in range(3):
                    position[m, axis] = 0.5 * (position[a, axis] + position[b, axis])
                _halve(line, c // 3, c % 3, used[1])
                _halve(line, o // 3, o % 3, used[1] + 1)
                fixed[m] = line[c]
                split_edge(c, vertex, opposite, first, m, used[1], used[1] + 1)
                used[0] += 1
                used[1] += 2
                done += 1
                continue  # the nearer half is looked at again
        c += 1
    return done


@kernel("int64(float64[:,::1], int32[::1], int32[::1], int32[::1], boolean[::1], int64[::1], float64, float64)")
def _collapse_short(
    position: Places,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    fixed: NDArray[np.bool_],
    used: NDArray[np.int64],
    short: float,
    length: float,
) -> int:
    ring = np.empty(MOST_RING, np.int64)
    other = np.empty(MOST_RING, np.int64)
    before = np.empty(3, np.float64)
    after = np.empty(3, np.float64)
    spare = position.shape[0] - 1  # the last row is scratch: where the vertex would go
    done = 0
    for c in range(3 * used[1]):
        if vertex[c] < 0 or opposite[c] < c:
            continue
        a = vertex[next_corner(c)]
        b = vertex[previous_corner(c)]
        if fixed[a] or fixed[b] or squared(position, a, b) >= short * short:
            continue
        if can_collapse(c, vertex, opposite, first, ring, other) == 0:
            continue
        for axis in range(3):
            position[spare, axis] = 0.5 * (position[a, axis] + position[b, axis])
        good = True
        for side in range(2):
            count = ring_of(next_corner(c) if side == 0 else previous_corner(c), opposite, ring)
            for i in range(count):
                j = vertex[next_corner(ring[i])]
                k = vertex[previous_corner(ring[i])]
                if squared(position, spare, j) > length * length:
                    good = False
                    break
                if j == a or j == b or k == a or k == b:  # noqa: SIM109 - kernels want one type in a tuple
                    continue  # one of the two that go
                facing(position, vertex[ring[i]], j, k, before)
                facing(position, spare, j, k, after)
                along = before[0] * after[0] + before[1] * after[1] + before[2] * after[2]
                size = np.sqrt(
                    (before[0] ** 2 + before[1] ** 2 + before[2] ** 2) * (after[0] ** 2 + after[1] ** 2 + after[2] ** 2)
                )
                if along <= 0.5 * size:
                    good = False
                    break
            if not good:
                break
        if good:
            collapse_edge(c, vertex, opposite, first, other)
            for axis in range(3):
                position[a, axis] = position[spare, axis]
            done += 1
    return done


@kernel("int64(float64[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], boolean[::1], boolean[::1], int64[::1])")
def _flip_for_valence(
    position: Places,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    valence: Corners,
    line: NDArray[np.bool_],
    fixed: NDArray[np.bool_],
    used: NDArray[np.int64],
) -> int:
    ring = np.empty(MOST_RING, np.int64)
    one = np.empty(3, np.float64)
    two = np.empty(3, np.float64)
    old = np.empty(3, np.float64)
    done = 0
    for c in range(3 * used[1]):
        o = opposite[c]
        if vertex[c] < 0 or o < c:
            continue
        p = vertex[c]
        a = vertex[next_corner(c)]
        b = vertex[previous_corner(c)]
        q = vertex[o]
        if line[c] or (fixed[a] and fixed[b]):
            continue
        now = abs(valence[a] - 6) + abs(valence[b] - 6) + abs(valence[p] - 6) + abs(valence[q] - 6)
        then = abs(valence[a] - 7) + abs(valence[b] - 7) + abs(valence[p] - 5) + abs(valence[q] - 5)
        if then >= now or valence[a] <= 3 or valence[b] <= 3:
            continue
        if joined(p, q, vertex, opposite, first, ring):
            continue
        facing(position, p, a, q, one)
        facing(position, q, b, p, two)
        facing(position, p, a, b, old)
        across = one[0] * two[0] + one[1] * two[1] + one[2] * two[2]
        long_one = np.sqrt(one[0] ** 2 + one[1] ** 2 + one[2] ** 2)
        long_two = np.sqrt(two[0] ** 2 + two[1] ** 2 + two[2] ** 2)
        kept = old[0] * one[0] + old[1] * one[1] + old[2] * one[2]
        if across <= 0.7 * long_one * long_two or kept <= 0.0:
            continue
        # no triangle may become much thinner than the thinner of the two was
        thin = min(long_one, long_two) / squared(position, p, q)
        facing(position, q, b, a, two)
        long_old = np.sqrt(old[0] ** 2 + old[1] ** 2 + old[2] ** 2)
        long_two = np.sqrt(two[0] ** 2 + two[1] ** 2 + two[2] ** 2)
        if thin < 0.5 * min(long_old, long_two) / squared(position, a, b):
            continue
        x = next_corner(c)
        z = next_corner(o)
        line[c] = line[z]
        line[o] = line[x]
        line[x] = False
        line[z] = False
        flip_edge(c, vertex, opposite, first)
        valence[a] -= 1
        valence[b] -= 1
        valence[p] += 1
        valence[q] += 1
        done += 1
    return done


def recast_surface(
    body: Body, length: float, passes: int, sharp: float, progress: Progress
) -> tuple[VertexTable, CornerTable]:
    """Tables with edges of about one length, on the surface of a body.

    Parameters
    ----------
    body : Body
    length : float
        Wanted edge length, metres.
    passes : int
        Rounds of splitting, collapsing, flipping and easing; 5 is usual.
    sharp : float
        Degrees between the normals of two triangles from which their edge is a crease whose vertices stay.

    Returns
    -------
    tuple
        Borders, creases, edges of which something is known, and what is guarded keep their vertices, and those edges stay
        lines; all that is known of vertices, corners, faces and edges is carried.
    """
    position, triangles = evened(body, length, passes, sharp, progress.part(0.0, 0.95))
    progress.step(0.95, "carrying grounds and layers")
    return carried(body, position.astype(np.float32), triangles)


def evened(
    body: Body, length: float, passes: int, sharp: float, progress: Progress, onto: Body | None = None
) -> tuple[Places, Triangles]:
    """Positions (K, 3) and triangles of an even mesh on the surface of a body; see `recast_surface`.

    Parameters
    ----------
    onto : Body, optional
        Whose surface vertices are brought to in the end, where it is less than half an edge away. When left out, they are
        brought back to the body's own after every round.

    Notes
    -----
    Botsch and Kobbelt, "A remeshing approach to multiresolution modeling" (2004).
    """
    used, triangles = over_used_rows(body.corners.live_triangles(), body.vertices.count)
    position = body.vertices["position"][used].astype(np.float64)
    lines, guarded = _kept(body, sharp)
    lines = lines.reshape(-1, 3)[body.corners.triangles[:, 0] >= 0].reshape(-1)
    position, triangles, lines = _with_short_borders(position, triangles, lines, LONG * length)
    kept = np.zeros(position.shape[0], np.bool_)
    kept[: used.size] = guarded[used]
    kept[_ends(triangles, lines)] = True
    corners = CornerTable.from_triangles(triangles, position.shape[0])
    for done in range(passes):
        progress.step(done / passes, "splitting, collapsing and flipping edges")
        position, triangles, lines, kept = _round(position, corners, lines, kept, length)
        corners = CornerTable.from_triangles(triangles, position.shape[0])
        progress.step((done + 0.5) / passes, "easing vertices")
        position = _eased(position, corners, kept)
        if onto is None:
            position = _back(body, position, kept, np.inf)
        elif done == passes - 1:
            position = _unfolded(position, _back(onto, position, kept, 0.5 * length), triangles)
    return position, triangles


def _with_short_borders(
    position: Places, triangles: Triangles, lines: NDArray[np.bool_], limit: float
) -> tuple[Places, Triangles, NDArray[np.bool_]]:
    # edges of a border that are too long are halved first: at one that stays, no division inside comes to an end
    vertices = VertexTable(position.shape[0])
    vertices.set_column("position", position)
    corners = CornerTable.from_triangles(triangles, vertices.count)
    corners.slots.set("edge", "line", lines.reshape(-1, 3, 1).astype(np.float32))
    exact = position
    while True:
        size = side_lengths(vertices["position"], corners.triangles)[:, (2, 0, 1)]
        long = (corners.opposite.reshape(-1, 3) < 0) & (size > limit)
        if not long.any():
            break
        count = vertices.count
        vertices, corners, _ = split_edges(vertices, corners, long)
        exact = np.concatenate((exact, vertices["position"][count:].astype(np.float64)))
    return exact, corners.triangles, corners.slots["line"][:, :, 0].reshape(-1) > 0


def _kept(body: Body, sharp: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    # which edges, by the corner across, are lines that stay (borders, creases, edges of which something is known), and
    # which vertices are guarded
    corners = body.corners
    live = np.flatnonzero(corners.vertex >= 0)
    across = corners.opposite[live]
    crease = across < 0
    if sharp < 180:
        normal = unit_normals(body.vertices["position"], corners.triangles)
        inner = across >= 0
        bend = np.einsum("ij,ij->i", normal[live[inner] // 3], normal[across[inner] // 3])
        crease[np.flatnonzero(inner)[bend < np.cos(np.radians(sharp))]] = True
    for name in corners.slots.names("edge"):
        if name.startswith(LOOSE):
            continue
        crease |= corners.slots[name].any(axis=2).reshape(-1)[live]
    lines = np.zeros(3 * corners.count, np.bool_)
    lines[live] = crease
    guarded = np.zeros(body.vertices.count, np.bool_)
    if GUARD in body.vertices:
        guarded |= body.vertices[GUARD][:, 0] > 0.5
    return lines, guarded


def _ends(triangles: NDArray[np.int32], lines: NDArray[np.bool_]) -> NDArray[np.int32]:
    # vertices that lines run through
    slot, corner = np.divmod(np.flatnonzero(lines), 3)
    return np.concatenate((triangles[slot, (corner + 1) % 3], triangles[slot, (corner + 2) % 3]))


def _round(
    position: Places, corners: CornerTable, lines: NDArray[np.bool_], kept: NDArray[np.bool_], length: float
) -> tuple[Places, NDArray[np.int32], NDArray[np.bool_], NDArray[np.bool_]]:
    rows, faces = position.shape[0], corners.count
    longest, splits = _splits(position, corners, length)
    room = rows + 2 * splits
    grown = np.empty((room + 1, 3))
    grown[:rows] = position
    vertex, opposite = (np.empty(3 * (faces + 2 * room), np.int32) for _ in range(2))
    vertex[: 3 * faces], opposite[: 3 * faces] = corners.vertex, corners.opposite
    first = np.empty(room + 1, np.int32)
    first[:rows] = corners.first_corner
    line, fixed = np.zeros(vertex.size, np.bool_), np.zeros(room + 1, np.bool_)
    line[: 3 * faces], fixed[:rows] = lines, kept
    used = np.array([rows, faces], np.int64)
    limit = LONG * length
    while longest > limit:  # the longest first, so that halves are well shaped
        longest = max(longest / 1.4, limit)
        if _split_long(grown[:room], vertex, opposite, first, line, fixed, used, longest) < 0:
            raise InvalidInput(
                "recast: this edge length makes more vertices than were planned for; choose a longer one"
            )
    _collapse_short(grown, vertex, opposite, first, fixed, used, SHORT * length, LONG * length)
    live = vertex[: 3 * used[1]]
    valence = np.bincount(live[live >= 0], minlength=room + 1).astype(np.int32)
    _flip_for_valence(grown, vertex, opposite, first, valence, line, fixed, used)
    triangles = vertex[: 3 * used[1]].reshape(-1, 3)
    there, number = np.unique(triangles[triangles[:, 0] >= 0], return_inverse=True)
    lines = line[: 3 * used[1]].reshape(-1, 3)[triangles[:, 0] >= 0].reshape(-1)
    return grown[there], number.reshape(-1, 3).astype(np.int32), lines, fixed[there]


def _splits(position: Places, corners: CornerTable, length: float) -> tuple[float, int]:
    # the longest edge, and the new vertices that splitting every long edge down to the wanted length takes at the most
    triangles = corners.live_triangles()
    lengths = side_lengths(position, triangles)
    parts = np.ceil(lengths / (0.5 * length))
    return float(lengths.max(initial=0.0)), int((parts.max(axis=1) ** 2).sum() / 2) + 64


def _eased(position: Places, corners: CornerTable, kept: NDArray[np.bool_]) -> Places:
    at = position.astype(np.float32)
    rows = np.arange(at.shape[0], dtype=np.int32)
    normal = np.zeros_like(at)
    update_normals(at, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
    amount = np.where(kept, 0.0, EASE).astype(np.float32)
    moved = ring_means(at, corners, rows, amount, normal, along=True)
    return np.where(kept[:, None], position, moved.astype(np.float64))


def _back(body: Body, position: Places, kept: NDArray[np.bool_], reach: float) -> Places:
    # the nearest points of a body's surface, where they are within reach
    at = position.astype(np.float32)
    triangle, weight = body.index.nearest_many(body.corners.vertex, body.vertices["position"], at)
    on = np.einsum("ki,kij->kj", weight, body.vertices["position"][body.corners.triangles[triangle]])
    stay = kept | (np.linalg.norm(on - at, axis=1) > reach)
    return np.where(stay[:, None], position, on.astype(np.float64))


def _unfolded(before: Places, after: Places, triangles: Triangles) -> Places:
    # where going back turned a triangle by more than 60 degrees, its vertices stay where they were
    facing_before = unit_normals(before, triangles)
    for _ in range(8):
        turned = np.einsum("ij,ij->i", facing_before, unit_normals(after, triangles)) < 0.5
        if not turned.any():
            break
        rows = np.unique(triangles[turned])
        after[rows] = before[rows]
    return after
