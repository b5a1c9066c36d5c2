"""Ground rules that follow the shape when a command changes it as a whole."""

from collections.abc import Container
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import BodyDelta, Change, ColumnDelta, Delta, Edit, LayersDelta, PatchDelta, RowsDelta, TablesDelta
from hulmo.core.ground.evaluate import MOSTLY, evaluate, reach_of
from hulmo.core.ground.hand import add_up, added_up, guarded
from hulmo.core.ground.rules import KEPT
from hulmo.core.ground.weights import HAND, RULED, WEIGHT
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.differ import rows_differ
from hulmo.core.mesh.geodesic import geodesic
from hulmo.core.mesh.layer import shapes
from hulmo.core.mesh.patch import PatchRecorder, lay_patch
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Rows = NDArray[np.int32]


def ruled_bodies(project: Project, edit: Edit) -> set[int]:
    """Numbers of the bodies with ground rules that an edit shapes."""
    named = {getattr(delta, "body", None) for delta in edit.deltas if _moves(delta)}
    return {body.ident for body in project.bodies if body.ident in named and body.rules}


def followed(project: Project, edit: Edit, progress: Progress) -> Edit:
    """An edit with what the ground rules of the bodies it shapes say after it."""
    wanted: dict[int, list[Delta]] = {}
    for delta in edit.deltas:
        ident = getattr(delta, "body", None)
        if ident is not None and _moves(delta) and project.body(ident).rules:
            wanted.setdefault(ident, []).append(delta)
    if not wanted:
        return edit
    names = tuple(ground.name for ground in project.grounds)
    deltas = list(edit.deltas)
    for ident, moving in wanted.items():
        body = project.body(ident)
        origin = next(
            (d.after for d in deltas if isinstance(d, BodyDelta) and (d.body, d.name) == (ident, "origin")), None
        )
        down = next((d.after for d in deltas if isinstance(d, BodyDelta) and (d.body, d.name) == (ident, "down")), None)
        whole = next((delta for delta in moving if isinstance(delta, TablesDelta)), None)
        if whole is not None:
            work = Body(body.name, *whole.after, ident)
            work.layers, work.base, work.rules = body.layers, body.base, body.rules
            work.origin = origin or body.origin
            work.down, work.waters = down or body.down, body.waters
            if body.layers:
                work.compose(slice(None))
            work.all_moved()
            laid_anew(work, names, progress)
            continue
        patch = next((delta for delta in moving if isinstance(delta, PatchDelta)), None)
        if patch is not None:
            at = deltas.index(patch)
            deltas[at : at + 1] = _patched(body, patch, names, progress)
            continue
        work = body.copy()
        work.origin = origin or body.origin
        work.down = down or body.down
        stand_in = Project()
        stand_in.objects = project.objects
        stand_in.bodies = (work,)
        for delta in moving:
            delta.put(stand_in, True, Change())
        laid_anew(work, names, progress)
        deltas += columns_delta(body, work)
    return replace(edit, deltas=tuple(deltas))


def _patched(body: Body, delta: PatchDelta, names: tuple[str, ...], progress: Progress) -> list[Delta]:
    """A patch that also holds what the rules say after it: rows come and go with it, so no delta of whole columns can."""
    laid = body.copy()
    lay_patch(laid, delta.after)
    laid_anew(laid, names, progress)
    count, slots = body.vertices.count, body.corners.count
    fresh = [name for name in laid.vertices.names if name not in body.vertices]
    work = body.copy()
    out: list[Delta] = []
    for name in fresh:
        blank = np.zeros((count, laid.vertices.width(name)), np.float32)
        work.vertices.set_column(name, blank)
        out.append(ColumnDelta(body.ident, name, None, blank))
    written = [name for name in laid.vertices.names if name in (RULED, WEIGHT) or name.startswith(KEPT)]
    changed = np.zeros(count, np.bool_)
    for name in written:
        changed |= rows_differ(work.vertices[name], laid.vertices[name][:count])
    recorder = PatchRecorder(work)
    rows = np.union1d(np.flatnonzero(changed), delta.after.rows).astype(np.int32)
    recorder.note(rows[rows < count], delta.after.triangles[delta.after.triangles < slots])
    lay_patch(work, delta.after)
    for name in written:
        work.vertices[name][:] = laid.vertices[name]
    result = recorder.result()
    assert result is not None, "a patch changes something"
    return [*out, PatchDelta(body.ident, *result)]


def columns_delta(body: Body, work: Body) -> list[Delta]:
    """Deltas of the columns that rules write, from a body to a copy of it on which they were laid."""
    names = [name for name in work.vertices.names if name in (RULED, WEIGHT)]
    out = kept_deltas(body, work)
    for name in names:
        before = body.vertices[name].copy() if name in body.vertices else None
        after = work.vertices[name].copy()
        if before is None or before.shape != after.shape:
            out.append(ColumnDelta(body.ident, name, before, after))
            continue
        rows = np.flatnonzero(rows_differ(before, after)).astype(np.int32)
        if rows.size:
            out.append(RowsDelta(body.ident, name, rows, before[rows], after[rows]))
    return out


def kept_deltas(body: Body, work: Body) -> list[Delta]:
    """Deltas of the figures that were taken once, from a body to a copy or a view of it."""
    out: list[Delta] = []
    for name in work.vertices.names:
        if name.startswith(KEPT):
            before = body.vertices.get(name)
            after = work.vertices[name]
            if before is None or not np.array_equal(before, after):
                out.append(ColumnDelta(body.ident, name, None if before is None else before.copy(), after.copy()))
    return out


def _moves(delta: Delta) -> bool:
    if isinstance(delta, RowsDelta | ColumnDelta):
        return delta.column in ("position", GUARD) or shapes(delta.column)
    return isinstance(delta, TablesDelta | LayersDelta | PatchDelta)


def laid_anew(work: Body, names: tuple[str, ...], progress: Progress, anew: Container[int] = ()) -> NDArray[np.float32]:
    """Evaluate the rules of a body and write what they say, and the weights of it; returns what they say.

    `work` is a copy or a view of a body of the project, for whom it is to become an edit.
    """
    ruled = guarded(work, slice(None), evaluate(work, names, None, progress, anew))
    work.vertices.set_column(RULED, ruled)
    hand = work.vertices.get(HAND)
    same = hand is not None and hand.shape == ruled.shape
    work.vertices.set_column(WEIGHT, added_up(hand, ruled) if same and hand is not None else ruled)
    return ruled


def laid_around(work: Body, names: tuple[str, ...], moved: Rows, near: Rows, progress: Progress) -> None:
    """`laid_anew` of the same rules where that can come to something else.

    Parameters
    ----------
    moved : (K,) int32
        Vertices that are new or have moved; what their rules ask around them is asked anew as well.
    near : (L,) int32
        Others of which it may be known otherwise where they lie.
    """
    reach, beyond = reach_of(work, names, mean_edge(work))
    asked, written = np.zeros(work.vertices.count, np.bool_), np.zeros(work.vertices.count, np.bool_)
    asked[moved] = written[moved] = asked[near] = written[near] = True
    if reach > 0 and moved.size:
        away = geodesic(work.vertices["position"], work.corners, moved, reach + beyond)
        asked |= np.isfinite(away)
        written |= away <= reach
    if np.count_nonzero(asked) > MOSTLY * asked.size:
        laid_anew(work, names, progress)
        return
    rows = np.flatnonzero(asked).astype(np.int32)
    ruled = evaluate(work, names, rows, progress)
    here = written[rows]
    rows = rows[here]
    work.vertices[RULED][rows] = guarded(work, rows, ruled[here])
    add_up(work, len(names), rows)
