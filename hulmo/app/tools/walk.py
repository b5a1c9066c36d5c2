"""Walking through the scene at eye height, or flying: keys go, drags look around."""

import math
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QObject, QPointF, Qt, QTimer

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing, Vector, holds
from hulmo.core.dress.walking import Hit, Ray, Walker, stand, walked
from hulmo.core.mesh.body import Body
from hulmo.core.setting import number
from hulmo.render.camera import Camera

BEFORE = 2.0
"""Metres ahead of the eyes that the view turns about."""

TURN = 0.005
"""Radians a pixel of a drag."""

TICK = 16
"""Milliseconds between two steps."""

LONGEST = 0.1
"""Seconds that one step stands for at the most, however long a picture took."""

FAST = 4.0
"""How much faster one goes with Shift."""

WAYS = {
    Qt.Key.Key_W: (0.0, 1.0, 0.0), Qt.Key.Key_S: (0.0, -1.0, 0.0), Qt.Key.Key_A: (-1.0, 0.0, 0.0),
    Qt.Key.Key_D: (1.0, 0.0, 0.0), Qt.Key.Key_Up: (0.0, 1.0, 0.0), Qt.Key.Key_Down: (0.0, -1.0, 0.0),
    Qt.Key.Key_Left: (-1.0, 0.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0, 0.0), Qt.Key.Key_PageUp: (0.0, 0.0, 1.0),
    Qt.Key.Key_PageDown: (0.0, 0.0, -1.0),
}  # fmt: skip
"""Right, ahead and up, by the keys that are held."""


def rays_of(bodies: tuple[Body, ...]) -> list[Ray]:
    """What rays meet of each body that is shown."""

    def ray(body: Body) -> Callable[[Vector, Vector, float], Hit | None]:
        def look(origin: Vector, way: Vector, reach: float) -> Hit | None:
            hit = body.index.ray(body.corners.vertex, body.vertices["position"], body.own(origin), way, reach)
            if hit is None:
                return None
            a, b, c = body.vertices["position"][body.corners.triangles[hit.triangle]].astype(np.float64)
            normal = np.cross(b - a, c - a)
            return hit.distance, normal / max(float(np.linalg.norm(normal)), 1e-30)

        return look

    return [ray(body) for body in bodies if body.shown]


class WalkTool(Controller):
    """A press on the ground stands one there; W, S, A, D or the arrows go, a drag looks around, Shift runs."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self.walker: Walker | None = None
        self._keys: set[int] = set()
        self._last: QPointF | None = None
        self._drag = 0.0
        self._then = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(TICK)
        self._timer.timeout.connect(self._go)
        session.tool_changed.connect(self._leave)
        session.replaced.connect(self._leave)

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._last is not None

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        self._last, self._drag = at, 0.0
        return True

    def move(self, at: QPointF) -> None:
        """Look around."""
        if self._last is None:
            return
        step, self._last = at - self._last, at
        self._drag += abs(step.x()) + abs(step.y())
        camera = self.hand.view.camera
        self._look(camera.turned(-step.x() * TURN, step.y() * TURN, camera.eye))

    def release(self) -> None:
        """A press without a drag stands one there."""
        at, self._last = self._last, None
        if at is None or self._drag > 3.0:
            return
        found = [
            (hit.distance, hit.position)
            for body in self.session.project.bodies
            if body.shown and (hit := body.ray(*self.hand.ray(at))) is not None
            and self.hand.view.inside.shows(hit.position)
        ]  # fmt: skip
        if not found:
            return
        walker = stand(self._rays(), min(found, key=lambda hit: hit[0])[1], number(self.session.walk, "eyes"))
        if walker is None:
            self.session.noticed.emit("There is no room to stand upright here; press somewhere else.")
            return
        self.walker = walker
        camera = self.hand.view.camera
        # level, in the direction that was looked in before
        turned = replace(camera, distance=BEFORE, altitude=math.radians(3.0), target=np.zeros(3))
        self._look(replace(turned, target=walker.eye - turned.back * BEFORE))

    def key(self, key: int, down: bool) -> bool:
        """See `Controller.key`."""
        if key not in WAYS:
            return False
        if down:
            self._keys.add(key)
            if not self._timer.isActive():
                self._then = time.monotonic()
                self._timer.start()
        else:
            self._keys.discard(key)
        return True

    def wants(self, key: int) -> bool:
        """See `Controller.wants`."""
        return key in WAYS

    def let_go(self) -> None:
        """See `Controller.let_go`."""
        self._keys.clear()

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        if self.walker is None:
            marks.loose = self.hand.pointer

    def go(self, seconds: float) -> None:
        """Go on for so long with the keys that are held."""
        right, ahead, up = np.sum([WAYS[Qt.Key(key)] for key in self._keys] or [(0.0, 0.0, 0.0)], axis=0).tolist()
        if not (right or ahead or up):
            return
        camera = self.hand.view.camera
        length = (
            seconds * number(self.session.walk, "speed") * (FAST if holds(Qt.KeyboardModifier.ShiftModifier) else 1.0)
        )
        if self.session.walk["flies"] or self.walker is None:
            way = camera.right * right - camera.back * ahead + np.array([0.0, up, 0.0])
            way /= max(float(np.linalg.norm(way)), 1e-9)
            self.walker = None
            self._look(replace(camera, target=camera.target + way * length))
            return
        level = np.array([-camera.back[0], 0.0, -camera.back[2]])
        level /= max(float(np.linalg.norm(level)), 1e-9)
        after = walked(self._rays(), self.walker, camera.right * right + level * ahead, length)
        shift = after.eye - self.walker.eye
        self.walker = after
        self._look(replace(camera, target=camera.target + shift))

    def _go(self) -> None:
        if not self._keys:
            self._timer.stop()
            return
        now = time.monotonic()
        self.go(min(now - self._then, LONGEST))
        self._then = now

    def _look(self, camera: Camera) -> None:
        self.hand.look(camera)

    def _rays(self) -> list[Ray]:
        return rays_of(self.session.project.bodies)

    def _leave(self) -> None:
        # one stays where one stood
        if self.session.tool.kind != "walk":
            self.walker = None
            self._keys.clear()
            self._timer.stop()
