"""A body cut into patches that fit each other to the bit."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hulmo.core.deliver.levels import border_rows, plain
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.kernel import kernel
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.connectivity import check_fans
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.used_rows import over_used_rows
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects.line import column_of, line_of
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.progress import Progress
from hulmo.core.topology.cut_planes import cut_planes
from hulmo.core.topology.mend import mend
from hulmo.core.topology.parts import taken
from hulmo.core.topology.thin_lines import thin_lines

MOST = 4096
"""Patches of one body."""

HALVED = 40
"""Times that the range of a cell's side is halved."""

Cell = tuple[int, ...]

NUMBER = "patch"
"""Face column that holds the number of a patch meanwhile."""

SHARE = 0.1
"""Share of a ground by which a border may come to differ where it is simplified."""

SIDES = ("west", "east", "bottom", "top", "north", "south")
"""Of a ball, by falling and rising X, Y and Z."""


@dataclass(frozen=True)
class Patch:
    """One piece of a body.

    Attributes
    ----------
    name : str
        The body's name, and that of its side, its outline, or its place in the grid: e for east, s for south, u for up; m
        before what lies the other way.
    body : Body
    cell : tuple of int or None
        Its place in the grid: east, south, and up where cut in heights, too. From 0 where the world's 0 is.
    before : Body or None
        As it was before its borders were simplified; None where they were not.
    """

    name: str
    body: Body
    cell: Cell | None = None
    before: Body | None = None


@dataclass(frozen=True)
class Division:
    """A body with edges along all borders of patches to be.

    Attributes
    ----------
    body : Body
    number : (M,) int
        Which patch each triangle belongs to.
    names : sequence of str
        By these numbers.
    cells : sequence of tuple of int
        The same; none without a grid.
    """

    body: Body
    number: NDArray[np.integer]
    names: Sequence[str]
    cells: Sequence[Cell] = ()


def patches_of(body: Body, side: float, volume: bool, progress: Progress) -> Division:
    """Divide along a grid of the world, in the order of its cells.

    Along every grid line the body gets edges first, its shape as it is; so both sides of a border have the same vertices,
    with the same place, normal, shares and tint.

    Parameters
    ----------
    side : float
        Metres of a cell.
    volume : bool
        Whether cells are cubes; otherwise columns as high as the body.

    Raises
    ------
    InvalidInput
        A side that is no length, or so short that there would be too many patches.
    """
    return grid_division(plain(body), side, volume, progress)


def grid_division(
    whole: Body, side: float, volume: bool, progress: Progress, slots: NDArray[np.int64] | None = None
) -> Division:
    """As `patches_of`, of a plain body, or of some of its triangles: ascending slots.

    What comes of them is as it would be of the whole body, but for normals where others are missing around them.
    """
    if not (np.isfinite(side) and 0.01 <= side <= 1e6):
        raise InvalidInput(f"patches: side is {side:g} m; it must lie between 0.01 and 1000000")
    ways = ways_of(volume)
    place = whole.placed(whole.vertices["position"].astype(np.float64))
    low, high = low_high(place)
    low, high = np.floor(low / side), np.ceil(high / side)
    count = int(np.prod([max(high[axis] - low[axis], 1.0) for axis in ways]))
    if count > MOST:
        raise InvalidInput(
            f"patches: cells of {side:g} m would be {count:,} patches of {whole.name!r}; at most {MOST:,}: take larger ones"
        )
    planes = []
    for axis in ways:
        normal = np.zeros(3)
        normal[axis] = 1.0
        lines = np.arange(low[axis] + 1, high[axis])
        planes.append((normal, (lines * side - whole.origin[axis]).tolist()))
    cut = _cut(whole if slots is None else _some(whole, slots), planes, progress)
    cells, number = _cells_of(cut, ways, side)
    places = [tuple(cell) for cell in cells.tolist()]
    return Division(cut, number, [cell_name(cell) for cell in places], places)


def ways_of(volume: bool) -> tuple[int, ...]:
    """Axes that a grid goes along."""
    return (0, 2, 1)[: 3 if volume else 2]


def cell_name(cell: Cell) -> str:
    """Of a place in a grid; see `Patch`."""
    return ".".join(f"{way}{'m' if at < 0 else ''}{abs(at)}" for way, at in zip("esu", cell, strict=False))


def _some(body: Body, slots: NDArray[np.int64]) -> Body:
    out = Body(body.name, *taken(body.vertices, body.corners, slots), body.ident)
    out.origin, out.down, out.base = body.origin, body.down, body.base
    return out


def _cells_of(body: Body, ways: tuple[int, ...], side: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    # the cells of a grid in which middles of triangles lie, in order, and (M,) which of them each lies in
    axes = list(ways)
    cell = np.empty((body.corners.count, len(axes)), np.int64)
    origin = np.array(body.origin)[axes]
    _cells(body.vertices["position"], body.corners.vertex, np.array(axes), origin, side, cell)
    low, high = low_high(cell)
    count = high - low + 1
    key = np.ravel_multi_index(tuple((cell - low).T), tuple(count.tolist()))
    there = np.bincount(key) > 0  # they are few: `MOST`
    keys, number = np.flatnonzero(there), (np.cumsum(there) - 1)[key]
    return np.stack(np.unravel_index(keys, tuple(count.tolist())), axis=1) + low, number.reshape(-1)


@kernel("void(float32[:,::1], int32[::1], int64[::1], float64[::1], float64, int64[:,::1])")
def _cells(
    position: NDArray[np.float32], vertex: NDArray[np.int32], axes: NDArray[np.int64], origin: NDArray[np.float64],
    side: float, cell: NDArray[np.int64],
) -> None:  # fmt: skip
    for t in range(cell.shape[0]):
        for i in range(axes.size):
            axis = axes[i]
            middle = (
                np.float64(position[vertex[3 * t], axis])
                + np.float64(position[vertex[3 * t + 1], axis])
                + np.float64(position[vertex[3 * t + 2], axis])
            ) / 3.0
            cell[t, i] = np.int64(np.floor((middle + origin[i]) / side))


def side_for(body: Body, triangles: int, volume: bool) -> float:
    """Metres of a cell with which patches of a body have about so many triangles each in the mean."""
    place = body.placed(body.vertices["position"].astype(np.float64))[body.corners.live_triangles()].mean(axis=1)
    ways = ways_of(volume)
    wanted = max(1.0, place.shape[0] / triangles)
    low, high = 0.01, 1e6
    for _ in range(HALVED):
        side = float(np.sqrt(low * high))
        cells = np.unique(np.floor(place[:, ways] / side).astype(np.int64), axis=0).shape[0]
        low, high = (side, high) if cells > wanted else (low, side)
    return high


def outlines_of(body: Body, objects: tuple[SceneObject, ...]) -> Division:
    """Divide along the outlines that lie on a body: what each encloses, without those within it, and what lies outside all.

    Where an outline cuts the mesh, the border runs along its edges; otherwise along those of the triangles that lie there.
    """
    lines = [entry for entry in objects if entry.kind == "outline" and line_of(entry).body == body.ident]
    whole = plain(body)
    vertices, corners = compact(body.vertices, body.corners)
    number = np.zeros(corners.count, np.int64)
    inside = []
    for entry in lines:
        column = vertices.get(column_of(entry))
        inward = np.zeros(corners.count) if column is None else column[corners.triangles, 0].sum(axis=1)
        inside.append(inward > 0)
    for i in sorted(range(len(lines)), key=lambda i: -int(inside[i].sum())):  # what lies within another one comes later
        number[inside[i]] = i + 1
    return Division(whole, number, ["outside", *(entry.name for entry in lines)])


def six_sides_of(body: Body, progress: Progress) -> Division:
    """Divide into the six sides of a ball about the middle of a body: what lies most east of it, most west, and so on.

    Borders are as those of `patches_of`.
    """
    whole = plain(body)
    place = whole.vertices["position"][np.unique(whole.corners.triangles)].astype(np.float64)
    about = np.add(*low_high(place)) / 2
    planes = []
    for one, other in ((0, 1), (0, 2), (1, 2)):
        for sign in (1.0, -1.0):
            normal = np.zeros(3)
            normal[one], normal[other] = np.sqrt(0.5), sign * np.sqrt(0.5)
            planes.append((normal, [float(normal @ about)]))
    cut = _cut(whole, planes, progress)
    way = cut.vertices["position"][cut.corners.triangles].astype(np.float64).mean(axis=1) - about
    axis = np.abs(way).argmax(axis=1)
    return Division(cut, 2 * axis + (way[np.arange(len(way)), axis] > 0), SIDES)


def _cut(whole: Body, planes: list[tuple[NDArray[np.float64], list[float]]], progress: Progress) -> Body:
    # with edges along planes about the body's origin, and normals of all of it, which the patches keep
    vertices, corners = whole.vertices, whole.corners
    for done, (normal, places) in enumerate(planes):
        part = progress.part(0.6 * done / len(planes), 0.6 * (done + 1) / len(planes))
        vertices, corners = cut_planes(vertices, corners, normal, places, part)
    cut = Body(whole.name, vertices, corners, whole.ident)
    cut.origin, cut.down, cut.base = whole.origin, whole.down, whole.base
    if any(places for _, places in planes):
        cut.replaced()
    return cut


def taken_apart(division: Division, borders: float, outer: bool, progress: Progress) -> list[Patch]:
    """The patches of a division.

    Parameters
    ----------
    borders : float
        Metres that borders may lie off: they are simplified once, before anybody is taken apart, so that both sides have the
        same. 0: they stay as they are.
    outer : bool
        Whether those of the body are simplified, too, and not only those between patches.
    """
    cut, number = division.body, division.number
    before = dict(_pieces(cut, number)) if borders > 0 else {}
    if borders > 0:
        progress.step(0.0, f"simplifying borders of {cut.name}")
        cut, number = _with_thin_borders(cut, number, borders, outer)
    out = []
    for i, piece in _pieces(cut, number):
        progress.step((i + 1) / len(division.names), f"taking {cut.name} apart")
        cell = division.cells[i] if division.cells else None
        out.append(Patch(f"{cut.name}.{division.names[i]}", piece, cell, before.get(i)))
    return out


def _pieces(cut: Body, number: NDArray[np.integer]) -> Iterator[tuple[int, Body]]:
    # triangles of the same number, as a body of their own
    order = np.argsort(number, kind="stable")
    begin = np.append(np.flatnonzero(np.diff(number[order], prepend=-1)), order.size)
    across = np.empty(3 * order.size, np.int32)
    _facing(cut.corners.opposite, number.astype(np.int64), order, begin, np.empty(order.size, np.int32), across)
    for low, high in pairwise(begin.tolist()):
        slots = order[low:high]
        piece = Body(cut.name, *_taken(cut, slots, across[3 * low : 3 * high]), cut.ident)
        piece.origin, piece.down, piece.base = cut.origin, cut.down, cut.base
        yield int(number[slots[0]]), piece


@kernel("void(int32[::1], int64[::1], int64[::1], int64[::1], int32[::1], int32[::1])")
def _facing(
    opposite: NDArray[np.int32], number: NDArray[np.int64], order: NDArray[np.int64], begin: NDArray[np.int64],
    place: NDArray[np.int32], across: NDArray[np.int32],
) -> None:  # fmt: skip
    # opposite corners within each piece, as they stand in order; `place` gets where each triangle stands in its piece
    for piece in range(begin.size - 1):
        for i in range(begin[piece], begin[piece + 1]):
            place[order[i]] = i - begin[piece]
    for i in range(order.size):
        t = order[i]
        for k in range(3):
            other = opposite[3 * t + k]
            same = other >= 0 and number[other // 3] == number[t]
            across[3 * i + k] = 3 * place[other // 3] + other % 3 if same else -1


def _with_thin_borders(
    cut: Body, number: NDArray[np.integer], tolerance: float, outer: bool
) -> tuple[Body, NDArray[np.int64]]:
    corners, vertices = cut.corners.copy(), cut.vertices
    across = corners.opposite.reshape(-1, 3)
    lines = np.where(across >= 0, number[across // 3] != number[:, None], outer)
    corners.slots.set("face", NUMBER, number[:, None, None].astype(np.float32))
    # shares count as places do: what differs by so much is as far off as the borders may lie
    known = [vertices[name].astype(np.float64) * (tolerance / SHARE) for name in (WEIGHT, TINT) if name in vertices]
    values = np.concatenate((vertices["position"].astype(np.float64), *known), axis=1)
    vertices, made = thin_lines(vertices, corners, np.asarray(lines), values, tolerance)
    used, triangles = over_used_rows(made.triangles, vertices.count)
    table = VertexTable(used.size)
    for name in vertices.names:
        table.set_column(name, vertices[name][used])
    made = CornerTable.from_triangles(triangles, used.size, made.slots)
    after = made.slots[NUMBER][:, 0, 0].astype(np.int64)
    made.slots.drop(NUMBER)
    out = Body(cut.name, table, made, cut.ident)
    out.origin, out.down, out.base = cut.origin, cut.down, cut.base
    out.replaced()
    return out, after


def rim_of(body: Body) -> NDArray[np.float32]:
    """(K, 3) places of the vertices on borders: patches that have some in common, to the bit, lie beside each other."""
    return np.asarray(body.vertices["position"][border_rows(body)] + np.float32(0.0))


def _taken(body: Body, slots: NDArray[np.intp], across: NDArray[np.int32]) -> tuple[VertexTable, CornerTable]:
    used, local = over_used_rows(body.corners.triangles[slots], body.vertices.count)
    known = body.corners.slots.taken(slots)
    made = CornerTable.from_opposites(local.reshape(-1), across, used.size, known, True)
    try:
        check_fans(made.vertex, made.opposite, made.first_corner)
    except InvalidInput:  # pieces that touch in a single point: the point becomes two, at the same place
        result = mend(body.vertices["position"][used], local, outward=False)
        used = used[result.source]
        known = known.taken(result.faces, result.turned)
        made = CornerTable.from_triangles(result.triangles, used.size, known)
    table = VertexTable(used.size)
    for name in body.vertices.names:
        table.set_column(name, body.vertices[name][used])
    return table, made
