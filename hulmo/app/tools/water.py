"""Waters: a press puts one there, a drag up or down changes its level."""

import numpy as np
from PyQt6.QtCore import QObject, QPointF

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing
from hulmo.core.commands import AddWater, ChangeObject
from hulmo.core.objects.scene_object import SceneObject, world_matrix
from hulmo.core.objects.water import is_water, water_settings
from hulmo.core.setting import number

SOON = 3.0
"""Pixels that a press must be dragged before it changes a level."""


class WaterTool(Controller):
    """A press in a hollow pours a pond; a press anywhere lays a level water at that height where there is none yet. Dragging
    on lifts or lowers the water that is chosen."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._start: QPointF | None = None
        self._level = 0.0
        self._moving = False

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._start is not None

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        session = self.session
        session.give_way()
        if session.busy:
            return False
        hit = self.hand.find(at)
        if hit is None:
            return False
        kind, body = session.tool.name, session.body
        chosen = self.chosen
        here = (float(hit.position[0]), float(hit.position[1]), float(hit.position[2]))
        assert body is not None
        stands = chosen is not None and chosen.kind == kind
        if kind == "pond" and not (stands and self._covers(here)):
            if not session.do(AddWater("pond", here, body.name)):
                return False
            session.choose_object(session.project.objects[-1].ident)
        elif kind != "pond" and not stands:
            low, high = body.placed(np.stack((body.bounds().low, body.bounds().high)))
            around = body.name if body.down.kind == "centre" else ""
            middle = (low + high) / 2
            place = here if around else (float(middle[0]), here[1], float(middle[2]))
            size = float(np.ceil(4.0 * max(high[0] - low[0], high[2] - low[2])))
            values = {} if around else {"size": min(max(size, 0.1), 100_000.0)}
            if not session.do(AddWater("level_water", place, around, values=values)):
                return False
            session.choose_object(session.project.objects[-1].ident)
        chosen = self.chosen
        if chosen is None:
            return False
        self._start, self._moving = at, False
        self._level = number(water_settings(chosen), "level")
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        chosen = self.chosen
        if self._start is None or chosen is None:
            return
        up = self._start.y() - at.y()
        if not self._moving and abs(up) < SOON:
            return
        self._moving = True
        camera = self.hand.view.camera
        place = world_matrix(self.session.project.objects, chosen)[:3, 3]
        away = max(float((camera.eye - place) @ camera.back), 1e-3)
        level = self._level + up * camera.metres_per_pixel(away, self.hand.view.height())
        self.session.give_way()
        self.session.drags.merged(ChangeObject(chosen.name, values={"level": level}), f"water {chosen.ident}")

    def release(self) -> None:
        """See `Controller.release`."""
        self._start = None

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        marks.loose = self.hand.pointer

    @property
    def chosen(self) -> SceneObject | None:
        """The water that is chosen."""
        entry = self.session.object
        return entry if entry is not None and is_water(entry) else None

    def _covers(self, here: tuple[float, float, float]) -> bool:
        # whether the chosen pond stands over a place
        entry = self.chosen
        found = None if entry is None else self.session.waters.surfaces.get(entry.ident)
        if found is None or not found.triangles.size:
            return False
        wet = found.depth > 0
        return bool(wet.any() and np.linalg.norm(found.position[wet] - here, axis=1).min() < 1.5 * found.deepest + 1e-3)
