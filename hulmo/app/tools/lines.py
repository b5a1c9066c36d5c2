"""Outlines and tracks: presses place points, drags move them."""

import numpy as np
from PyQt6.QtCore import QObject, QPointF, Qt

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing, Vector, holds
from hulmo.app.tools.reach import REACH
from hulmo.core.commands import LinePoint
from hulmo.core.lines.thinned import thinned
from hulmo.core.mesh.body import Body
from hulmo.core.objects.scene_object import SceneObject

DRAG = 4.0
"""Pixels that a press is dragged before it moves a point, or draws freehand."""


class LineTool(Controller):
    """A press on the ground adds a point to the line in work, a drag draws on from there freehand; a press on the first point
    of an outline, or on the last one of a track, ends it. Points of the chosen line are dragged; Shift turns one into a
    corner, Ctrl takes it out; a press on the line between them puts one in."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._point = -1
        self._start = QPointF()
        self._moving = False
        self._free: list[Vector] | None = None

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._point >= 0 or self._free is not None

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        work, body = self.session.lines, self.session.body
        if self.session.busy or body is None:
            return False
        self._start, self._moving, self._free = at, False, None
        entry = work.entry
        if entry is not None:
            point = self._point_at(entry, at)
            if point >= 0:
                return self._on_point(entry, point)
        hit = self.hand.find(at)
        if work.drawing or (entry is None and not self._choose_at(at)):
            if hit is None:
                return False
            work.add_point(body, hit.position, holds(Qt.KeyboardModifier.ShiftModifier))
            self._free = [hit.position]
            return True
        if entry is None:
            return True  # one was chosen
        between = self._between(entry, at)
        if between is not None and hit is not None:
            points = list(work.points_of(entry))
            x, y, z = (float(value) for value in hit.position)
            points.insert(between, LinePoint((x, y, z)))
            work.lay_points(entry, tuple(points))
            return True
        if not self._choose_at(at):
            work.choose(0)
        return hit is not None

    def move(self, at: QPointF) -> None:
        """Drag a point over the ground, or draw on."""
        work = self.session.lines
        entry = work.entry
        body = None if entry is None else work.body_of(entry)
        if entry is None or body is None:
            return
        if not self._moving and (at - self._start).manhattanLength() < DRAG:
            return
        self._moving = True
        place = self._ground(body, at)
        if place is None:
            return
        if self._free is not None:
            self._free.append(place)
            work.moved = np.concatenate((self._own(entry, body), body.own(np.array(self._free[1:]))))
        else:
            points = self._own(entry, body)
            points[self._point] = body.own(place)
            work.moved = points
        work.changed.emit()

    def release(self) -> None:
        """See `Controller.release`."""
        work = self.session.lines
        entry, moved = work.entry, work.moved
        body = None if entry is None else work.body_of(entry)
        free, self._free = self._free, None
        point, self._point = self._point, -1
        work.moved = None
        if entry is None or body is None or moved is None:
            work.changed.emit()
            return
        points = work.points_of(entry)
        if free is not None:
            size = 6.0 * self._pixel(free[-1])
            for x, y, z in thinned(np.array(free), size)[1:].tolist():
                points = (*points, LinePoint((x, y, z)))
        else:
            x, y, z = body.placed(moved[point]).tolist()
            old = points[point]
            points = (*points[:point], LinePoint((x, y, z), old.corner, old.width), *points[point + 1 :])
        work.lay_points(entry, points)

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        marks.lines = self.session.lines.marks(self.hand.view.camera.eye, self._point)

    def _on_point(self, entry: SceneObject, point: int) -> bool:
        work = self.session.lines
        points = work.points_of(entry)
        if work.drawing and len(points) > 1 and point in (0, len(points) - 1):
            work.end()
            return True
        if holds(Qt.KeyboardModifier.ControlModifier):
            work.lay_points(entry, points[:point] + points[point + 1 :])
            return True
        if holds(Qt.KeyboardModifier.ShiftModifier):
            old = points[point]
            turned = LinePoint(old.at, not old.corner, old.width)
            work.lay_points(entry, (*points[:point], turned, *points[point + 1 :]))
            return True
        self._point = work.point = point
        work.changed.emit()
        return True

    def _own(self, entry: SceneObject, body: Body) -> Vector:
        places = np.array([point.at for point in self.session.lines.points_of(entry)], np.float64).reshape(-1, 3)
        return np.array(body.own(places), np.float64)

    def _point_at(self, entry: SceneObject, at: QPointF) -> int:
        # number of the point under a place on the canvas; -1 for none
        points = self.session.lines.points_of(entry)
        if not points:
            return -1
        away = self._away(np.array([point.at for point in points], np.float64), at)
        near = int(away.argmin())
        return near if away[near] <= REACH else -1

    def _between(self, entry: SceneObject, at: QPointF) -> int | None:
        # before which point one is put in by a press on the line
        found = self.session.lines.sketch(entry)
        if found is None or found[0].shape[0] < 2:
            return None
        away = self._away(found[0], at)
        near = int(away.argmin())
        return int(np.floor(found[1][near])) + 1 if away[near] <= REACH else None

    def _choose_at(self, at: QPointF) -> bool:
        work = self.session.lines
        for entry in work.entries:
            found = work.sketch(entry)
            if found is not None and float(self._away(found[0], at).min()) <= REACH:
                work.choose(entry.ident)
                return True
        return False

    def _away(self, places: Vector, at: QPointF) -> Vector:
        view = self.hand.view
        seen = view.camera.to_screen(places, view.width(), view.height())
        away = np.hypot(seen[:, 0] - at.x(), seen[:, 1] - at.y())
        return np.where(seen[:, 2] > view.camera.near, away, np.inf)

    def _ground(self, body: Body, at: QPointF) -> Vector | None:
        hit = body.ray(*self.hand.ray(at))
        return None if hit is None or not self.hand.view.inside.shows(hit.position) else hit.position

    def _pixel(self, place: Vector) -> float:
        camera = self.hand.view.camera
        return camera.metres_per_pixel(max(float((camera.eye - place) @ camera.back), 1e-3), self.hand.view.height())
