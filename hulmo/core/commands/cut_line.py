"""Edges cut along the rim of a line, and beside it."""

import numpy as np

from hulmo.core.lines.field import Inward, inward_at, inward_of
from hulmo.core.lines.ground import Ground
from hulmo.core.lines.relief import reach_of
from hulmo.core.lines.trace import Trace
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects.line import CUT, rows_of
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.progress import Progress
from hulmo.core.setting import Values, number
from hulmo.core.topology.cut_along import FAIR, HELD, cut_along, longest_edges, tidied_rim
from hulmo.core.topology.improve import improved
from hulmo.core.topology.local_remesh import LocalRemesh
from hulmo.core.topology.piece import Piece, put_back, taken_out
from hulmo.core.topology.split_edges import split_edges

FEW_EDGES = 6.0
"""Usual edges from the rim within which distances are known at the least."""

BESIDE = 4.0
"""Longest edges beside a rim that are taken out with it to be cut."""

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

SIDE = "figure side"
"""Vertex column that holds how far in each vertex lies while triangles are made better."""

SHORTEST = 0.4
"""Share of the usual edge under which edges are collapsed once the relief is laid."""


def cut_line(
    body: Body, base: Ground, course: Trace, entry: SceneObject, values: Values, where: str, progress: Progress
) -> tuple[VertexTable, CornerTable, Inward | None]:
    """Tables with edges along the rim of a line and its support rows, and how they lie to the line; None where that is to be
    asked anew.

    Parameters
    ----------
    base : Ground
        The body below the relief of the line; positions of the tables are so, too.
    course : Trace
        Of the line on it.

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
    slots = corners.slots
    if CUT in slots:
        given_up = slots[CUT][:, :, 0] == entry.ident
        slots[CUT][given_up] = 0.0
        if not slots[CUT].any():
            slots.drop(CUT)
        if given_up.any():
            vertices, corners = _thinned(vertices, corners, given_up)
            same = False
    if not values["cut"]:
        return vertices.copy(), corners.copy(), None
    ground = Ground(base.position, base.normal, corners, base.index) if same else Ground.of(_bare(vertices, corners))
    vertices, corners, ground = _fine_enough(vertices, corners, ground, course)
    there = course.on(ground)
    found, turned = inward_from(body, ground, there, entry, values)
    rows = rows_of(values, where)
    triangles = corners.triangles
    some = np.flatnonzero(found.near[triangles].any(axis=1))
    away = np.abs(found.inward[triangles[some]]).min(axis=1)
    longest = side_lengths(vertices["position"], triangles[some]).max(axis=1)
    near = np.zeros(corners.count, np.bool_)
    near[some[away <= (max(rows) if rows else 0.0) + BESIDE * longest]] = True
    near = _rings(triangles, near, vertices.count)
    progress.step(0.3, "cutting")
    for _ in range(MOST_RINGS):
        piece = taken_out(vertices, corners, near)
        near = piece.faces
        inner = (piece.corners.opposite >= 0) | (corners.opposite.reshape(-1, 3)[near].reshape(-1) < 0)
        edge = ~inner.reshape(-1, 3)
        slot, corner_ = np.nonzero(edge)
        one, two = (found.inward[triangles[near][slot, (corner_ + step) % 3]] for step in (1, 2))
        if not any(((one - level) * (two - level) < 0).any() for level in (0.0, *rows, *(-row for row in rows))):
            break
        near = _rings(triangles, near, vertices.count)
    piece.corners.slots.set("edge", HELD, edge[:, :, None].astype(np.float32))
    up = flat_way(body, values, np.zeros((1, 3)))
    tolerance = number(values, "tolerance")

    def inward(points: np.ndarray) -> np.ndarray:
        way = up if up is None or (up.shape[0] == 1 and body.down.kind != "centre") else body.up(points)
        return inward_at(there, points, turned, way)

    figures = inward(piece.vertices["position"].astype(np.float64))
    sided = np.abs(found.inward[piece.rows])  # signs as they spread over the surface
    figures = np.where(found.inward[piece.rows] >= 0, 1.0, -1.0) * np.where(
        found.near[piece.rows], np.abs(figures), sided
    )
    corner = None
    if there.closed and there.corner.size:
        numbers = np.flatnonzero(near)
        slot = np.searchsorted(numbers, there.triangle[there.corner])
        _, weight = ground.nearest(there.places[there.corner])
        corner = (slot.astype(np.int32), weight)
    gaps = np.diff((0.0, *rows))
    longest = SPREAD * float(gaps.min()) if rows else np.inf
    made, table, on, figures = cut_along(
        piece.vertices, piece.corners, inward, figures, tolerance, CUT, float(entry.ident), corner, longest
    )
    rim = on
    for row in (*rows, *(-row for row in rows)):
        progress.step(0.4, "cutting support rows")

        def beside(points: np.ndarray, row: float = row) -> np.ndarray:
            return inward(points) - row

        before = made.count
        made, table, also, figures = cut_along(
            made, table, beside, figures - row, max(tolerance, abs(row) / 4), CUT, float(entry.ident), None, longest
        )
        figures = figures + row
        rim = np.append(rim, np.zeros(made.count - before, np.bool_))
        on = np.append(on, np.zeros(made.count - before, np.bool_)) | also
    progress.step(0.5, "evening triangles out")
    made.set_column(SIDE, np.where(rim, 0.0, figures)[:, None])
    made, table = tidied_rim(made, table, on)
    table.slots.drop(HELD)
    side = made[SIDE][:, 0].astype(np.float64)
    made.drop_column(SIDE)
    vertices, corners, number_ = put_back(vertices, corners, piece, made, table)
    # what was in the piece lies there anew; the sides are known, and the rim is the rim
    used = number_ >= 0
    old, outside = np.ones(vertices.count, np.bool_), np.ones(ground.position.shape[0], np.bool_)
    old[number_[used]], outside[piece.rows] = False, False  # the rest keeps its order
    reach = float(np.abs(found.inward).max())
    figures, near = np.full(vertices.count, -reach), np.zeros(vertices.count, np.bool_)
    figures[old], near[old] = found.inward[outside], found.near[outside]
    exact = np.clip(np.abs(inward(made["position"][used].astype(np.float64))), 0.0, reach)
    figures[number_[used]] = np.where(side[used] == 0, 0.0, np.where(side[used] > 0, exact, -exact))
    near[number_[used]] = True
    arc = np.zeros(vertices.count)
    if values["relief"]:
        asked = np.flatnonzero(near)
        points = vertices["position"][asked].astype(np.float64)
        arc[asked] = course.near(points, flat_way(body, values, points)).arc
    return vertices, corners, Inward(figures, arc, near)


def _fine_enough(
    vertices: VertexTable, corners: CornerTable, ground: Ground, course: Trace
) -> tuple[VertexTable, CornerTable, Ground]:
    # triangles under a line divided until it is not lost between their corners
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
    return vertices, corners, ground


def _thinned(vertices: VertexTable, corners: CornerTable, edges: np.ndarray) -> tuple[VertexTable, CornerTable]:
    # the mesh where a cut was given up, about as coarse as what lies around
    near = np.zeros(vertices.count, np.bool_)
    near[corners.triangles[edges.any(axis=1)]] = True
    triangles = corners.triangles
    for _ in range(THINNED):
        near[triangles[near[triangles].any(axis=1)]] = True
    piece = taken_out(vertices, corners, np.asarray(near[triangles].any(axis=1)))
    body = Body("", piece.vertices, piece.corners)
    inner = _inner(piece)
    every = np.flatnonzero(inner[piece.corners.triangles].all(axis=1)).astype(np.int32)
    if not every.size:
        return vertices, corners
    LocalRemesh(body).run(every, np.zeros(3), 1e30, _usual(piece), False, True, True)
    made, table, _ = put_back(vertices, corners, piece, body.vertices, body.corners)
    return made, table


def _rings(triangles: np.ndarray, faces: np.ndarray, count: int) -> np.ndarray:
    near = np.zeros(count, np.bool_)
    near[triangles[faces]] = True
    return np.asarray(near[triangles].any(axis=1))


def _bare(vertices: VertexTable, corners: CornerTable) -> Body:
    table = VertexTable(vertices.count)
    table.set_column("position", vertices["position"])
    return Body("", table, corners)


def settled(
    vertices: VertexTable, corners: CornerTable, layers: tuple[Layer, ...], near: np.ndarray
) -> tuple[VertexTable, CornerTable]:
    """Tables whose triangles at some vertices are good as the relief has drawn them: divided where they are stretched.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    layers : tuple of Layer
        That positions are added up from.
    near : (N,) bool
    """
    faces = np.asarray(near[corners.triangles].any(axis=1))
    if not faces.any():
        return vertices, corners
    piece = taken_out(vertices, corners, _rings(corners.triangles, faces, vertices.count))
    body = Body("", piece.vertices, piece.corners)
    body.layers = layers
    inner = _inner(piece)
    every = np.flatnonzero(inner[piece.corners.triangles].all(axis=1)).astype(np.int32)
    if not every.size:
        return vertices, corners
    LocalRemesh(body).run(every, np.zeros(3), 1e30, _usual(piece), True, True, True, SHORTEST)
    live = body.corners.triangles[:, 0] >= 0
    triangles = body.corners.triangles[live]
    table = CornerTable.from_triangles(triangles, body.vertices.count, body.corners.slots.taken(live))
    looked = np.ones(body.vertices.count, np.bool_)
    looked[: inner.size] = inner
    made = improved(body.vertices, table, np.asarray(looked[triangles].all(axis=1)), FAIR)
    out, corners, _ = put_back(vertices, corners, piece, body.vertices, made)
    return out, corners


def _usual(piece: Piece) -> float:
    # edge length around a piece, metres
    rim = piece.corners.border_corners()
    triangles = piece.corners.triangles
    return float(np.median(side_lengths(piece.vertices["position"], triangles[rim // 3] if rim.size else triangles)))


def _inner(piece: Piece) -> np.ndarray:
    # vertices off the rim of a piece: whom others are joined with beyond it is not known here
    inner = np.ones(piece.vertices.count, np.bool_)
    rim = piece.corners.border_corners()
    for step in (1, 2):
        inner[piece.corners.triangles[rim // 3, (rim + step) % 3]] = False
    return inner


def flat_way(body: Body, values: Values, points: np.ndarray) -> np.ndarray | None:
    """Ways square to which distances are measured: level where the ground is levelled, and otherwise None."""
    return body.up(points) if values["relief"] and values["level"] != "off" else None


def inward_from(body: Body, ground: Ground, course: Trace, entry: SceneObject, values: Values) -> tuple[Inward, bool]:
    """How a body lies to a line, as far as what it carries asks, and whether its inside is on the right.

    Raises
    ------
    InvalidInput
    """
    usual = float(side_lengths(ground.position, ground.corners.triangles[course.triangle]).mean())
    where = f"{entry.kind} {entry.name!r}"
    asked = [FEW_EDGES * usual, number(values, "rim"), *rows_of(values, where)]
    if values["relief"]:
        asked.append(reach_of(values, course.closed))
    reach = 1.05 * max(asked) + usual
    return inward_of(ground, course, reach, where, flat_way(body, values, ground.position))
