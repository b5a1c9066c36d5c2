"""Edges cut along the rim of a line, and beside it."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hulmo.core.lines.field import Inward, inward_at, inward_of
from hulmo.core.lines.ground import Ground
from hulmo.core.lines.relief import reach_of
from hulmo.core.lines.trace import Trace
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import all_of, any_of
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects.line import CUT, column_of, rows_of
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.progress import Progress
from hulmo.core.setting import Values, number
from hulmo.core.topology.cut_along import cut_along, tidied_rim
from hulmo.core.topology.local_remesh import LocalRemesh
from hulmo.core.topology.longest_edges import HELD, longest_edges
from hulmo.core.topology.piece import Piece, off_rim, put_back, taken_out, usual_edge, with_a_ring
from hulmo.core.topology.split_edges import split_edges

Mask = NDArray[np.bool_]
Figures = NDArray[np.float64]

FEW_EDGES = 6.0
"""Usual edges from the rim within which distances are known at the least."""

BESIDE = 4.0
"""Longest edges beside a rim that are taken out with it to be cut."""

RINGS = 2
"""Rings of triangles beside edges that are to be cut again which are taken out with them."""

MOST_RINGS = 40
"""Rings of triangles that a piece grows by at the most until no line to be cut runs over its rim."""

SPREAD = 3.0
"""Times the least gap between rim and support rows that edges along them are long at the most."""

FINE_ACROSS, FINE_INSIDE = 0.7, 0.6
"""Shares of the width of a track, and of the least radius of an outline, that edges under them are long at the most."""

ROUNDS = 24
"""How often triangles are divided at the most for that."""

THINNED = 4
"""Rings of triangles around a cut that was given up that are made coarser again."""

STAYS, MOVED = 3.0, 0.25
"""Times the tolerance that an edge may be off a line and still stay where it is, and by which the line may have moved there
since it was cut."""

NEARBY = 0.95
"""Share of the farthest that is known how far out from a rim it lies, within which the mesh is of the line's making."""

SIDE = "figure side"
"""Vertex column that holds how far in each vertex lies while triangles are made better."""


@dataclass(frozen=True)
class CutMesh:
    """Tables of a body as a cut has left them.

    Attributes
    ----------
    vertices, corners
        Without freed slots.
    found : Inward or None
        How they lie to the line; None where that is to be asked anew.
    fresh : (N,) bool
        Vertices that are new or may have other triangles than before.
    """

    vertices: VertexTable
    corners: CornerTable
    found: Inward | None
    fresh: Mask


@dataclass(frozen=True)
class _Levels:
    # distances in from the rim at which edges are wanted: of the rim itself, and of the support rows on both sides
    values: tuple[float, ...]
    tolerance: float

    def slack(self, level: float) -> float:
        return max(self.tolerance, abs(level) / 4)


def cut_line(
    body: Body,
    base: Ground,
    before: Trace | None,
    course: Trace,
    entry: SceneObject,
    values: Values,
    where: str,
    progress: Progress,
    turned: bool | None = None,
) -> CutMesh:
    """Tables with edges along the rim of a line and its support rows; where it has not moved since it was cut, they stay.

    Parameters
    ----------
    base : Ground
        The body below the relief of the line; positions of the tables are so, too.
    before : Trace or None
        Of the line as it was cut last; None where it was not, or otherwise.
    course : Trace
        Of the line on it.
    turned : bool, optional
        See `inward_of`.

    Raises
    ------
    InvalidInput
    """
    whole = body.vertices.view()
    whole.set_column("position", base.position)
    whole.free = body.vertices.free
    vertices, corners = compact(whole, body.corners)
    same = corners is body.corners
    if same:
        corners = CornerTable(corners.vertex, corners.opposite, corners.first_corner, corners.slots.copy())
    rows = rows_of(values, where)
    levels = _Levels((0.0, *rows, *(-row for row in rows)), number(values, "tolerance"))
    kept, fresh = np.zeros((corners.count, 3), np.bool_), np.zeros(vertices.count, np.bool_)
    marked = corners.slots.get(CUT)
    if marked is not None and (marked == entry.ident).any():
        marked = marked[:, :, 0] == entry.ident
        kept = np.zeros_like(marked)
        if values["cut"] and before is not None:
            kept = _right(vertices, corners, marked, body, (before, course), levels, values)
        given_up = marked & ~kept
        if given_up.any():
            corners.slots[CUT][given_up] = 0.0
            if not corners.slots[CUT].any():
                corners.slots.drop(CUT)
            moved = _moved(vertices, body, (before, course), entry, values)
            vertices, corners, fresh = _thinned(vertices, corners, given_up, moved)
            same = False
    if not values["cut"]:
        return CutMesh(vertices.copy(), corners.copy(), None, fresh)
    ground = Ground(base.position, base.normal, corners, base.index) if same else Ground.of(_bare(vertices, corners))
    count = vertices.count
    vertices, corners, ground, there = _fine_enough(vertices, corners, ground, course)
    fresh = np.append(fresh, np.ones(vertices.count - count, np.bool_))
    found, turned = inward_from(body, ground, there, entry, values, turned)
    marked = corners.slots.get(CUT)
    kept = np.zeros((corners.count, 3), np.bool_) if marked is None else marked[:, :, 0] == entry.ident
    progress.step(0.3, "cutting")
    figures = _figures(vertices.count, corners, kept, found.inward, levels)
    piece = _wanted_piece(vertices, corners, found, figures, levels, bool(kept.any()))
    if piece is None:
        return CutMesh(vertices.copy(), corners.copy(), found, fresh)
    up = flat_way(body, values, np.zeros((1, 3)))

    def inward(points: np.ndarray) -> np.ndarray:
        way = up if up is None or (up.shape[0] == 1 and body.down.kind != "centre") else body.up(points)
        return inward_at(there, points, turned, way)

    corner = _sharp(there, ground, piece)
    made, table, side = _cut_piece(piece, inward, found, figures, levels, float(entry.ident), corner, progress)
    vertices, corners, number_ = put_back(vertices, corners, piece, made, table)
    # what was in the piece lies there anew; the sides are known, and the rim is the rim
    used = number_ >= 0
    old, outside = np.ones(vertices.count, np.bool_), np.ones(ground.position.shape[0], np.bool_)
    old[number_[used]], outside[piece.rows] = False, False  # the rest keeps its order
    was, fresh = fresh, np.ones(vertices.count, np.bool_)
    fresh[old] = was[outside]
    reach = float(np.abs(found.inward).max())
    out, near = np.full(vertices.count, -reach), np.zeros(vertices.count, np.bool_)
    out[old], near[old] = found.inward[outside], found.near[outside]
    exact = np.clip(np.abs(inward(made["position"][used].astype(np.float64))), 0.0, reach)
    out[number_[used]] = np.where(side[used] == 0, 0.0, np.where(side[used] > 0, exact, -exact))
    near[number_[used]] = True
    arc = np.zeros(vertices.count)
    if values["relief"]:
        asked = np.flatnonzero(near)
        points = vertices["position"][asked].astype(np.float64)
        arc[asked] = course.near(points, flat_way(body, values, points)).arc
    return CutMesh(vertices, corners, Inward(out, arc, near), fresh)


def _right(
    vertices: VertexTable, corners: CornerTable, marked: Mask, body: Body, courses: tuple[Trace, Trace],
    levels: _Levels, values: Values,
) -> Mask:  # fmt: skip
    # (M, 3) which of the marked edges lie where a line wants them, and where it has not moved from one course to the next
    across = corners.opposite.reshape(-1, 3)
    at = np.arange(across.size).reshape(across.shape)
    slot, corner = np.nonzero(marked & (across < at))  # each from one side
    triangles = corners.triangles
    position = vertices["position"].astype(np.float64)
    a, b = position[triangles[slot, (corner + 1) % 3]], position[triangles[slot, (corner + 2) % 3]]
    points = np.concatenate((a, b, (a + b) / 2))
    way = flat_way(body, values, points)
    was, now = (inward_at(course, points, False, way).reshape(3, slot.size) for course in courses)
    closed = courses[1].closed
    if closed:  # on whichever side
        was, now = np.abs(was), np.abs(now)
    good = np.zeros(slot.size, np.bool_)
    for level in levels.values:
        off = np.abs(now - (abs(level) if closed else level))
        good |= (off <= STAYS * levels.slack(level)).all(axis=0)
    out = np.zeros(marked.shape, np.bool_)
    stays = good & (np.abs(now - was) <= MOVED * levels.tolerance).all(axis=0)
    out[slot, corner] = stays
    other = across[slot, corner]
    out.reshape(-1)[other[stays & (other >= 0)]] = True
    return out


def _figures(count: int, corners: CornerTable, kept: Mask, inward: Figures, levels: _Levels) -> dict[float, Figures]:
    # for every level how far in from it each vertex lies: exactly 0 at the ends of edges that lie there already
    ends = np.zeros(count, np.bool_)
    slot, corner = np.nonzero(kept)
    for step in (1, 2):
        ends[corners.triangles[slot, (corner + step) % 3]] = True
    out = {}
    for level in levels.values:
        off = inward - level
        out[level] = np.where(ends & (np.abs(off) <= STAYS * levels.slack(level)), 0.0, off)
    return out


def _wanted_piece(
    vertices: VertexTable,
    corners: CornerTable,
    found: Inward,
    figures: dict[float, Figures],
    levels: _Levels,
    some: bool,
) -> Piece | None:
    # the triangles to be cut, with some around; `some`: edges lie there already, and only where they do not is cut
    triangles = corners.triangles
    asked = np.flatnonzero(any_of(found.near, triangles))
    near = np.zeros(corners.count, np.bool_)
    if some:
        for figure in figures.values():
            at = figure[triangles[asked]]
            near[asked[(at.min(axis=1) < 0) & (at.max(axis=1) > 0)]] = True
        if not near.any():
            return None
        near = with_a_ring(triangles, near, vertices.count, RINGS)
    else:
        away = np.abs(found.inward[triangles[asked]]).min(axis=1)
        longest = side_lengths(vertices["position"], triangles[asked]).max(axis=1)
        near[asked[away <= max(levels.values) + BESIDE * longest]] = True
        near = with_a_ring(triangles, near, vertices.count)
    for _ in range(MOST_RINGS):
        piece = taken_out(vertices, corners, near)
        near = piece.faces
        edge = (piece.corners.opposite < 0) & (corners.opposite.reshape(-1, 3)[near].reshape(-1) >= 0)
        edge = edge.reshape(-1, 3)
        slot, corner = np.nonzero(edge)
        one, two = (triangles[near][slot, (corner + step) % 3] for step in (1, 2))
        if not any((figure[one] * figure[two] < 0).any() for figure in figures.values()):
            break
        near = with_a_ring(triangles, near, vertices.count)
    held = piece.corners.slots.get(HELD)
    if held is not None:
        edge |= held[:, :, 0] > 0
    piece.corners.slots.set("edge", HELD, edge[:, :, None].astype(np.float32))
    return piece


def _sharp(course: Trace, ground: Ground, piece: Piece) -> tuple[np.ndarray, np.ndarray] | None:
    # places in a piece at which an outline turns sharply: triangles of the piece, and shares of their corners
    if not course.closed or not course.corner.size:
        return None
    triangle = course.triangle[course.corner]
    inside = piece.faces[triangle]
    if not inside.any():
        return None
    slot = np.searchsorted(np.flatnonzero(piece.faces), triangle[inside])
    _, weight = ground.nearest(course.places[course.corner[inside]])
    return slot.astype(np.int32), weight


def _cut_piece(
    piece: Piece, inward: Callable[[np.ndarray], np.ndarray], found: Inward, figures: dict[float, Figures],
    levels: _Levels, ident: float, corner: tuple[np.ndarray, np.ndarray] | None, progress: Progress,
) -> tuple[VertexTable, CornerTable, Figures]:  # fmt: skip
    # the piece with its edges, and on which side of the rim each vertex of it lies: 0 on it
    signs = np.where(found.inward[piece.rows] >= 0, 1.0, -1.0)  # as they spread over the surface
    here = np.abs(inward(piece.vertices["position"].astype(np.float64)))
    here = signs * np.where(found.near[piece.rows], here, np.abs(found.inward[piece.rows]))
    gaps = np.diff([level for level in levels.values if level >= 0])
    longest = SPREAD * float(gaps.min()) if gaps.size else np.inf
    made, table = piece.vertices, piece.corners
    on = rim = np.zeros(made.count, np.bool_)
    for level in levels.values:
        if level:
            progress.step(0.4, "cutting support rows")

        def beside(points: np.ndarray, level: float = level) -> np.ndarray:
            return inward(points) - level

        before = made.count
        lies = np.zeros(before, np.bool_)
        lies[: piece.rows.size] = figures[level][piece.rows] == 0
        made, table, also, here = cut_along(
            made, table, beside, np.where(lies, 0.0, here - level), levels.slack(level), CUT, ident,
            corner if not level else None, longest, lies,
        )  # fmt: skip
        here = here + level
        more = np.zeros(made.count - before, np.bool_)
        on = np.append(on, more) | also
        rim = also if not level else np.append(rim, more)
    progress.step(0.5, "evening triangles out")
    made.set_column(SIDE, np.where(rim, 0.0, here)[:, None])
    made, table = tidied_rim(made, table, on)
    table.slots.drop(HELD)
    side = made[SIDE][:, 0].astype(np.float64)
    made.drop_column(SIDE)
    return made, table, side


def _fine_enough(
    vertices: VertexTable, corners: CornerTable, ground: Ground, course: Trace
) -> tuple[VertexTable, CornerTable, Ground, Trace]:
    # triangles under a line divided until it is not lost between their corners; and its course over them
    along = np.roll(course.places, -1, axis=0) - course.places
    side = np.cross(course.normal, along)
    side *= (course.width / 2)[:, None] / np.maximum(np.linalg.norm(side, axis=1), 1e-30)[:, None]
    if course.closed:
        reach = np.linalg.norm(course.places - course.places.mean(axis=0), axis=1)
        wanted = np.full(course.places.shape[0], FINE_INSIDE * float(reach.min()))
        places = course.places
    else:
        wanted = np.tile(FINE_ACROSS * course.width, 3)
        places = np.concatenate((course.places, course.places + side, course.places - side))
    for _ in range(ROUNDS):
        triangle, _ = ground.nearest(places)
        long = side_lengths(vertices["position"], corners.triangles[triangle]).max(axis=1) > wanted
        if not long.any():
            break
        faces = np.zeros(corners.count, np.bool_)
        faces[triangle[long]] = True
        vertices, corners, _ = split_edges(vertices, corners, longest_edges(vertices, corners, faces))
        ground = Ground.of(_bare(vertices, corners))
    else:
        triangle, _ = ground.nearest(course.places)
    return vertices, corners, ground, replace(course, triangle=triangle[: course.places.shape[0]])


def _moved(
    vertices: VertexTable, body: Body, courses: tuple[Trace | None, Trace], entry: SceneObject, values: Values
) -> Mask:
    # (N,) vertices near a line as it lay, where it lies otherwise now
    if column_of(entry) not in vertices:
        return np.zeros(vertices.count, np.bool_)
    column = vertices[column_of(entry)][:, 0]
    out = np.asarray(column > NEARBY * column.min())
    before, now = courses
    if before is not None:
        rows = np.flatnonzero(out)
        points = vertices["position"][rows].astype(np.float64)
        way = flat_way(body, values, points)
        was, then = (np.abs(inward_at(course, points, False, way)) for course in (before, now))
        out[rows] = np.abs(was - then) > MOVED * number(values, "tolerance")
    return out


def _thinned(
    vertices: VertexTable, corners: CornerTable, edges: Mask, moved: Mask
) -> tuple[VertexTable, CornerTable, Mask]:
    # the mesh where a cut was given up, about as coarse as what lies around, and which vertices of it are new
    near = moved.copy()
    near[corners.triangles[edges.any(axis=1)]] = True
    triangles = corners.triangles
    for _ in range(THINNED):
        near[triangles[any_of(near, triangles)]] = True
    piece = taken_out(vertices, corners, any_of(near, triangles))
    body = Body("", piece.vertices, piece.corners)
    inner = off_rim(piece)
    every = np.flatnonzero(all_of(inner, piece.corners.triangles)).astype(np.int32)
    if not every.size:
        return vertices, corners, np.zeros(vertices.count, np.bool_)
    LocalRemesh(body).run(every, np.zeros(3), 1e30, usual_edge(piece), False, True, True)
    made, table, number_ = put_back(vertices, corners, piece, body.vertices, body.corners)
    fresh = np.zeros(made.count, np.bool_)
    fresh[number_[number_ >= 0]] = True
    return made, table, fresh


def _bare(vertices: VertexTable, corners: CornerTable) -> Body:
    table = VertexTable(vertices.count)
    table.set_column("position", vertices["position"])
    return Body("", table, corners)


def flat_way(body: Body, values: Values, points: np.ndarray) -> np.ndarray | None:
    """Ways square to which distances are measured: level where the ground is levelled, and otherwise None."""
    return body.up(points) if values["relief"] and values["level"] != "off" else None


def inward_from(
    body: Body, ground: Ground, course: Trace, entry: SceneObject, values: Values, turned: bool | None = None
) -> tuple[Inward, bool]:
    """How a body lies to a line, as far as what it carries asks, and whether its inside is on the right; see `inward_of`.

    Raises
    ------
    InvalidInput
    """
    reach = reach_around(ground, course, entry, values)
    where = f"{entry.kind} {entry.name!r}"
    return inward_of(ground, course, reach, where, flat_way(body, values, ground.position), turned)


def reach_around(ground: Ground, course: Trace, entry: SceneObject, values: Values) -> float:
    """Metres from the rim of a line within which what it carries asks how the ground lies to it."""
    usual = float(side_lengths(ground.position, ground.corners.triangles[course.triangle]).mean())
    asked = [FEW_EDGES * usual, number(values, "rim"), *rows_of(values, f"{entry.kind} {entry.name!r}")]
    if values["relief"]:
        asked.append(reach_of(values, course.closed))
    return 1.05 * max(asked) + usual
