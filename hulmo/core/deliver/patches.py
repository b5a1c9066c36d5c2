"""A body cut into patches that fit each other to the bit."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.deliver.levels import plain
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.cut_plane import cut_plane
from hulmo.core.topology.mend import mend
from hulmo.core.topology.parts import picked

MOST = 4096
"""Patches of one body."""

Cell = tuple[int, ...]

SIDES = ("west", "east", "bottom", "top", "north", "south")
"""Of a ball, by falling and rising X, Y and Z."""


@dataclass(frozen=True)
class Patch:
    """One piece of a body.

    Attributes
    ----------
    cell : tuple of int
        Its place in the grid: east, south, and up where cut in heights, too. From 0 where the world's 0 is. Of six sides,
        the number in `SIDES`.
    body : Body
    """

    cell: Cell
    body: Body

    @property
    def name(self) -> str:
        """The body's name with its side, or place: e for east, s for south, u for up; m before what lies the other way."""
        if len(self.cell) == 1:
            return f"{self.body.name}.{SIDES[self.cell[0]]}"
        words = [
            f"{way}{'m' if number < 0 else ''}{abs(number)}" for way, number in zip("esu", self.cell, strict=False)
        ]
        return f"{self.body.name}.{'.'.join(words)}"


def patches_of(body: Body, side: float, volume: bool, progress: Progress) -> list[Patch]:
    """Patches of a grid of the world, in the order of their cells.

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
    if not (np.isfinite(side) and 0.01 <= side <= 1e6):
        raise InvalidInput(f"patches: side is {side:g} m; it must lie between 0.01 and 1000000")
    ways = (0, 2, 1)[: 3 if volume else 2]
    whole = plain(body)
    place = whole.placed(whole.vertices["position"].astype(np.float64))
    low, high = np.floor(place.min(axis=0) / side), np.ceil(place.max(axis=0) / side)
    count = int(np.prod([max(high[axis] - low[axis], 1.0) for axis in ways]))
    if count > MOST:
        raise InvalidInput(
            f"patches: cells of {side:g} m would be {count:,} patches of {body.name!r}; at most {MOST:,}: take larger ones"
        )
    planes = []
    for axis in ways:
        normal = np.zeros(3)
        normal[axis] = 1.0
        planes += [(normal, line * side - body.origin[axis]) for line in np.arange(low[axis] + 1, high[axis]).tolist()]
    cut = _cut(whole, planes, progress)
    middle = cut.placed(cut.vertices["position"][cut.corners.triangles].astype(np.float64).mean(axis=1))
    return _apart(cut, np.floor(middle[:, ways] / side).astype(np.int64), progress)


def six_sides_of(body: Body, progress: Progress) -> list[Patch]:
    """Patches that are the six sides of a ball about the middle of a body: what lies most east of it, most west, and so on.

    Borders are as those of `patches_of`.
    """
    whole = plain(body)
    place = whole.vertices["position"][np.unique(whole.corners.triangles)].astype(np.float64)
    about = (place.min(axis=0) + place.max(axis=0)) / 2
    planes = []
    for one, other in ((0, 1), (0, 2), (1, 2)):
        for sign in (1.0, -1.0):
            normal = np.zeros(3)
            normal[one], normal[other] = np.sqrt(0.5), sign * np.sqrt(0.5)
            planes.append((normal, float(normal @ about)))
    cut = _cut(whole, planes, progress)
    way = cut.vertices["position"][cut.corners.triangles].astype(np.float64).mean(axis=1) - about
    axis = np.abs(way).argmax(axis=1)
    return _apart(cut, (2 * axis + (way[np.arange(len(way)), axis] > 0))[:, None], progress)


def _cut(whole: Body, planes: list[tuple[NDArray[np.float64], float]], progress: Progress) -> Body:
    # with edges along planes about the body's origin, and normals of all of it, which the patches keep
    vertices, corners = whole.vertices, whole.corners
    for done, (normal, away) in enumerate(planes):
        progress.step(0.6 * done / len(planes), f"cutting {whole.name}")
        vertices, corners, _ = cut_plane(vertices, corners, normal, away)
    cut = Body(whole.name, vertices, corners, whole.ident)
    cut.origin, cut.down, cut.base = whole.origin, whole.down, whole.base
    if planes:
        cut.replaced()
    return cut


def _apart(cut: Body, cells: NDArray[np.int64], progress: Progress) -> list[Patch]:
    every, number = np.unique(cells, axis=0, return_inverse=True)
    out = []
    for i, cell in enumerate(every.tolist()):
        progress.step(0.6 + 0.4 * i / len(every), f"taking {cut.name} apart")
        piece = Body(cut.name, *_taken(cut, number.reshape(-1) == i), cut.ident)
        piece.origin, piece.down, piece.base = cut.origin, cut.down, cut.base
        out.append(Patch(tuple(cell), piece))
    return out


def neighbours(cells: list[Cell]) -> dict[Cell, list[Cell]]:
    """Cells that share a side or a corner, of each."""
    known = set(cells)
    if cells and len(cells[0]) == 1:  # sides of a ball: all but itself and the one across
        return {cell: sorted(there for there in known if there[0] // 2 != cell[0] // 2) for cell in cells}
    steps = list(np.ndindex(*([3] * len(cells[0])))) if cells else []
    return {
        cell: sorted(
            there for step in steps
            if (there := tuple(at + move - 1 for at, move in zip(cell, step, strict=True))) in known and there != cell
        )
        for cell in cells
    }  # fmt: skip


def _taken(body: Body, mask: NDArray[np.bool_]) -> tuple[VertexTable, CornerTable]:
    try:
        return picked(body.vertices, body.corners, mask)
    except InvalidInput:
        pass
    # pieces that touch in a single point: the point becomes two, at the same place
    triangles = body.corners.triangles[mask]
    used, local = np.unique(triangles, return_inverse=True)
    result = mend(body.vertices["position"][used], local.reshape(-1, 3), outward=False)
    table = VertexTable(result.source.size)
    for name in body.vertices.names:
        table.set_column(name, body.vertices[name][used[result.source]])
    slots = body.corners.slots.taken(np.flatnonzero(mask)[result.faces], result.turned)
    return table, CornerTable.from_triangles(result.triangles, table.count, slots)
