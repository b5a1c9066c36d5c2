"""Stitched borders: what lies in the same place on several bodies stays alike, whatever is done to one of them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import Change, ColumnDelta, Delta, Edit, RowsDelta
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.hand import added_up, ruled_at
from hulmo.core.ground.weights import HAND, RULED, WEIGHT
from hulmo.core.kept import WHOLE
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.seam import Seam, seam_between, shared_normals
from hulmo.core.mesh.stitched import STITCHED, stitched_rows
from hulmo.core.project import Project

Rows = NDArray[np.int32]
Mask = NDArray[np.bool_]
Values = NDArray[np.float32]

SAME = 1e-4
"""Metres that stitched vertices may lie apart and still be in the same place: what single precision leaves far from an
origin."""

NUDGES = 4
"""How often a position is nudged until relief layers add up to it."""

PAINT = (HAND, RULED, WEIGHT, TINT)
WRITTEN = ("position", REST, *PAINT, STITCHED)
"""Vertex columns that follow along a seam."""

TOLD = ("normal", "position", *PAINT)
"""Columns whose rows a change tells wherever something has to follow."""


class Stitches:
    """Stitched vertices of a project as they are before it is changed, and what has to follow after.

    Parameters
    ----------
    project : Project
    """

    def __init__(self, project: Project) -> None:
        self._project = project
        self._all = project.bodies
        self._bodies = tuple(body for body in project.bodies if STITCHED in body.vertices)
        self._seam = _seam_of(self._bodies)
        self._first = snapshot(self._seam)
        self._last = {name: values.copy() for name, values in self._first.items()}
        self._tables = [_tables(body) for body in self._bodies]

    @property
    def bodies(self) -> tuple[Body, ...]:
        """The bodies with stitched borders."""
        return self._bodies

    def rows_of(self, body: Body) -> Rows:
        """(K,) stitched rows of a body, ascending."""
        if body not in self._bodies:
            return np.empty(0, np.int32)
        return np.sort(self._seam.of(self._bodies.index(body))[1])

    def follow(self, change: Change) -> None:
        """Have the vertices of every place alike again after one was changed; what is written is added to `change`."""
        if not self._seam.count or self._elsewhere():
            return
        places = self._touched(change)
        if not places.any():
            return
        seam, entries = self._seam.part(places)
        last = {name: values[entries] for name, values in self._last.items()}
        painted = bool(change.bodies) or any(column in PAINT for _, column, _ in change.rows)
        _follow_positions(seam, last, change)
        _share_normals(seam, change)
        if painted:
            _follow_paint(seam, last, change)
        for name, values in snapshot(seam, WRITTEN if painted else ("position",)).items():
            if name not in self._last or self._last[name].shape[1] != values.shape[1]:
                self._last[name] = np.zeros((self._seam.row.size, values.shape[1]), np.float32)
            self._last[name][entries] = values

    def deltas(self, change: Change) -> list[Delta]:
        """What follows an edit that was just applied, and is applied itself by this: of rows that are still the same, what
        goes along with them; after whole tables were replaced or bodies moved, what is still stitched."""
        if not self._bodies and not any(STITCHED in body.vertices for body in self._project.bodies):
            return []
        if self._elsewhere():
            return self._found_anew(change)
        applied = snapshot(self._seam)
        self.follow(change)
        return since(self._seam, applied)

    def followed(self) -> tuple[list[Delta], list[Delta]]:
        """What `follow` did since this was made: what comes before all that was done meanwhile, and what after it.

        A vertex may have followed a neighbour before anything was done to its own body, so what it was first goes back last.
        """
        if not self._bodies:
            return [], []
        return ([], self._found_anew(Change())) if self._elsewhere() else (since(self._seam, self._first), [])

    def revert(self) -> None:
        """Have all stitched vertices as they were when this was made, where they are the same ones."""
        if self._elsewhere():
            return
        for which, body in enumerate(self._bodies):
            at, rows = self._seam.of(which)
            for name, before in self._first.items():
                if rows.size and name in body.vertices and body.vertices.width(name) == before.shape[1]:
                    body.vertices[name][rows] = before[at]
            body.all_moved()

    def _elsewhere(self) -> bool:
        # whether the rows that are known are no longer those of the bodies that there are
        if tuple(self._project.bodies) != tuple(self._all):
            return True
        for which, (body, before) in enumerate(zip(self._bodies, self._tables, strict=True)):
            now = _tables(body)
            if now[:-1] != before[:-1] or STITCHED not in body.vertices:
                return True
            if now != before:  # remeshed in place: borders stay, but who knows
                rows = self._seam.of(which)[1]
                if rows.max(initial=-1) >= body.vertices.count:
                    return True
                if stitched_rows(body.vertices, body.corners, rows).size != rows.size:
                    return True
        return False

    def _touched(self, change: Change) -> Mask:
        # (count,) places at which anything was written, or next to which the surface has moved
        seam = self._seam
        places = np.zeros(seam.count, np.bool_)
        for which, body in enumerate(seam.bodies):
            at, rows = seam.of(which)
            if body.ident in change.bodies:
                places[seam.place[at]] = True
            for ident, column, touched in change.rows:
                if ident == body.ident and touched.size and column in TOLD:
                    found = np.minimum(np.searchsorted(touched, rows), touched.size - 1)
                    places[seam.place[at[touched[found] == rows]]] = True
        return places

    def _found_anew(self, change: Change) -> list[Delta]:
        # tables were replaced, or bodies came, went or were moved as a whole: who still lies in one place
        bodies = tuple(body for body in self._project.bodies if STITCHED in body.vertices)
        seam = _seam_of(bodies)
        first = snapshot(seam)
        out: list[Delta] = []
        if seam.count:
            _share_normals(seam, change)
            _share_paint(seam, np.ones(seam.row.size, np.bool_), change)
        for which, body in enumerate(bodies):
            shared = body.vertices[STITCHED]
            lone = np.flatnonzero(shared.any(axis=1))
            lone = np.setdiff1d(lone, seam.of(which)[1])
            if not lone.size:
                continue
            if not seam.of(which)[1].size:  # none is left
                out.append(ColumnDelta(body.ident, STITCHED, shared.copy(), None))
            else:
                nothing = np.zeros((lone.size, 3), np.float32)
                out.append(RowsDelta(body.ident, STITCHED, lone.astype(np.int32), shared[lone], nothing))
            out[-1].put(self._project, True, change)
        return [*since(seam, first), *out]


def make_alike(seam: Seam) -> None:
    """Give all vertices in one place the same position, normal and grounds: midway, or those of what is guarded or locked."""
    nothing = Change()
    every = np.ones(seam.row.size, np.bool_)
    _draw_together(seam, seam.values("position"), every, nothing)
    _share_normals(seam, nothing)
    leads, _ = _leading(seam, every, _fixed(seam, False))
    _share_paint(seam, leads, nothing)


def snapshot(seam: Seam, names: tuple[str, ...] = WRITTEN) -> dict[str, Values]:
    """(K, width) values of columns that follow along a seam, at its vertices."""
    out: dict[str, Values] = {}
    for name in names:
        width = max((body.vertices.width(name) for body in seam.bodies if name in body.vertices), default=0)
        if not width:
            continue
        values = np.zeros((seam.row.size, width), np.float32)
        for which, body in enumerate(seam.bodies):
            at, rows = seam.of(which)
            if name in body.vertices and body.vertices.width(name) == width:
                values[at] = body.vertices[name][rows]
        out[name] = values
    return out


def since(seam: Seam, first: dict[str, Values]) -> list[Delta]:
    """Deltas from what the vertices of a seam were to what they are."""
    now = snapshot(seam)
    out: list[Delta] = []
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        for name in WRITTEN:
            if name not in body.vertices or (name == "position" and body.layers) or name not in first:
                continue
            if first[name].shape != now[name].shape:
                continue
            differ = (first[name][at] != now[name][at]).any(axis=1)
            if differ.any():
                order = np.argsort(rows[differ])
                mine: NDArray[np.intp] = at[differ][order]
                out.append(
                    RowsDelta(body.ident, name, seam.row[mine].astype(np.int32), first[name][mine], now[name][mine])
                )
    return out


def _fixed(seam: Seam, borders: bool) -> Mask:
    # (K,) vertices that nothing paints or, where locked borders count, moves
    out = np.zeros(seam.row.size, np.bool_)
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        if GUARD in body.vertices:
            out[at] = body.vertices[GUARD][rows, 0] >= WHOLE
        if body.locked or (borders and body.border_lock):
            out[at] = True
    return out


def _leading(seam: Seam, changed: Mask, fixed: Mask) -> tuple[Mask, Mask]:
    # which vertices say how their places are to be, and (count,) which places there are to be seen to
    places, held = np.zeros(seam.count, np.bool_), np.zeros(seam.count, np.bool_)
    places[seam.place[changed]] = True
    held[seam.place[fixed]] = True
    return np.where(held[seam.place], fixed, changed), places


def _follow_positions(seam: Seam, last: dict[str, Values], change: Change) -> None:
    now = seam.values("position")
    moved = (now != last["position"]).any(axis=1)
    if moved.any() and not _together(seam):
        _draw_together(seam, now, moved, change)


def _together(seam: Seam) -> bool:
    # whether all vertices lie exactly in their places, as where both sides were moved alike
    first = np.flatnonzero(np.concatenate(([True], np.diff(seam.place) != 0)))
    world = seam.positions()
    return bool((world == world[first[seam.place]]).all())


def _draw_together(seam: Seam, now: Values, moved: Mask, change: Change) -> None:
    # places go where those of their vertices have gone that moved, or stay where one is that nothing moves
    leads, places = _leading(seam, moved, _fixed(seam, True))
    world = seam.positions()
    total, number = seam.sums(world, leads)
    alone = np.zeros((seam.count, 3))
    alone[seam.place[leads]] = world[leads]
    target = np.where(number[:, None] > 1, total / np.maximum(number, 1)[:, None], alone)
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        wanted = (target[seam.place[at]] - body.origin).astype(np.float32)
        off = places[seam.place[at]] & (wanted != now[at]).any(axis=1)
        if off.any():
            rows, wanted = _ascending(rows[off], wanted[off])
            _put_at(body, rows, wanted)
            around = body.rows_moved(rows)
            change.rows += [(body.ident, name, rows) for name in ("position", REST) if name in body.vertices]
            change.rows.append((body.ident, "normal", around))


def _follow_paint(seam: Seam, last: dict[str, Values], change: Change) -> None:
    now = snapshot(seam)
    if WEIGHT not in now:
        return
    changed = np.zeros(seam.row.size, np.bool_)
    for name in PAINT:
        if name in now:
            same = name in last and last[name].shape == now[name].shape
            changed |= (now[name] != last[name]).any(axis=1) if same else True
    if changed.any():
        leads, places = _leading(seam, changed, _fixed(seam, False))
        part, entries = seam.part(places)
        _share_paint(part, leads[entries], change)


def neighbours(project: Project, body: Body) -> tuple[Body, ...]:
    """Bodies whose borders are stitched to that of one."""
    bodies = tuple(entry for entry in project.bodies if STITCHED in entry.vertices)
    if body not in bodies:
        return ()
    seam = _seam_of(bodies)
    mine = np.zeros(seam.count, np.bool_)
    mine[seam.place[seam.of(bodies.index(body))[0]]] = True
    beside = np.unique(seam.body[mine[seam.place]])
    return tuple(bodies[which] for which in beside.tolist() if bodies[which] is not body)


def with_stitches(edit: Edit, deltas: list[Delta]) -> Edit:
    """An edit with what follows it along stitched borders."""
    return Edit(edit.label, (*edit.deltas, *deltas)) if deltas else edit


def _seam_of(bodies: tuple[Body, ...]) -> Seam:
    rows = []
    for body in bodies:
        some = np.flatnonzero(body.vertices[STITCHED].any(axis=1)).astype(np.int32)
        some = some[body.corners.first_corner[some] >= 0]
        rows.append(stitched_rows(body.vertices, body.corners, some))
    return seam_between(bodies, rows, SAME)


def _tables(body: Body) -> tuple[int, int, tuple[float, ...], int]:
    # what differs once a body has other tables, or lies elsewhere as a whole
    return id(body.vertices), id(body.corners), body.origin, body.remeshed


def _ascending(rows: Rows, values: Values) -> tuple[Rows, Values]:
    order = np.argsort(rows)
    return rows[order], values[order]


def _put_at(body: Body, rows: Rows, wanted: Values) -> None:
    # positions as they are wanted: under relief layers the form gives way
    if not body.layers:
        body.vertices["position"][rows] = wanted
        return
    for _ in range(NUDGES):
        off = wanted - body.vertices["position"][rows]
        if not off.any():
            break
        body.vertices[REST][rows] += off
        body.compose(rows)


def _share_normals(seam: Seam, change: Change) -> None:
    normal = shared_normals(seam)
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        if rows.size:
            rows, wanted = _ascending(rows, normal[seam.place[at]])
            body.vertices[STITCHED][rows] = wanted
            body.vertices["normal"][rows] = wanted
            change.rows += [(body.ident, STITCHED, rows), (body.ident, "normal", rows)]


def _share_paint(seam: Seam, leads: Mask, change: Change) -> None:
    """Give all vertices in one place the hand paint and tint of those that lead, and as weights the mean of what that paint
    and the rules of each body come to: bodies with other rules meet midway, whatever lies beneath."""
    bodies = seam.bodies
    if any(WEIGHT not in body.vertices or HAND not in body.vertices for body in bodies):
        return  # bodies without paint of their own have nothing to share yet
    for name in (HAND, TINT):
        if all(name in body.vertices for body in bodies):
            _lay(seam, name, _means(seam, seam.values(name), leads), change)
    grounds = bodies[0].vertices.width(WEIGHT)
    own = np.empty((seam.row.size, grounds), np.float32)
    for which, body in enumerate(bodies):
        at, rows = seam.of(which)
        own[at] = added_up(body.vertices[HAND][rows], ruled_at(body, grounds, rows))
    fixed = _fixed(seam, False)
    own[fixed] = seam.values(WEIGHT)[fixed]  # they stay as they are, and the others go there
    count, _ = _leading(seam, np.ones(seam.row.size, np.bool_), fixed)
    _lay(seam, WEIGHT, _means(seam, own, count), change)


def _means(seam: Seam, values: Values, chosen: Mask) -> Values:
    # (count, width) mean over those vertices of each place that are chosen; exactly as it is where there is one
    total, number = seam.sums(values, chosen)
    mean = (total / np.maximum(number, 1)[:, None]).astype(np.float32)
    only = chosen & (number[seam.place] == 1)
    mean[seam.place[only]] = values[only]
    return np.asarray(mean)


def _lay(seam: Seam, name: str, values: Values, change: Change) -> None:
    for which, body in enumerate(seam.bodies):
        at, rows = seam.of(which)
        if rows.size:
            rows, wanted = _ascending(rows, values[seam.place[at]])
            body.vertices[name][rows] = wanted
            change.rows.append((body.ident, name, rows))
