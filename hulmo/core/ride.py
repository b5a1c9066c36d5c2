"""Points of lines, and props, that go along when their body is shaped."""

import contextlib

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import Edit, FieldDelta, LayersDelta, PatchDelta, RowsDelta, StrewDelta, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.lines.ground import Ground, Places
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import shapes
from hulmo.core.mesh.strewn import Strewn, anchors
from hulmo.core.objects.line import Line, Place, is_line, line_of, with_line
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.project import Project

SAME = 1e-5
"""Share of the size of a body within which a point still lies on a surface that was made anew."""

LEFT_BEHIND = 0.05
"""Metres off a body that took the place of another one beyond which props do not go over to it."""

FARTHER = 4.0
"""How much further off than the nearest place the one along the old normal may lie."""


_Tables = tuple[int, int, NDArray[np.int32]]


class Riders:
    """Lines that lie on bodies which are about to be shaped.

    Parameters
    ----------
    project : Project
    bodies : set of int
        Numbers of the bodies.
    skipped : tuple of SceneObject
        Lines that whoever shapes them sees to.
    """

    def __init__(self, project: Project, bodies: set[int], skipped: frozenset[int] = frozenset()) -> None:
        self._project = project
        self._bodies = {body.ident for body in project.bodies}
        self._held: list[tuple[SceneObject, Line, Body, NDArray[np.int32], Places, Places, _Tables]] = []
        for entry in project.objects:
            if not is_line(entry) or entry.ident in skipped:
                continue
            try:
                line = line_of(entry)
            except InvalidInput:
                continue
            if line.body not in bodies or not line.points:
                continue
            body = next((body for body in project.bodies if body.ident == line.body), None)
            if body is None:
                continue
            ground = Ground.of(body)
            triangle, weight = ground.nearest(line.array)
            normal = ground.blend(ground.normal, triangle, weight)
            self._held.append((entry, line, body, triangle, weight, normal, _tables(body, triangle)))

    def delta(self) -> FieldDelta | None:
        """The delta by which they have gone along, once their bodies are shaped; None where all lie as they did."""
        project, moved = self._project, {}
        for entry, line, body, triangle, weight, normal, before in self._held:
            if not any(body is there for there in project.bodies):
                continue
            now = _tables(body, triangle) if body.corners.count == before[1] else before
            if now[:2] == before[:2] and now is not before and np.array_equal(now[2], before[2]):
                rows = before[2]
                places = np.einsum("ki,kij->kj", weight, body.vertices["position"][rows].astype(np.float64))
                still = np.linalg.norm(places - line.array, axis=1) < 1e-9
            else:
                places, still = _put(Ground.of(body), line.array, normal, body.bounds().radius)
            if still.all():
                continue
            points = tuple(
                place if stays else Place((float(x), float(y), float(z)), place.corner, place.width)
                for place, stays, (x, y, z) in zip(line.points, still.tolist(), places.tolist(), strict=True)
            )
            moved[entry.ident] = with_line(entry, msgspec.structs.replace(line, points=points))
        gone = self._left_behind()
        if not moved and not gone:
            return None
        objects = tuple(
            moved.get(entry.ident, entry) if is_line(entry) else entry
            for entry in project.objects
            if entry.ident not in gone
        )
        return FieldDelta("objects", project.objects, objects)

    def _left_behind(self) -> set[int]:
        # lines go with the body that they lay on
        after = {body.ident for body in self._project.bodies}
        gone = self._bodies - after
        if not gone:
            return set()
        out = set()
        for entry in self._project.objects:
            if is_line(entry):
                with contextlib.suppress(InvalidInput):
                    if line_of(entry).body in gone:
                        out.add(entry.ident)
        return out


class PropRiders:
    """Props on bodies of which the triangles are about to become others: they are anchored anew to what lies nearest.

    Where triangles stay, props stay in them and need nothing.

    Parameters
    ----------
    project : Project
    bodies : set of int
        Numbers of the bodies.
    """

    def __init__(self, project: Project, bodies: set[int]) -> None:
        self._project = project
        self._known = {id(body) for body in project.bodies}
        self._bodies = bodies
        self._held: list[tuple[Body, Strewn, Places, NDArray[np.int32]]] = []
        for body in project.bodies:
            if body.ident in bodies and body.strewn is not None:
                places = body.placed(anchors(body, body.strewn)[0])
                self._held.append((body, body.strewn, places, body.corners.triangles[body.strewn.slot]))

    def deltas(self) -> list[StrewDelta]:
        """What has them stand where they did, once their bodies are shaped."""
        there = {id(body) for body in self._project.bodies}
        fresh = [body for body in self._project.bodies if id(body) not in self._known]
        stay = [body for body, *_ in self._held if id(body) in there]
        gone = any(id(body) not in there for body, *_ in self._held)
        after = {body.ident: body.strewn for body in (*stay, *fresh)}
        bodies = {body.ident: body for body in (*stay, *fresh)}
        if gone:  # whatever has other triangles now may have taken its place
            for body in self._project.bodies:
                if body.ident in self._bodies:
                    bodies.setdefault(body.ident, body)
                    after.setdefault(body.ident, body.strewn)
        before = dict(after)
        for body, strewn, places, corners in self._held:
            if id(body) in there and body.strewn is not strewn:
                continue  # whoever shaped it has seen to them
            lost = np.arange(strewn.count) if id(body) not in there else _lost(body, strewn, corners)
            if not lost.size:
                continue
            own = body.ident if id(body) in there else 0
            others = [other for other in bodies.values() if own == 0 or other.ident == own or other in fresh]
            for other, rows, part in _nearest_of(others, own, strewn.taken(lost), places[lost]):
                if other.ident == own:
                    now = after[own] or strewn  # others may have come to stand behind its own
                    columns = {name: getattr(now, name).copy() for name in ("slot", "weight")}
                    columns["slot"][lost[rows]], columns["weight"][lost[rows]] = part.slot, part.weight
                    after[own] = now.changed(**columns)
                else:
                    had = after[other.ident]
                    after[other.ident] = part if had is None else had.joined(part)
            mine = after.get(own)
            if mine is not None and len(others) > 1:
                kept = np.ones(mine.count, np.bool_)
                for other, rows, _ in _nearest_of(others, own, strewn.taken(lost), places[lost]):
                    if other.ident != own:
                        kept[lost[rows]] = False
                after[own] = mine.taken(kept)
        return [
            StrewDelta(ident, before[ident], strewn) for ident, strewn in after.items() if strewn is not before[ident]
        ]


def _lost(body: Body, strewn: Strewn, corners: NDArray[np.int32]) -> NDArray[np.integer]:
    # props of which the triangle is gone or another one
    inside = strewn.slot < body.corners.count
    now = body.corners.triangles[np.where(inside, strewn.slot, 0)]
    return np.flatnonzero(~inside | (now != corners).any(axis=1))


def _nearest_of(
    bodies: list[Body], own: int, strewn: Strewn, places: Places
) -> list[tuple[Body, NDArray[np.integer], Strewn]]:
    # which props go to which of some bodies, and how they are anchored there; none is left behind by the body it stood on
    away, found = np.full((len(bodies), strewn.count), np.inf), []
    for i, body in enumerate(bodies):
        slot, weight = body.index.nearest_many(
            body.corners.vertex, body.vertices["position"], body.own(places).astype(np.float32)
        )
        corner = body.vertices["position"][body.corners.triangles[slot]].astype(np.float64)
        away[i] = np.linalg.norm(body.placed(np.einsum("ki,kij->kj", weight, corner)) - places, axis=1)
        found.append(strewn.changed(slot=slot, weight=weight[:, 1:]))
        if body.ident == own and len(bodies) > 1:
            away[i] -= 1e-9
    nearest = away.argmin(axis=0) if bodies else np.zeros(0, np.int64)
    out: list[tuple[Body, NDArray[np.integer], Strewn]] = []
    for i, body in enumerate(bodies):
        rows = np.flatnonzero((nearest == i) & ((away[i] <= LEFT_BEHIND) | (body.ident == own)))
        if rows.size:
            out.append((body, rows, found[i].taken(rows)))
    return out


def retriangulated_by(edit: Edit) -> set[int]:
    """Numbers of the bodies whose triangles an edit changes; all that it takes out of the project among them."""
    out = {delta.body for delta in edit.deltas if isinstance(delta, TablesDelta | PatchDelta)}
    for delta in edit.deltas:
        if isinstance(delta, FieldDelta) and delta.name == "bodies":
            there = {id(body) for body in delta.after}
            out |= {body.ident for body in delta.before if id(body) not in there}
    return out


def shaped_by(edit: Edit) -> set[int]:
    """Numbers of the bodies whose surface an edit changes."""
    out = set()
    for delta in edit.deltas:
        if isinstance(delta, TablesDelta | PatchDelta | LayersDelta) or (
            isinstance(delta, RowsDelta) and (delta.column == "position" or shapes(delta.column))
        ):
            out.add(delta.body)
    return out


def changed_lines(project: Project, edit: Edit) -> frozenset[int]:
    """Numbers of the objects that an edit itself makes others."""
    out: set[int] = set()
    for delta in edit.deltas:
        if isinstance(delta, FieldDelta) and delta.name == "objects":
            there = {id(entry) for entry in project.objects}
            out |= {entry.ident for entry in delta.after if id(entry) not in there}
    return frozenset(out)


def _tables(body: Body, triangle: NDArray[np.int32]) -> _Tables:
    # how many rows and slots there are, and the corners of some triangles: where all are the same, so are the triangles
    return body.vertices.count, body.corners.count, body.corners.triangles[triangle].copy()


def _put(ground: Ground, points: Places, normal: Places, radius: float) -> tuple[Places, NDArray[np.bool_]]:
    # on a surface of other triangles: where they are, or along the old normal, or nearest
    triangle, weight = ground.nearest(points)
    nearest = ground.at(triangle, weight)
    away = np.linalg.norm(nearest - points, axis=1)
    still = away <= SAME * radius
    out = nearest.copy()
    vertex, position = ground.corners.vertex, ground.position
    for i in np.flatnonzero(~still).tolist():
        best = FARTHER * away[i]
        for way in (normal[i], -normal[i]):
            hit = ground.index.ray(vertex, position, points[i], way, best)
            if hit is not None and hit.distance < best:
                best, out[i] = hit.distance, hit.position
    return out, still
