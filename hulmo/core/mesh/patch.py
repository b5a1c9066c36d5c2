"""Pieces of both tables as they were and as they became: what undo needs of a change of connectivity."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.differ import rows_differ
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.free_list import FreeList
from hulmo.core.mesh.layer import derived
from hulmo.core.sparse_zeros import sparse_zeros

Rows = NDArray[np.int32]
Values = NDArray[np.float32]

SCRATCH = "stroke "
"""How names of vertex columns begin that live as long as a stroke and are not remembered."""


@dataclass(frozen=True)
class Patch:
    """Some rows and triangle slots of a body's tables, in one state.

    Attributes
    ----------
    rows, first : (K,) int32
        Rows, ascending, and the first corner of each.
    columns : dict
        (K, width) float32 values of every column that does not follow from others.
    triangles : (T,) int32
        Slots, ascending.
    vertex, opposite : (T, 3) int32
    known : dict
        (T, 1 or 3, width) float32 values of every column of faces, corners and edges.
    count : tuple of int
        Rows and slots in use, freed ones included.
    free_rows, free_triangles : (int, int32 array)
        Entries of the free list that both states share, and what lies above them.
    """

    rows: Rows
    first: Rows
    columns: dict[str, Values]
    triangles: Rows
    vertex: Rows
    opposite: Rows
    known: dict[str, Values]
    count: tuple[int, int]
    free_rows: tuple[int, Rows]
    free_triangles: tuple[int, Rows]

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        arrays: list[NDArray[Any]] = [self.rows, self.first, self.triangles, self.vertex, self.opposite]
        arrays += [*self.columns.values(), *self.known.values(), self.free_rows[1], self.free_triangles[1]]
        return sum(array.nbytes for array in arrays)


class PatchRecorder:
    """Keeps the first state of every row and triangle slot that is about to change; costs what is named.

    Parameters
    ----------
    body : Body
    outer : PatchRecorder, optional
        The recorder of something larger that this is a part of; it is told as well.
    """

    def __init__(self, body: Body, outer: "PatchRecorder | None" = None) -> None:
        self._body, self._outer = body, outer
        self._count = (body.vertices.count, body.corners.count)
        self._free = (body.vertices.free.slots.copy(), body.corners.free.slots.copy())
        self._seen = (sparse_zeros(self._count[0], np.bool_), sparse_zeros(self._count[1], np.bool_))
        self._pieces: list[tuple[Rows, Rows, dict[str, Values]]] = []
        self._faces: list[tuple[Rows, Rows, Rows, dict[str, Values]]] = []

    def note(self, rows: Rows, triangles: Rows) -> None:
        """Call before they are written. What was not there at the start needs no noting and is passed over."""
        body = self._body
        if self._outer is not None:
            self._outer.note(rows, triangles)
        rows = self._new(rows, 0)
        if rows.size:
            columns = {name: np.take(body.vertices[name], rows, axis=0) for name in _named(body)}
            self._pieces.append((rows, body.corners.first_corner[rows], columns))
        slots = self._new(triangles, 1)
        if slots.size:
            self._faces.append((slots, *_faces(body, slots)))

    def note_free(self, most: int) -> None:
        """Call before so many freed rows and slots may be used again."""
        body = self._body
        self.note(body.vertices.free.slots[-most:], body.corners.free.slots[-most:])

    def result(self) -> tuple[Patch, Patch] | None:
        """What was there at the start and what is there now; None when nothing changed."""
        body = self._body
        rows = _joined([piece[0] for piece in self._pieces])
        order = np.argsort(rows)
        rows, first = rows[order], _joined([piece[1] for piece in self._pieces])[order]
        columns = {
            name: np.concatenate([piece[2][name] for piece in self._pieces])[order]
            for name in (_named(body) if self._pieces else ())
        }
        changed = first != body.corners.first_corner[rows]
        for name, values in columns.items():
            changed |= rows_differ(values, np.take(body.vertices[name], rows, axis=0))
        rows, first = rows[changed], first[changed]
        columns = {name: values[changed] for name, values in columns.items()}
        slots, faces = self._changed_faces()
        count = (body.vertices.count, body.corners.count)
        if not rows.size and not slots.size and count == self._count:
            return None
        shared = (_common(self._free[0], body.vertices.free), _common(self._free[1], body.corners.free))
        now = (body.vertices.free.slots, body.corners.free.slots)
        frees = [
            tuple((kept, pile[kept:].copy()) for kept, pile in zip(shared, side, strict=True))
            for side in (self._free, now)
        ]
        before = Patch(rows, first, columns, slots, *faces, self._count, *frees[0])
        later = np.concatenate((rows, np.arange(self._count[0], count[0], dtype=np.int32)))
        later_slots = np.concatenate((slots, np.arange(self._count[1], count[1], dtype=np.int32)))
        written = {name: np.take(body.vertices[name], later, axis=0) for name in _named(body)}
        after = Patch(
            later, body.corners.first_corner[later], written, later_slots, *_faces(body, later_slots), count, *frees[1]
        )
        return before, after

    def _new(self, slots: Rows, which: int) -> Rows:
        seen = self._seen[which]
        slots = distinct(slots[slots < seen.size])
        slots = slots[~seen[slots]]
        seen[slots] = True
        return slots

    def _changed_faces(self) -> tuple[Rows, tuple[Rows, Rows, dict[str, Values]]]:
        if not self._faces:
            none = np.empty(0, np.int32)
            return none, _faces(self._body, none)
        slots = np.concatenate([piece[0] for piece in self._faces])
        order = np.argsort(slots)
        vertex, opposite = (np.concatenate([piece[i] for piece in self._faces])[order] for i in (1, 2))
        known = {
            name: np.concatenate([piece[3][name] for piece in self._faces])[order]
            for name in self._body.corners.slots.names()
        }
        slots = slots[order]
        now = _faces(self._body, slots)
        changed = np.any(vertex != now[0], axis=1) | np.any(opposite != now[1], axis=1)
        for name, values in known.items():
            changed |= rows_differ(values, now[2][name])
        return slots[changed], (
            vertex[changed],
            opposite[changed],
            {name: values[changed] for name, values in known.items()},
        )


def lay_patch(body: Body, patch: Patch) -> tuple[Rows, Rows]:
    """Bring a body's tables to the state of a patch.

    Columns that came later than the patch are left as they are, and set to zero at rows that it brings back.

    Returns
    -------
    rows, around : int32
        Rows that were written, and rows whose normals were.
    """
    vertices, corners = body.vertices, body.corners
    fresh = patch.rows[patch.rows >= vertices.count]
    body.forget(np.arange(patch.count[1], corners.count, dtype=np.int32))
    vertices.reserve(max(0, patch.count[0] - vertices.count))
    corners.reserve(max(0, patch.count[1] - corners.count), max(0, patch.count[0] - vertices.count))
    vertices.resize(patch.count[0])
    corners.resize(patch.count[1], patch.count[0])
    for name in vertices.names:
        if name in patch.columns:
            vertices[name][patch.rows] = patch.columns[name]
        elif not derived(name, bool(body.layers)):
            vertices[name][fresh] = 0.0
    corners.first_corner[patch.rows] = patch.first
    corners.triangles[patch.triangles] = patch.vertex
    corners.opposite.reshape(-1, 3)[patch.triangles] = patch.opposite
    corners.slots.put(patch.triangles, patch.known)
    vertices.free.replace_tail(*patch.free_rows)
    corners.free.replace_tail(*patch.free_triangles)
    live = corners.triangles[patch.triangles]
    near = distinct(np.concatenate((live[live[:, 0] >= 0].reshape(-1), patch.rows)))
    touched = body.touched(near[corners.first_corner[near] >= 0])
    slots = distinct(np.concatenate((patch.triangles, touched.triangles)))
    rows = patch.rows[patch.first >= 0]
    body.retriangulated(rows, slots, touched.around)
    return rows, touched.around


def _named(body: Body) -> list[str]:
    layered = bool(body.layers)
    return [name for name in body.vertices.names if not derived(name, layered) and not name.startswith(SCRATCH)]


def _faces(body: Body, slots: Rows) -> tuple[Rows, Rows, dict[str, Values]]:
    corners = body.corners
    return corners.triangles[slots], corners.opposite.reshape(-1, 3)[slots], corners.slots.rows(slots)


def _joined(pieces: list[Rows]) -> Rows:
    return np.concatenate(pieces) if pieces else np.empty(0, np.int32)


def _common(old: Rows, free: FreeList) -> int:
    # entries at the bottom of a free list that are as they were
    size = min(old.size, free.count)
    differ = np.flatnonzero(old[:size] != free.slots[:size])
    return int(differ[0]) if differ.size else size
