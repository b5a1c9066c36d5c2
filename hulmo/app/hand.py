"""The hand on the canvas: strokes, views, and brush size, by mouse and held keys."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication

from hulmo.app.brush_ring import brush_ring, layer_takes, twin_rims
from hulmo.app.grips import Grips
from hulmo.app.navigation import Gesture, Navigation, keyed, wheeled
from hulmo.app.overlay import Overlay
from hulmo.app.plain_words import plain_words
from hulmo.app.session import WAIT, Session
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import PlaceFigure, Stroke
from hulmo.core.errors import HulmoError
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import FORM
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.brush import Brush
from hulmo.core.setting import Number, Values, number
from hulmo.render.camera import Camera
from hulmo.render.inside import Inside

Vector = NDArray[np.float64]

BEYOND = 1e7
"""Metres at which there is nothing any more."""

FLOW = 50
"""Milliseconds between two dabs of a brush that flows at rest."""


@dataclass(frozen=True)
class Touch:
    """How a pen touches: pressure 0 to 1, lean 0 (upright) to 90 degrees (flat)."""

    pressure: float = 1.0
    lean: float = 0.0


FULL = Touch()
"""The touch of a mouse."""

SIZE_KEY = Qt.Key.Key_B
"""Held with a drag: across sets the radius, up and down the strength."""

VIEW_SHARES = (("radius_by", "view_share", "radius"), ("edge_by", "edge_share", "edge"))
"""Lengths that may be given as a share of the view: what says so, the share in percent, and the length in metres."""


class View(Protocol):
    """What the hand needs of the canvas."""

    camera: Camera
    inside: Inside

    def width(self) -> int:
        """Pixels."""

    def height(self) -> int:
        """Pixels."""

    def redraw(self) -> None:
        """Draw soon."""

    def request(self) -> None:
        """Have the next picture shown, whether it is another one or not: ring and reading follow it."""


class Hand(QObject):
    """Turns pointer and keys into strokes and views.

    Signals
    -------
    pointed : object
        The SurfacePoint under the pointer, or None.
    filled : object
        The SurfacePoint that was pressed with Fill in hand.
    """

    pointed = pyqtSignal(object)
    filled = pyqtSignal(object)

    def __init__(self, session: Session, view: View, overlay: Overlay, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._view = view
        self._overlay = overlay
        self._navigation = Navigation()
        self.grips = Grips(session.bore, view, self)
        self._held: set[int] = set()
        self._sizing: tuple[QPointF, float, float] | None = None
        self._pen = FULL
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.point)
        self._flow = QTimer(self)
        self._flow.setInterval(FLOW)
        self._flow.timeout.connect(self._go_on)
        self._behind = False
        self._pointer: QPointF | None = None
        self._hit: SurfacePoint | None = None
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.bore.changed.connect(self.refresh)
        session.chooser.changed.connect(self.refresh)

    @property
    def brush(self) -> Brush | None:
        """The brush in hand; with Shift held, the one that smooths instead of any other of the Sculpt stage."""
        tool = self._session.tool
        if tool.kind != "brush":
            return None
        brush = BRUSHES[tool.name]
        return BRUSHES["smooth"] if _holds(Qt.KeyboardModifier.ShiftModifier) and brush.stage == "sculpt" else brush

    def press(self, at: QPointF, button: Qt.MouseButton, pen: Touch = FULL) -> None:
        """Begin a stroke, a view, or a change of brush size."""
        self._pointer, self._pen = at, pen
        if self._session.history.stroking or self._navigation.active:
            return
        left = button == Qt.MouseButton.LeftButton
        boring = left and self._session.tool.kind == "bore" and Qt.Key.Key_Space not in self._held
        self.grips.boring = boring
        aimed = left and Qt.Key.Key_Space not in self._held and not self._session.busy
        if aimed and self._session.once:
            self._press_once(at)
        elif aimed and self._session.tool.kind == "fill" and self._find(at) is not None:
            self.filled.emit(self._hit)
        elif aimed and self._session.tool.kind == "vertices" and self._session.body is not None:
            self._session.chooser.press(self._session.body, at, self._find(at), _way())
        elif left and not self._session.busy and self.grips.press(at):
            pass  # a handle was taken
        elif boring and self._session.body is not None and not self._session.busy:
            self._session.bore.press(self._session.body, *self._ray(at), self._on_page(at))
        elif button == Qt.MouseButton.RightButton or (left and (Qt.Key.Key_Space in self._held or self.brush is None)):
            self._navigation.begin(Gesture.TURN, at, self._pivot(at))
        elif button == Qt.MouseButton.MiddleButton:
            self._navigation.begin(Gesture.MOVE, at, self._pivot(at))
        elif left and SIZE_KEY in self._held:
            values = self._session.brushes.of(self._session.tool.name)
            self._sizing = (at, number(values, "radius"), number({"strength": 0.0, **values}, "strength"))
        elif left:
            self._begin_stroke(at)
        self.refresh()

    def move(self, at: QPointF, pen: Touch = FULL) -> None:
        """Go on with what was begun, or point."""
        self._pen = pen
        if self._sizing is not None:
            self._size(at)
            return
        self._pointer = at
        if self._session.chooser.held and self._session.body is not None:
            self._session.chooser.move(self._session.body, at, self._find(at))
            return
        if self.grips.held:
            self.grips.move(at, _holds(Qt.KeyboardModifier.ControlModifier), _holds(Qt.KeyboardModifier.ShiftModifier))
            return
        if self._navigation.active:
            self._view.camera = self._navigation.drag(self._view.camera, at, self._view.height())
            self._view.redraw()
            return
        if self._session.history.stroking:
            self._sample(at)
            self._behind = True
            self._view.request()
        elif not self._soon.isActive():
            self._soon.start()  # ring and reading once for all that came in, not for every event

    def release(self, button: Qt.MouseButton) -> None:
        """End what was begun."""
        if self._session.chooser.held and self._session.body is not None:
            view = self._view
            self._session.chooser.release(self._session.body, view.camera, view.width(), view.height())
        elif self._sizing is not None:
            self._sizing = None
        elif self.grips.held:
            self.grips.release()
        elif self._navigation.active:
            self._navigation.end()
            self.look(self._view.camera)
        elif self._session.history.stroking and button == Qt.MouseButton.LeftButton:
            self._flow.stop()
            self._session.history.finish()
            self.point()

    def wheel(self, at: QPointF, notches: float) -> None:
        """Zoom to the pointer."""
        self._pointer = at
        self.look(wheeled(self._view.camera, notches, self._pivot(at)))

    def leave(self) -> None:
        """Nothing is pointed at."""
        self._pointer = None
        self.point()

    def key(self, key: int, down: bool) -> bool:
        """A key went down or up; False when the hand has no use for it."""
        if key in (Qt.Key.Key_Space, SIZE_KEY):
            self._held.add(key) if down else self._held.discard(key)
        elif key in (Qt.Key.Key_Shift, Qt.Key.Key_Control):
            self.refresh()
        else:
            camera = keyed(self._view.camera, key, _holds(Qt.KeyboardModifier.ControlModifier)) if down else None
            if camera is None:
                return False
            self.look(camera)
        return True

    def let_go(self) -> None:
        """Held keys count as let go (the canvas lost the keyboard)."""
        self._held.clear()

    def look(self, camera: Camera) -> None:
        """Look from somewhere else."""
        self._view.camera = camera
        self.point()
        self._view.redraw()

    def forget(self) -> None:
        """The surface under the pointer is another one."""
        self._hit = None

    def point(self) -> None:
        """Find what is under the pointer, and tell."""
        body = self._session.body
        if body is None or not body.shown or self._pointer is None or self._session.busy:
            self._hit = None
        else:
            self._hit = self._seen(body, self._pointer)
        self.pointed.emit(self._hit)
        self.refresh()

    def catch_up(self) -> None:
        """Point once for all that came in since the last picture."""
        if self._behind:
            self._behind = False
            self.point()

    def refresh(self) -> None:
        """Show the ring where it belongs."""
        marks, brush, body = self._overlay.marks, self.brush, self._session.body
        if self._hit is not None and (body is None or not body.corners.holds(self._hit.triangle)):
            self._hit = None  # the triangle is gone from under the pointer
        marks.ring, marks.loose, marks.twins = None, None, []
        marks.outline = self._session.chooser.outline
        marks.path = np.array(self._session.bore.points).reshape(-1, 3)
        handle = self.grips.handle
        marks.section = None if self.grips.section is None or handle is None else (self.grips.section[1], handle)
        if self._session.once and self._pointer is not None:
            marks.loose = self._pointer
        elif (
            brush is not None
            and body is not None
            and body.shown
            and self._pointer is not None
            and not self._navigation.active
        ):
            if self._hit is None:
                marks.loose = self._pointer
            else:
                inverted = _holds(Qt.KeyboardModifier.ControlModifier)
                values, ray = self._values(brush), self._ray(self._pointer)
                hasty = self._session.history.stroking
                marks.ring = brush_ring(body, brush, values, self._hit, inverted, ray[1], hasty)
                if brush.shapes and not layer_takes(body, self._session.layer):
                    marks.ring.works = False
                marks.twins = twin_rims(body, values, ray)
        self._overlay.refresh()

    def pick(self) -> None:
        """Take the ground that lies most under the pointer in hand; with nothing there, at the next press."""
        hit, body = self._hit, self._session.body
        if hit is None or body is None:
            self._session.do_once("pick")
            return
        rows = body.corners.vertex[3 * hit.triangle : 3 * hit.triangle + 3]
        shares = hit.weights @ weights_of(body, len(self._session.project.grounds))[rows]
        self._session.choose_ground(int(np.argmax(shares)))
        self._session.do_once("")

    def change_radius(self, factor: float) -> None:
        """Make the brush in hand larger or smaller."""
        tool = self._session.tool
        by_view = tool.kind == "brush" and self._session.brushes.of(tool.name)["radius_by"] == "view"
        self._set("view_share" if by_view else "radius", lambda value: _tidy(value * factor))

    def change_strength(self, step: float) -> None:
        """Make the brush in hand stronger or weaker, in percent."""
        self._set("strength", lambda value: value + step)

    def _find(self, at: QPointF) -> SurfacePoint | None:
        body = self._session.body
        self._hit = None if body is None or not body.shown else self._seen(body, at)
        return self._hit

    def _press_once(self, at: QPointF) -> None:
        hit = self._find(at)
        if hit is None:
            self._session.do_once("")
        elif self._session.once == "pick":
            self.pick()
        else:
            self._session.do_once("")
            x, y, z = (float(value) for value in hit.position)
            self._session.do(PlaceFigure((x, y, z)))

    def _values(self, brush: Brush) -> Values:
        values = dict(self._session.brushes.of(brush.name))
        if brush.name != self._session.tool.name:
            chosen = self._session.brushes.of(self._session.tool.name)
            values.update({name: chosen[name] for name in ("radius", "radius_by", "view_share")})
        if self._hit is not None:
            away = float((self._view.camera.eye - self._hit.position) @ self._view.camera.back)
            metres = self._view.camera.metres_per_pixel(max(away, 1e-3), self._view.height()) * self._view.height()
            for by, share, name in VIEW_SHARES:
                if values.get(by) == "view":
                    setting = next(entry for entry in brush.all_settings if entry.name == name)
                    assert isinstance(setting, Number)
                    wanted = _tidy(metres * number(values, share) / 100)
                    values[name] = min(max(wanted, setting.low), setting.high)
        values.update({by: "metres" for by, _, _ in VIEW_SHARES if by in values})
        return values

    def _ray(self, at: QPointF) -> tuple[Vector, Vector]:
        return self._view.camera.ray(at.x(), at.y(), self._view.width(), self._view.height())

    def _seen(self, body: Body, at: QPointF) -> SurfacePoint | None:
        origin, direction = self._ray(at)
        hit = body.ray(origin, direction)
        while hit is not None and not self._view.inside.shows(hit.position):
            # cut away by the section plane: look on behind it
            origin = hit.position + direction * (1e-4 * hit.distance / float(np.linalg.norm(direction)))
            hit = body.ray(origin, direction)
        if hit is not None and self._view.inside.section is not None:
            a, b, c = body.vertices["position"][body.corners.triangles[hit.triangle]].astype(np.float64)
            if np.cross(b - a, c - a) @ direction > 0:
                return None  # the inside of the solid: a cap is drawn there
        return hit

    def _on_page(self, at: QPointF) -> Vector | None:
        # where a ray meets the page of the section: the inside of the solid, laid open
        body, section = self._session.body, self._view.inside.section
        if body is None or section is None or self._seen(body, at) is not None:
            return None
        origin, direction = self._ray(at)
        normal = np.array(section[:3])
        along = float(normal @ direction)
        if abs(along) < 1e-9:
            return None
        point = origin + direction * ((section[3] - float(normal @ origin)) / along)
        return point if body.ray(point, direction) is not None else None

    def _pivot(self, at: QPointF) -> Vector:
        body = self._session.body
        hit = None if body is None or self._session.busy else self._seen(body, at)
        return self._view.camera.target if hit is None else hit.position

    def _set(self, name: str, change: Callable[[float], float]) -> None:
        tool = self._session.tool
        if tool.kind != "brush":
            return
        setting = next((entry for entry in BRUSHES[tool.name].all_settings if entry.name == name), None)
        if not isinstance(setting, Number):
            return  # this brush has no such thing
        value = change(number(self._session.brushes.of(tool.name), name))
        self._session.brushes.set(tool.name, name, float(min(max(value, setting.low), setting.high)))

    def _size(self, at: QPointF) -> None:
        assert self._sizing is not None
        start, radius, strength = self._sizing
        step = at - start
        self._set("radius", lambda _: _tidy(radius * math.exp(step.x() / 120)))
        self._set("strength", lambda _: round(strength - step.y() / 3))

    def _begin_stroke(self, at: QPointF) -> None:
        brush, body = self.brush, self._session.body
        if brush is None or body is None:
            return
        if self._session.busy:
            self._session.noticed.emit(WAIT)
            return
        ground = self._session.project.grounds[self._session.ground].name if brush.needs_ground else ""
        invert = _holds(Qt.KeyboardModifier.ControlModifier) and bool(brush.inverse)
        layer = self._session.layer if brush.shapes else FORM
        start = Stroke(body.name, brush.name, (), dict(self._values(brush)), ground, invert, layer)
        self._session.rules.settle()
        try:
            self._session.history.begin(start)
        except HulmoError as error:
            self._session.noticed.emit(plain_words(str(error)))
            return
        self._sample(at)
        if start.settings.get("flow"):
            self._flow.start()

    def _sample(self, at: QPointF) -> None:
        origin, direction = self._ray(at)
        body = self._session.body
        if self._view.inside.section is not None and body is not None:
            hit = self._seen(body, at)
            unit = direction / float(np.linalg.norm(direction))
            # the stroke is laid on what is seen, whatever was cut away before it; from a cap it goes past everything
            origin = origin + unit * BEYOND if hit is None else hit.position - unit * 1e-3
        numbers = (*origin.tolist(), *direction.tolist())
        if self._pen is not FULL:
            numbers = (*numbers, self._pen.pressure, self._pen.lean)
        self._session.history.sample(numbers)

    def _go_on(self) -> None:
        # a brush that flows goes on while the pointer rests
        if self._session.history.stroking and self._pointer is not None:
            self._sample(self._pointer)
        else:
            self._flow.stop()


def _holds(key: Qt.KeyboardModifier) -> bool:
    return bool(QApplication.keyboardModifiers() & key)


def _way() -> str:
    if _holds(Qt.KeyboardModifier.ControlModifier):
        return "take"
    return "add" if _holds(Qt.KeyboardModifier.ShiftModifier) else "set"


def _tidy(value: float) -> float:
    return float(f"{value:.3g}")
