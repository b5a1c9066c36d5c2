"""Bodies as wholes: name, eye, lock, place, duplicate, mirror, join, split."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.edit import BodyDelta, Delta, Edit, FieldDelta, StrewDelta, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.rules import KEPT
from hulmo.core.ground.weights import HAND, RULED, WEIGHT, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import shapes
from hulmo.core.mesh.origin import Place, check_place, put, shifted
from hulmo.core.mesh.strewn import compacted
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.parts import Tables, joined, part_of_triangles, picked, turned_over

Matrix = NDArray[np.float64]

MOST_PARTS = 500
"""Parts that a body is split into at the most."""


class ChangeBody(Command, frozen=True, tag="change_body"):
    """Change a body's name, eye (`shown`) or lock; what is None stays.

    Attributes
    ----------
    name, shown, locked
        New name; whether it is seen and delivered; whether it is kept from being changed.
    """

    body: str
    name: str | None = None
    shown: bool | None = None
    locked: bool | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "change_body")
        if self.name is not None:
            if not self.name.strip():
                raise InvalidInput("change_body: a body needs a name")
            if any(other is not body and other.name == self.name for other in project.bodies):
                raise InvalidInput(f"change_body: there already is a body {self.name!r}; choose another name")
        deltas: list[Delta] = [
            BodyDelta(body.ident, key, getattr(body, key), value)
            for key, value in (("name", self.name), ("shown", self.shown), ("locked", self.locked))
            if value is not None
        ]
        words = {
            "name": f"Rename {body.name} to {self.name}",
            "shown": f"{'Show' if self.shown else 'Hide'} {body.name}",
            "locked": f"{'Lock' if self.locked else 'Unlock'} {body.name}",
        }
        what = [text for key, text in words.items() if getattr(self, key) is not None]
        return Edit(what[0] if len(what) == 1 else f"Change body {body.name}", tuple(deltas))


class PlaceBody(Command, frozen=True, tag="place_body"):
    """Move, turn and scale a body about its own middle.

    Attributes
    ----------
    body : str
    move : [x, y, z]
        Metres.
    turn : [x, y, z]
        Degrees about the X, then the Y, then the Z axis of the world, through the middle of the body (of the box around
        it); a positive angle turns counter-clockwise for one whom the axis points at.
    scale : [x, y, z]
        Factors larger than 0.
    """

    body: str
    move: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: tuple[float, float, float] = (0.0, 0.0, 0.0)
    scale: tuple[float, float, float] = (1.0, 1.0, 1.0)

    @property
    def moves_whole(self) -> bool:
        """See `Command.moves_whole`."""
        return self.scale == (1.0, 1.0, 1.0)

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "place_body")
        check_place(self.move, "place_body, move")
        if not np.isfinite([self.turn, self.scale]).all():
            raise InvalidInput("place_body: turn and scale must be finite numbers")
        if min(self.scale) < 1e-4 or max(self.scale) > 1e4:
            raise InvalidInput(
                "place_body: scale must lie between 0.0001 and 10000 in every direction; use mirror to turn over"
            )
        matrix = np.diag(self.scale)
        for axis, degrees in enumerate(self.turn):
            matrix = _turn(axis, degrees) @ matrix
        return placed_edit(body, matrix, np.array(self.move), f"Place {body.name}")


def placed_edit(body: Body, matrix: Matrix, move: NDArray[np.float64], label: str) -> Edit:
    """The edit that turns and scales a body by a (3, 3) matrix about its own middle, and moves it by (3,) metres."""
    centre = body.bounds().centre
    origin, table = _moved(body, matrix, centre, move)
    tables = (table, body.corners.copy())  # a growing mesh writes into what is in place
    deltas: list[Delta] = [TablesDelta(body.ident, (body.vertices, body.corners), tables)]
    down = body.down.moved(matrix, body.placed(centre), move)
    for name, before, after in (("origin", body.origin, origin), ("down", body.down, down)):
        if before != after:
            deltas.insert(0, BodyDelta(body.ident, name, before, after))
    return Edit(label, tuple(deltas))


class DuplicateBody(Command, frozen=True, tag="duplicate_body"):
    """Put a copy of a body into the project, moved by some metres.

    Attributes
    ----------
    name : str
        Empty: named after the first.
    move : [x, y, z]
        Metres.
    """

    body: str
    name: str = ""
    move: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "duplicate_body")
        check_place(self.move, "duplicate_body, move")
        name = project.free_body_name(self.name or body.name)
        origin, table = _moved(body, np.eye(3), np.zeros(3), np.array(self.move))
        copy = _new(project, name, (table, body.corners.copy()), body)
        copy.origin, copy.down = origin, body.down.moved(np.eye(3), np.zeros(3), np.array(self.move))
        copy.strewn = body.strewn
        return Edit(f"Duplicate {body.name}", (FieldDelta("bodies", project.bodies, (*project.bodies, copy)),))


class MirrorBody(Command, frozen=True, tag="mirror_body"):
    """Mirror a body across its own middle, along x, y or z.

    Attributes
    ----------
    axis : str
        x, y or z: what changes its sign.
    """

    body: str
    axis: str = "x"

    @property
    def moves_whole(self) -> bool:
        """See `Command.moves_whole`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "mirror_body")
        if self.axis not in ("x", "y", "z"):
            raise InvalidInput(f"mirror_body: axis is {self.axis!r}; it must be x, y or z")
        factors = np.ones(3)
        factors["xyz".index(self.axis)] = -1.0
        vertices, corners = turned_over(body.vertices, body.corners)
        table = _turned(vertices, np.diag(factors), body.bounds().centre)
        deltas: list[Delta] = [TablesDelta(body.ident, (body.vertices, body.corners), (table, corners))]
        down = body.down.moved(np.diag(factors), body.placed(body.bounds().centre), np.zeros(3))
        if down != body.down:
            deltas.insert(0, BodyDelta(body.ident, "down", body.down, down))
        strewn = body.strewn
        if strewn is not None:  # corners are told in the other order, and every turn goes the other way
            there = compacted(strewn, body.corners)
            there = there.changed(weight=there.weight[:, ::-1], turn=-there.turn)
            deltas.append(StrewDelta(body.ident, strewn, there))
        return Edit(f"Mirror {body.name}", tuple(deltas))


class JoinBodies(Command, frozen=True, tag="join_bodies"):
    """Put another body's triangles into a body; the surfaces are not combined, see `combine` for that.

    Attributes
    ----------
    other : str
        Goes into the first and is gone as a body; its layers become form, its rules hand paint.
    """

    body: str
    other: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, other = project.body_named(self.body, "join_bodies"), project.body_named(self.other, "join_bodies")
        if body is other:
            raise InvalidInput("join_bodies: a body cannot be joined with itself; name another one")
        for entry in (body, other):
            weights_of(entry, len(project.grounds))
        flat = VertexTable(other.vertices.count)
        flat.free = other.vertices.free.copy()
        for name in other.vertices.names:
            # its layers and rules end here: what is seen of them becomes form and hand paint
            if not shapes(name) and name != RULED and not name.startswith(KEPT):
                flat.set_column(name, other.vertices[name])
        flat.set_column("position", shifted(other, body))
        flat.set_column(HAND, other.vertices[WEIGHT])  # what is seen of its grounds comes along as hand paint
        tables = joined((body.vertices, body.corners), (flat, other.corners))
        rest = tuple(entry for entry in project.bodies if entry is not other)
        deltas = (
            TablesDelta(body.ident, (body.vertices, body.corners), tables),
            FieldDelta("bodies", project.bodies, rest),
        )
        return Edit(f"Join {other.name}", deltas)


class SplitBody(Command, frozen=True, tag="split_body"):
    """Make every connected part of a body a body of its own; the largest keeps the name."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "split_body")
        count, part = part_of_triangles(body.corners)
        if count < 2:
            raise InvalidInput(f"split_body: {body.name!r} is one connected part")
        if count > MOST_PARTS:
            raise InvalidInput(
                f"split_body: {body.name!r} has {count:,} parts; at most {MOST_PARTS} bodies can come of it"
            )
        pieces = [picked(body.vertices, body.corners, part == i) for i in range(count)]
        bodies = list(project.bodies)
        taken = [entry.name for entry in bodies]
        ident = max(entry.ident for entry in bodies)
        for number, tables in enumerate(pieces[1:], 2):
            name = f"{body.name} {number}"
            while name in taken:
                name += "'"
            taken.append(name)
            ident += 1
            bodies.append(_new(project, name, tables, body, ident))
        deltas = (
            TablesDelta(body.ident, (body.vertices, body.corners), pieces[0]),
            FieldDelta("bodies", project.bodies, tuple(bodies)),
        )
        return Edit(f"Split {body.name}", deltas)


def _new(project: Project, name: str, tables: Tables, like: Body, ident: int = 0) -> Body:
    body = Body(name, tables[0], tables[1], ident or 1 + max(entry.ident for entry in project.bodies))
    body.layers, body.border_lock, body.origin = like.layers, like.border_lock, like.origin
    body.base, body.rules, body.down, body.strew_rules = like.base, like.rules, like.down, like.strew_rules
    body.replaced()
    return body


def _turn(axis: int, degrees: float) -> Matrix:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    out = np.eye(3)
    i, j = (axis + 1) % 3, (axis + 2) % 3
    out[i, i] = out[j, j] = c
    out[i, j], out[j, i] = -s, s
    return out


def _moved(
    body: Body, matrix: Matrix, middle: NDArray[np.float64], move: NDArray[np.float64]
) -> tuple[Place, VertexTable]:
    # the way is gone in double precision, and by the origin where it leads far out
    table = _turned(body.vertices, matrix, middle)
    origin, position = put(body.vertices["position"], body.origin, matrix, middle, move)
    step = move + body.origin - np.array(origin)
    for name in table.names:
        if name == "rest":
            table[name][:] = (body.vertices[name].astype(np.float64) - middle) @ matrix.T + middle + step
        elif name == "position":
            table[name][:] = position
    return origin, table


def _turned(vertices: VertexTable, matrix: Matrix, middle: NDArray[np.float64]) -> VertexTable:
    # places go the whole way; offsets of layers only turn and stretch
    table = vertices.copy()
    for name in table.names:
        if name in ("position", "rest"):
            table[name][:] = (table[name] - middle) @ matrix.T + middle
        elif shapes(name):
            table[name][:] = table[name] @ matrix.T
    return table
