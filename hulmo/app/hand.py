"""The hand on the canvas: tells tools and view of pointer and keys, whichever they are."""

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, Qt, QTimer, pyqtSignal

from hulmo.app.navigation import Gesture, Navigation, keyed, wheeled
from hulmo.app.overlay import Overlay
from hulmo.app.session import Session
from hulmo.app.tools import CONTROLLERS, ONCE
from hulmo.app.tools.brush import SIZE_KEY, BrushTool
from hulmo.app.tools.by_hand import ByHandTool
from hulmo.app.tools.controller import FULL, Controller, Touch, View, holds
from hulmo.app.tools.section import SectionHandle
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.render.camera import Camera

Vector = NDArray[np.float64]

Kind = TypeVar("Kind", bound=Controller)


class Hand(QObject):
    """Knows where the pointer is and what is under it; a press goes to the first tool that takes it, or else turns the view.

    Signals
    -------
    pointed : object
        The SurfacePoint under the pointer, or None.
    """

    pointed = pyqtSignal(object)

    def __init__(self, session: Session, view: View, overlay: Overlay, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._overlay = session, overlay
        self.view = view
        self.pointer: QPointF | None = None
        self.hit: SurfacePoint | None = None
        self.beside: tuple[Body, SurfacePoint] | None = None
        self.pen = FULL
        self.section = SectionHandle(session, self, self)
        self._none = Controller(session, self, self)
        self._tools = {kind: made(session, self, self) for kind, made in (CONTROLLERS | ONCE).items()}
        self._taken: Controller | None = None
        self._navigation = Navigation()
        self._held: set[int] = set()
        self._behind = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.point)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.bore.changed.connect(self.refresh)
        session.chooser.changed.connect(self.refresh)
        session.parts.changed.connect(self.refresh)
        session.lines.changed.connect(self.refresh)
        session.changed.connect(self._grips_move)

    def _grips_move(self) -> None:
        if self._overlay.marks.grips or isinstance(self.tool, ByHandTool):
            self.refresh()

    @property
    def tool(self) -> Controller:
        """The tool in hand, as far as the canvas is concerned."""
        return self._tools.get(self._session.tool.kind, self._none)

    def tool_of(self, kind: type[Kind]) -> Kind:
        """The tool of a class."""
        return next(tool for tool in self._tools.values() if isinstance(tool, kind))

    @property
    def turning(self) -> bool:
        """Whether a drag of the view is going on."""
        return self._navigation.active

    def down(self, key: int) -> bool:
        """Whether a key that is held with drags is down."""
        return key in self._held

    def press(self, at: QPointF, button: Qt.MouseButton, pen: Touch = FULL) -> None:
        """Begin what the tool in hand does, or a view."""
        self.pointer, self.pen = at, pen
        if self._session.history.stroking or self._navigation.active:
            return
        if button == Qt.MouseButton.MiddleButton:
            self._navigation.begin(Gesture.MOVE, at, self._pivot(at))
        elif button == Qt.MouseButton.RightButton or not self._takes(at):
            self._navigation.begin(Gesture.TURN, at, self._pivot(at))
        self.refresh()

    def move(self, at: QPointF, pen: Touch = FULL) -> None:
        """Go on with what was begun, or point."""
        self.pen = pen
        if self._taken is None or not self._taken.stays:
            self.pointer = at
        if self._taken is not None and self._taken.held:
            self._taken.move(at)
            if self._session.history.stroking:
                self._behind = True
                self.view.request()
        elif self._navigation.active:
            self.view.camera = self._navigation.drag(self.view.camera, at, self.view.height())
            self.view.redraw()
        elif not self._soon.isActive():
            self._soon.start()  # ring and reading once for all that came in, not for every event

    def release(self, button: Qt.MouseButton) -> None:
        """End what was begun."""
        if self._taken is not None and self._taken.held:
            if button == Qt.MouseButton.LeftButton:
                self._taken.release()
        elif self._navigation.active:
            self._navigation.end()
            self.look(self.view.camera)

    def wheel(self, at: QPointF, notches: float) -> None:
        """Zoom to the pointer."""
        self.pointer = at
        self.look(wheeled(self.view.camera, notches, self._pivot(at)))

    def leave(self) -> None:
        """Nothing is pointed at."""
        self.pointer = None
        self.point()

    def key(self, key: int, down: bool) -> bool:
        """A key went down or up; False when the hand has no use for it."""
        if self.tool.key(key, down):
            return True
        if key in (Qt.Key.Key_Space, SIZE_KEY):
            self._held.add(key) if down else self._held.discard(key)
        elif key in (Qt.Key.Key_Shift, Qt.Key.Key_Control):
            self.refresh()
        else:
            camera = keyed(self.view.camera, key, holds(Qt.KeyboardModifier.ControlModifier)) if down else None
            if camera is None:
                return False
            self.look(camera)
        return True

    def let_go(self) -> None:
        """Held keys count as let go (the canvas lost the keyboard)."""
        self._held.clear()
        self.tool.let_go()

    def look(self, camera: Camera) -> None:
        """Look from somewhere else."""
        self.view.camera = camera
        self.point()
        self.view.redraw()

    def forget(self) -> None:
        """The surface under the pointer is another one."""
        self.hit, self.beside = None, None

    def point(self) -> None:
        """Find what is under the pointer, and tell."""
        body = self._session.body
        if body is None or not body.shown or self.pointer is None or self._session.busy:
            self.hit, self.beside = None, None
        else:
            self._look_at(body, self.pointer)
        self.pointed.emit(self.hit)
        self.refresh()

    def catch_up(self) -> None:
        """Point once for all that came in since the last picture."""
        if self._behind:
            self._behind = False
            self.point()

    def refresh(self) -> None:
        """Show marks where they belong."""
        marks, body = self._overlay.marks, self._session.body
        if self.hit is not None and (body is None or not body.corners.holds(self.hit.triangle)):
            self.hit = None  # the triangle is gone from under the pointer
        if self.beside is not None and not self.beside[0].corners.holds(self.beside[1].triangle):
            self.beside = None
        marks.ring, marks.loose, marks.twins, marks.outline, marks.path = None, None, [], [], np.empty((0, 3))
        marks.grips, marks.lines = [], []
        self.section.mark(marks)
        self.tool.mark(marks)
        if self._session.once and self.pointer is not None:
            marks.ring, marks.twins = None, []
            self._tools[self._session.once].mark(marks)
        self._overlay.refresh()

    def ray(self, at: QPointF) -> tuple[Vector, Vector]:
        """See `Pointing.ray`."""
        return self.view.camera.ray(at.x(), at.y(), self.view.width(), self.view.height())

    def find(self, at: QPointF) -> SurfacePoint | None:
        """See `Pointing.find`."""
        body = self._session.body
        self.hit, self.beside = None, None
        if body is not None and body.shown:
            self._look_at(body, at)
        return self.hit

    def _look_at(self, body: Body, at: QPointF) -> None:
        # what lies foremost of the active body and of others that the tool works on
        self.hit, self.beside = self._seen(body, at), None
        eye = self.ray(at)[0]
        nearest = np.inf if self.hit is None else float(np.linalg.norm(self.hit.position - eye))
        for other in self.tool.others:
            hit = self._seen(other, at)
            away = np.inf if hit is None else float(np.linalg.norm(hit.position - eye))
            if hit is not None and away < nearest:
                nearest, self.hit, self.beside = away, None, (other, hit)

    def change_radius(self, factor: float) -> None:
        """Make the brush in hand larger or smaller."""
        if isinstance(self.tool, BrushTool):
            self.tool.change_radius(factor)

    def change_strength(self, step: float) -> None:
        """Make the brush in hand stronger or weaker, in percent."""
        if isinstance(self.tool, BrushTool):
            self.tool.change_strength(step)

    def _takes(self, at: QPointF) -> bool:
        # whether a tool takes a press of the left button: what waits for one, what stands in the scene, what is in hand
        self._taken = None
        if self.down(Qt.Key.Key_Space):
            return False
        once = self._tools.get(self._session.once) if self._session.once else None
        for tool in (once,) if once is not None else (self.section, self.tool):
            self._taken = tool
            if tool.press(at):
                return True
        self._taken = None
        return False

    def _seen(self, body: Body, at: QPointF) -> SurfacePoint | None:
        origin, direction = self.ray(at)
        hit = body.ray(origin, direction)
        while hit is not None and not self.view.inside.shows(hit.position):
            # cut away by the section plane: look on behind it
            origin = hit.position + direction * (1e-4 * hit.distance / float(np.linalg.norm(direction)))
            hit = body.ray(origin, direction)
        if hit is not None and self.view.inside.section is not None:
            a, b, c = body.vertices["position"][body.corners.triangles[hit.triangle]].astype(np.float64)
            if np.cross(b - a, c - a) @ direction > 0:
                return None  # the inside of the solid: a cap is drawn there
        return hit

    def _pivot(self, at: QPointF) -> Vector:
        body = self._session.body
        hit = None if body is None or self._session.busy else self._seen(body, at)
        return self.view.camera.target if hit is None else hit.position
