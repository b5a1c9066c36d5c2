"""An edit: a sparse, reversible change of a project. What history, journal, renderer and panels read."""

import contextlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import TRIANGLES, CornerTable
from hulmo.core.mesh.layer import Layer, shapes
from hulmo.core.mesh.patch import Patch, lay_patch
from hulmo.core.mesh.spatial_index import SpatialIndex
from hulmo.core.mesh.stitched import STITCHED
from hulmo.core.mesh.strewn import Strewn
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.project import Project

Rows = NDArray[np.int32]
Points = NDArray[np.float32]


@dataclass
class Change:
    """What an edit touched, for whoever keeps a copy of it (the renderer) or shows it (the panels).

    Attributes
    ----------
    rows : list of (body number, column, rows)
        Rows that were written, ascending. `normal` is listed beside `position`, slots of triangles as `triangles`.
    slots : list of (body number, domain, column, triangle slots)
        Where a column of faces, corners or edges was written, connectivity aside.
    bodies : set of int
        Bodies whose tables changed as a whole.
    fields : set of str
        Project attributes that changed.
    """

    rows: list[tuple[int, str, Rows]] = field(default_factory=list)
    slots: list[tuple[int, str, str, Rows]] = field(default_factory=list)
    bodies: set[int] = field(default_factory=set)
    fields: set[str] = field(default_factory=set)


class Delta(Protocol):
    """One part of an edit."""

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Write the later state (forward) or the earlier one, and note it in `change`."""


@dataclass(frozen=True)
class RowsDelta:
    """Some rows of one vertex column, ascending."""

    body: int
    column: str
    rows: Rows
    before: NDArray[np.float32]
    after: NDArray[np.float32]

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return self.rows.nbytes + self.before.nbytes + self.after.nbytes

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Write the rows; moved rows also get their normals and their place in the index."""
        body = project.body(self.body)
        body.vertices[self.column][self.rows] = self.after if forward else self.before
        change.rows.append((self.body, self.column, self.rows))
        if shapes(self.column):
            body.compose(self.rows)
            change.rows.append((self.body, "position", self.rows))
        if self.column in ("position", STITCHED) or shapes(self.column):
            change.rows.append((self.body, "normal", body.rows_moved(self.rows)))


@dataclass(frozen=True)
class ColumnDelta:
    """A whole vertex column, None where it does not exist."""

    body: int
    column: str
    before: NDArray[np.float32] | None
    after: NDArray[np.float32] | None

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return sum(values.nbytes for values in (self.before, self.after) if values is not None)

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Replace, add or drop the column."""
        vertices = project.body(self.body).vertices
        values = self.after if forward else self.before
        if values is not None:
            vertices.set_column(self.column, values.copy())
        elif self.column in vertices:
            vertices.drop_column(self.column)
        if self.column == STITCHED:
            project.body(self.body).known_changed(self.column)
        change.bodies.add(self.body)


@dataclass(frozen=True)
class SlotsDelta:
    """Some triangle slots of a column of faces, corners or edges, ascending.

    Attributes
    ----------
    before, after : (K, 1 or 3, width) float32
        Of an edge column, the slots on both sides of every edge that changes are named.
    """

    body: int
    column: str
    slots: Rows
    before: NDArray[np.float32]
    after: NDArray[np.float32]

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return self.slots.nbytes + self.before.nbytes + self.after.nbytes

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Write the slots."""
        body = project.body(self.body)
        table = body.corners.slots
        table[self.column][self.slots] = self.after if forward else self.before
        change.slots.append((self.body, table.domain(self.column), self.column, self.slots))
        _known_changed(body, self.column, change)


@dataclass(frozen=True)
class SlotColumnDelta:
    """A whole column of faces, corners or edges, None where it does not exist."""

    body: int
    domain: str
    column: str
    before: NDArray[np.float32] | None
    after: NDArray[np.float32] | None

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return sum(values.nbytes for values in (self.before, self.after) if values is not None)

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Replace, add or drop the column."""
        body = project.body(self.body)
        table = body.corners.slots
        values = self.after if forward else self.before
        if values is not None:
            table.set(self.domain, self.column, values)
        elif self.column in table:
            table.drop(self.column)
        change.slots.append((self.body, self.domain, self.column, np.arange(table.count, dtype=np.int32)))
        _known_changed(body, self.column, change)


def _known_changed(body: Body, column: str, change: Change) -> None:
    if body.known_changed(column):
        change.rows.append((body.ident, "normal", np.arange(body.vertices.count, dtype=np.int32)))


MOST_INDEX = 1 << 25
"""Bytes of the index of tables up to which it is kept with them."""


@dataclass
class TablesDelta:
    """Both tables of a body, replaced by an operation that changes all of it.

    Later edits write into the tables that are in place, and are taken back before this one is. So what is taken out of the
    body is what was put in, whatever became of a copy on disk meanwhile, and is kept for the way back.

    Attributes
    ----------
    index : SpatialIndex or None
        Of the tables that are put next, where there is one: the body takes it over. While it is not large, that of the
        tables that are taken out is kept, for the way back.
    """

    body: int
    before: tuple[VertexTable, CornerTable]
    after: tuple[VertexTable, CornerTable]
    index: SpatialIndex | None = None

    @property
    def nbytes(self) -> int:
        """Bytes only it holds: the earlier tables; the later ones are the body's own."""
        return sum(table.nbytes for table in self.before) + (0 if self.index is None else self.index.nbytes)

    def __getstate__(self) -> dict[str, Any]:
        return {**self.__dict__, "index": None}  # on disk it is not worth its room

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Swap the tables."""
        body = project.body(self.body)
        there = (body.vertices, body.corners)
        index = body.known_index
        if forward:
            self.before, (body.vertices, body.corners) = there, self.after
        else:
            self.after, (body.vertices, body.corners) = there, self.before
        body.replaced(self.index)
        self.index = index if index is not None and index.nbytes <= MOST_INDEX else None
        change.rows = [entry for entry in change.rows if entry[0] != self.body]  # rows of the tables that are gone
        change.slots = [entry for entry in change.slots if entry[0] != self.body]
        change.bodies.add(self.body)


@dataclass(frozen=True)
class PatchDelta:
    """A piece of both tables, changed by local operations."""

    body: int
    before: Patch
    after: Patch

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return self.before.nbytes + self.after.nbytes

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Write rows and triangle slots."""
        body = project.body(self.body)
        patch = self.after if forward else self.before
        rows, around = lay_patch(body, patch)
        for at, (ident, column, told) in enumerate(change.rows):  # rows that are gone
            if ident == self.body and column != TRIANGLES and told.size and told[-1] >= body.vertices.count:
                change.rows[at] = (ident, column, told[told < body.vertices.count])
        change.rows.append((self.body, TRIANGLES, patch.triangles))
        change.rows += [(self.body, column, rows) for column in body.vertices.names if column != "normal"]
        change.rows.append((self.body, "normal", around))


@dataclass(frozen=True)
class LayersDelta:
    """Relief layers of a body: their list, and the columns of form and offsets that change with it.

    Attributes
    ----------
    before, after : tuple of Layer
    columns : dict
        Earlier and later values, (N, 3) float32, of every column that changes; None where it does not exist.
    """

    body: int
    before: tuple[Layer, ...]
    after: tuple[Layer, ...]
    columns: Mapping[str, tuple[Points | None, Points | None]] = field(default_factory=dict)

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return 64 + sum(values.nbytes for pair in self.columns.values() for values in pair if values is not None)

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Have the layers, and the positions that they add up to."""
        body = project.body(self.body)
        body.set_layers(
            self.after if forward else self.before,
            {name: pair[1 if forward else 0] for name, pair in self.columns.items()},
        )
        rows = np.arange(body.vertices.count, dtype=np.int32)
        change.rows += [(self.body, "position", rows), (self.body, "normal", rows)]
        change.fields.add("body layers")


@dataclass(frozen=True)
class BodyDelta:
    """A plain attribute of a body."""

    body: int
    name: str
    before: Any
    after: Any

    @property
    def nbytes(self) -> int:
        """Bytes it holds: nothing worth counting."""
        return 64

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Set the attribute."""
        body = project.body(self.body)
        setattr(body, self.name, self.after if forward else self.before)
        body.figures.clear()
        if self.name == "down":
            project.tell_waters()
        change.fields.add(f"body {self.name}")


@dataclass(frozen=True)
class StrewDelta:
    """The props of a body; None where it carries none."""

    body: int
    before: Strewn | None
    after: Strewn | None

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return 64 + sum(strewn.nbytes for strewn in (self.before, self.after) if strewn is not None)

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Have these props."""
        project.body(self.body).strewn = self.after if forward else self.before
        change.fields.add("body strewn")


@dataclass(frozen=True)
class FieldDelta:
    """An attribute of the project: immutable values only (tuples, frozen structs)."""

    name: str
    before: Any
    after: Any

    @property
    def nbytes(self) -> int:
        """Bytes only it holds: bodies, or a picture of the sky, that it took out of the project."""
        there = {id(body) for body in _bodies(self.after)}
        gone = sum(body.nbytes for body in _bodies(self.before) if id(body) not in there)
        return 64 + gone + int(getattr(self.before, "nbytes", 0))

    def put(self, project: Project, forward: bool, change: Change) -> None:
        """Set the attribute."""
        setattr(project, self.name, self.after if forward else self.before)
        change.fields.add(self.name)


def _bodies(value: Any) -> Iterable[Body]:
    return (item for item in value if isinstance(item, Body)) if isinstance(value, tuple) else ()


@dataclass(frozen=True)
class Edit:
    """A named group of deltas, applied in order and reverted in the opposite order."""

    label: str
    deltas: tuple[Delta, ...]

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return sum(delta.nbytes for delta in self.deltas)

    def apply(self, project: Project) -> Change:
        """Bring a project from the earlier to the later state, or, when that fails, leave it as it was."""
        return _put_all(project, self.deltas, True)

    def revert(self, project: Project) -> Change:
        """Bring a project from the later back to the earlier state."""
        return _put_all(project, self.deltas[::-1], False)


def _put_all(project: Project, deltas: tuple[Delta, ...], forward: bool) -> Change:
    # all of them, or none: what was put is taken back when one cannot be
    change = Change()
    done = 0
    try:
        for delta in deltas:
            done += 1
            delta.put(project, forward, change)
    except BaseException:
        for delta in reversed(deltas[:done]):
            with contextlib.suppress(Exception):  # the one that failed may have done nothing yet
                delta.put(project, not forward, Change())
        raise
    return change


def can_join(edit: Edit) -> bool:
    """Whether an edit may be joined with one that follows; see `joined`."""
    return len(edit.deltas) == 1 and isinstance(edit.deltas[0], FieldDelta | LayersDelta)


def joined(first: Edit, second: Edit) -> Edit | None:
    """One edit for two of the same kind that followed each other; None when they are not of a kind that can be joined.

    Joined are steps of a dragged control: project attributes, and layers whose offsets stay.
    """
    if len(first.deltas) != 1 or len(second.deltas) != 1:
        return None
    old, new = first.deltas[0], second.deltas[0]
    if isinstance(old, FieldDelta) and isinstance(new, FieldDelta) and old.name == new.name:
        return Edit(second.label, (FieldDelta(old.name, old.before, new.after),))
    if isinstance(old, LayersDelta) and isinstance(new, LayersDelta) and not old.columns and not new.columns:
        return Edit(second.label, (LayersDelta(old.body, old.before, new.after),)) if old.body == new.body else None
    return None
