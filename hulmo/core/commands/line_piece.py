"""The piece of a body that a line lies on, cut and shaped by itself and put back."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.cut_line import BESIDE, THINNED, inward_from, reach_around
from hulmo.core.commands.layers import held_share
from hulmo.core.errors import InvalidInput
from hulmo.core.lines.field import rows_near
from hulmo.core.lines.ground import Ground
from hulmo.core.lines.trace import Trace
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects.line import CUT, column_of
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import Values
from hulmo.core.topology.longest_edges import HELD
from hulmo.core.topology.piece import Piece, put_back, taken_out, with_a_ring

Rows = NDArray[np.int32]

MOST = 0.5
"""Share of the triangles of a body from which on it is worked on as a whole."""

LARGE = 0.3
"""Share of the area of a body that an outline may enclose and still be worth a piece."""

SAMPLE = 20_000
"""Triangles that the area of a body is taken from."""

NUMBER = "number in the piece"
"""Vertex column that holds which row of the piece a vertex was, from 1, while it is worked on."""

MOST_ROWS = 1 << 24
"""Rows of a piece up to which float32 can tell their numbers."""

FAR = 0.999
"""Share of the farthest that is known how far out a vertex lies, from which on it counts as out of reach: what was mixed of
two that are is off by rounding."""

SAME = 1e-5
"""By which a part of a unit normal may differ and still be the same, added up from another triangle on."""

AROUND = BESIDE + THINNED
"""Rings of triangles beyond what a line reaches that are worked on with it."""


@dataclass(frozen=True)
class LinePiece:
    """A piece of a body around a line.

    Attributes
    ----------
    body : Body
        The piece, in all else like the whole one; the edges along its rim are held.
    base : Ground
        It below the relief of the line.
    course : Trace
        Of the line as it is to be, over the triangles of the piece.
    turned : bool or None
        Whether the inside is on the right, where that cannot be told from the piece.
    """

    body: Body
    base: Ground
    course: Trace
    turned: bool | None
    _piece: Piece
    _whole: tuple[VertexTable, CornerTable]
    _inside: NDArray[np.bool_]
    _seen: tuple[NDArray[np.float32], NDArray[np.float32]]

    def put_back(self, work: Body, column: str, layer: str) -> tuple[Body, Rows, Rows] | None:
        """The whole body with the piece as it has become; None where it does not fit its hole any more.

        Parameters
        ----------
        work : Body
            What the piece has become.
        column : str
            That tells how far in from the line vertices lie: outside the piece as far as is known.
        layer : str
            Column of the relief of the line, "" where it has none: outside the piece nothing but what is guarded.

        Returns
        -------
        tuple or None
            It, its rows that are new or lie otherwise than before, and those near the line.
        """
        vertices, corners = self._whole[0].view(), self._whole[1]
        names = work.vertices.names
        for name in vertices.names:
            if name not in names:
                vertices.drop_column(name)
        for name in names:
            if name not in vertices and name != NUMBER:
                blank = np.zeros((vertices.count, work.vertices.width(name)), np.float32)
                vertices.set_column(name, vertices["position"].copy() if name == REST else blank)
        far = float(np.abs(work.vertices[column]).max())
        vertices.set_column(column, np.where(self._inside, far, -far)[:, None])
        if layer:
            held = held_share(work.alike(vertices, corners))
            vertices.set_column(layer, held[:, None] * vertices[layer])
        made, table = self._numbered(work)
        vertices, corners, rows = put_back(vertices, corners, self._piece, made, table)
        if np.count_nonzero(corners.opposite < 0) != np.count_nonzero(self._whole[1].opposite < 0):
            return None
        out = work.alike(vertices, corners)
        out.replaced()
        moved = rows >= 0
        old = np.flatnonzero(moved[: self._piece.rows.size])
        position, normal = self._seen
        same = (out.vertices["position"][rows[old]] == position[old]).all(axis=1)
        same &= (np.abs(out.vertices["normal"][rows[old]] - normal[old]) <= SAME).all(axis=1)
        moved[old[same]] = False
        near = made[column][:, 0] > -FAR * far
        near[: self._piece.rows.size] |= _was_near(self._piece.vertices, column)
        near &= rows >= 0
        return out, np.sort(rows[moved]), np.sort(rows[near])

    def _numbered(self, work: Body) -> tuple[VertexTable, CornerTable]:
        # tables in which what was in the piece has the numbers that it had, as far as it is still there
        corners, known = work.corners, self._piece.rows.size
        was = work.vertices[NUMBER][:, 0]
        rim = corners.border_corners()
        rim = distinct(np.concatenate([corners.vertex[rim - rim % 3 + (rim + step) % 3] for step in (1, 2)]))
        # what lies between others can have the number of one that is there: the rim goes first
        at_rim = np.zeros(was.size, np.bool_)
        at_rim[rim] = True
        order = np.concatenate((rim, np.flatnonzero(~at_rim)))
        whole = order[(was[order] == np.round(was[order])) & (was[order] >= 1) & (was[order] <= known)]
        taken = np.full(known, -1, np.int64)
        old = was[whole].astype(np.int64) - 1
        taken[old[::-1]] = whole[::-1]  # the first one of a number has it
        there = np.flatnonzero(taken >= 0)
        number = np.full(was.size, -1, np.int32)
        number[taken[there]] = there
        fresh = np.flatnonzero(number < 0)
        number[fresh] = np.arange(known, known + fresh.size, dtype=np.int32)
        vertices = VertexTable(known + fresh.size)
        for name in work.vertices.names:
            if name != NUMBER:
                column = np.zeros((vertices.count, work.vertices.width(name)), np.float32)
                column[number] = work.vertices[name]
                vertices.set_column(name, column)
        first_corner = np.full(vertices.count, -1, np.int32)
        first_corner[number] = corners.first_corner
        slots = corners.slots.copy()
        if HELD in slots:
            slots.drop(HELD)
        return vertices, CornerTable(number[corners.vertex], corners.opposite, first_corner, slots)


def _enclosed(course: Trace) -> float:
    # square metres within a closed course, at the least: of a flat polygon that it is the rim of
    at = course.places - course.places.mean(axis=0)
    return 0.5 * float(np.linalg.norm(np.cross(at, np.roll(at, -1, axis=0)).sum(axis=0)))


def _area(ground: Ground) -> float:
    # about how many square metres a surface has
    triangles = ground.corners.triangles
    step = max(1, triangles.shape[0] // SAMPLE)
    triangles = triangles[::step]
    triangles = triangles[triangles[:, 0] >= 0]
    return float(step * triangle_areas(ground.position[triangles]).sum())


def _was_near(vertices: VertexTable, column: str) -> NDArray[np.bool_]:
    # (N,) what a line reached, or enclosed, as it was laid last
    known = vertices.get(column)
    if known is None or not known.size:
        return np.zeros(vertices.count, np.bool_)
    return np.asarray(known[:, 0] > FAR * known.min())


def line_piece(
    body: Body, base: Ground, before: Trace | None, course: Trace, entry: SceneObject, values: Values
) -> LinePiece | None:
    """What of a body a line reaches; None where that is most of it, or cannot be told.

    Parameters
    ----------
    base : Ground
        The body below the relief of the line.
    before, course : Trace
        Of the line as it was cut last, and as it is to be, on it.
    """
    if body.border_lock:  # the rim of the piece would count as border
        return None
    if course.closed and _enclosed(course) > LARGE * _area(base):
        return None
    vertices, inside = body.vertices.view(), np.zeros(body.vertices.count, np.bool_)
    for name, values_ in (("position", base.position), ("normal", base.normal)):
        vertices.set_column(name, values_)
    turned = None
    if course.closed:
        try:
            found, turned = inward_from(body, base, course, entry, values)
        except InvalidInput:  # triangles may have to be divided first
            return None
        inside = found.inward > 0
    near = inside.copy()
    was = body.vertices.get(column_of(entry))
    for one in (before if was is None else None, course):  # where it was, the column knows
        if one is not None:
            half = 0.0 if one.closed else float(one.width.max()) / 2
            near[rows_near(base.position, one, half + reach_around(base, one, entry, values))] = True
    near |= _was_near(body.vertices, column_of(entry))
    vertices, corners = compact(vertices, body.corners)
    used = body.corners.first_corner >= 0
    if corners is not body.corners:  # without freed slots; order is kept
        near, inside = near[used], inside[used]
    faces = any_of(near, corners.triangles)
    marked = corners.slots.get(CUT)
    if marked is not None:
        faces |= (marked[:, :, 0] == entry.ident).any(axis=1)
    faces = with_a_ring(corners.triangles, faces, vertices.count, round(AROUND))
    if np.count_nonzero(faces) > min(MOST * corners.count, MOST_ROWS):
        return None
    piece = taken_out(vertices, corners, faces)
    piece.vertices.set_column(NUMBER, np.arange(1, piece.rows.size + 1, dtype=np.float32)[:, None])
    rim = (piece.corners.opposite < 0) & (corners.opposite.reshape(-1, 3)[piece.faces].reshape(-1) >= 0)
    piece.corners.slots.set("edge", HELD, rim.reshape(-1, 3, 1).astype(np.float32))
    part = body.alike(piece.vertices, piece.corners)
    ground = Ground(part.vertices["position"], part.vertices["normal"], part.corners, part.index)
    rows = piece.rows if corners is body.corners else np.flatnonzero(used)[piece.rows]
    seen = body.vertices["position"][rows], body.vertices["normal"][rows]
    return LinePiece(part, ground, course.on(ground), turned, piece, (vertices, corners), inside, seen)
