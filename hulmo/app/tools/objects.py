"""Objects of the scene: pressed to be chosen, dragged to be moved."""

import numpy as np
from PyQt6.QtCore import QObject, QPointF, Qt

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing, Vector, holds
from hulmo.app.tools.reach import REACH, shifted
from hulmo.core.commands import ChangeObject
from hulmo.core.mesh.body import Body
from hulmo.core.objects import KINDS, standing
from hulmo.core.objects.kind import plain_sign, sign_matrix
from hulmo.core.objects.scene_object import SceneObject, upright, world_matrix
from hulmo.render.renderer import scene_bounds

SOON = 3.0
"""Pixels that a press must be dragged before it moves anything: choosing never moves."""


class ObjectTool(Controller):
    """What stands on the ground is dragged along it; what does not, across the view, or with Ctrl the way one looks."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._ident = 0
        self._start = QPointF()
        self._moving = False

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._ident > 0

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        if self.session.busy:
            return False
        found = [
            (away, entry.ident)
            for entry in standing(self.session.project.objects)
            for away in (self._away(entry, at),)
            if away
        ]
        if not found:
            return False
        self._ident, self._start, self._moving = min(found)[1], at, False
        self.session.choose_object(self._ident)
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        entry = self.session.object
        if entry is None or (not self._moving and (at - self._start).manhattanLength() < SOON):
            return
        step, self._start, self._moving = at - self._start, at, True
        kind, objects = KINDS.get(entry.kind), self.session.project.objects
        model = world_matrix(objects, entry)
        here = model[:3, 3]
        deep = holds(Qt.KeyboardModifier.ControlModifier)
        ground = None if deep or kind is None or kind.sign else self._ground(at)
        there = shifted(self.hand.view, here, step, deep) if ground is None else ground[0]
        # the parent's space: what is told is a way within it
        own = np.linalg.inv(model @ np.linalg.inv(entry.matrix()))[:3, :3] @ (there - here)
        if kind is None:
            x, y, z = (np.array(entry.at) + own).tolist()
            command = ChangeObject(entry.name, at=(x, y, z))
        else:
            new = kind.moved(entry, own)
            askew = ground is not None and ground[1].down.kind != "level" and kind.turns
            turn = upright(ground[1].up(ground[1].own(there)[None])[0]) if askew and ground is not None else None
            command = ChangeObject(entry.name, at=new.at, turn=turn, values=new.values)
        self.session.drags.merged(command, f"object {entry.ident}")

    def release(self) -> None:
        """See `Controller.release`."""
        self._ident = 0

    def mark(self, marks: Marks) -> None:
        """A frame around the chosen one."""
        entry = self.session.object
        box = None if entry is None else self._box(entry)
        if box is not None:
            marks.outline = [QPointF(*box[0]), QPointF(*box[1])]

    def _ground(self, at: QPointF) -> tuple[Vector, Body] | None:
        # the nearest surface of any body that is seen, and that body
        origin, direction = self.hand.ray(at)
        hits = [(body.ray(origin, direction), body) for body in self.session.project.bodies if body.shown]
        seen = [
            (h.distance, h.position, b) for h, b in hits if h is not None and self.hand.view.inside.shows(h.position)
        ]
        if not seen:
            return None
        _, position, body = min(seen, key=lambda found: found[0])
        return position, body

    def _away(self, entry: SceneObject, at: QPointF) -> float:
        # how far off an object is that a place on the canvas lies on; 0 where it does not
        box = self._box(entry)
        if box is None:
            return 0.0
        low, high, away = box
        return away if low[0] <= at.x() <= high[0] and low[1] <= at.y() <= high[1] else 0.0

    def _box(self, entry: SceneObject) -> tuple[list[float], list[float], float] | None:
        # where on the canvas an object is to be seen: two corners around it; and how far off it is, metres
        view, kind = self.hand.view, KINDS.get(entry.kind)
        if not entry.shown:
            return None
        model = world_matrix(self.session.project.objects, entry)
        if kind is None or kind.sign:
            model = sign_matrix(entry, model, scene_bounds(self.session.project).radius)
        points = (plain_sign() if kind is None else kind.mesh())[0].astype(np.float64) @ model[:3, :3].T + model[:3, 3]
        seen = view.camera.to_screen(points, view.width(), view.height())
        if (seen[:, 2] <= view.camera.near).any():
            return None
        low, high = seen[:, :2].min(axis=0) - REACH / 2, seen[:, :2].max(axis=0) + REACH / 2
        return low.tolist(), high.tolist(), float(seen[:, 2].mean())
