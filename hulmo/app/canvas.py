"""The canvas: the scene, and the hand on it."""

import math

import moderngl
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCursor, QFocusEvent, QKeyEvent, QMouseEvent, QResizeEvent, QWheelEvent
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QWidget

from hulmo.app.navigation import Gesture, Navigation, keyed, wheeled
from hulmo.app.overlay import Overlay, Ring
from hulmo.app.picture import Picture
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import Stroke
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.ring import draped_ring
from hulmo.core.setting import Values, number
from hulmo.render.camera import Camera
from hulmo.render.looks import LOOKS
from hulmo.render.renderer import NOTHING, Paper, scene_bounds

Vector = NDArray[np.float64]

REST = 160
"""Milliseconds without movement after which the full picture is drawn."""

SIZE_KEY = Qt.Key.Key_B
"""Held with a drag: across sets the radius, up and down the strength."""


class Canvas(QOpenGLWidget):
    """Draws the project and turns mouse and keys into strokes and views.

    Signals
    -------
    pointed : object
        The SurfacePoint under the pointer, or None.
    framed
        A picture was put on the screen.
    """

    pointed = pyqtSignal(object)
    framed = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 240)
        self.setAccessibleName("Canvas")
        self.setAccessibleDescription(
            "Left drag uses the brush. Right drag turns the view, middle drag moves it, the wheel zooms, Home frames all."
        )
        self.look = "lit"
        self.camera = Camera.framing(NOTHING)
        self.picture: Picture | None = None
        self.overlay = Overlay(self)
        self._session = session
        self._paper = _paper(theme)
        self._navigation = Navigation()
        self._space = False
        self._sizing: tuple[QPointF, float, float] | None = None
        self._size_key = False
        self._pointer: QPointF | None = None
        self._hit: SurfacePoint | None = None
        self._stale = True
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST)
        self._rest.timeout.connect(self._begin_full)
        self._going = QTimer(self)
        self._going.setInterval(0)
        self._going.timeout.connect(self._go_on)
        session.changed.connect(self._changed)
        session.replaced.connect(self._replaced)
        session.tool_changed.connect(self._refresh_marks)
        session.settings_changed.connect(self._refresh_marks)

    # drawing

    @property
    def resting(self) -> bool:
        """Whether the full picture of the present state is on the screen."""
        return not (self._stale or self._rest.isActive() or self._going.isActive())

    def set_theme(self, theme: Theme) -> None:
        """Another page behind looks without sky."""
        self._paper = _paper(theme)
        if self.picture is not None:
            self.picture.renderer.paper = self._paper
        self.redraw()

    def set_look(self, look: str) -> None:
        """Show the scene another way."""
        self.look = look
        self.redraw()

    def redraw(self) -> None:
        """Draw soon: at once what can be, in full when the hand rests."""
        self._stale = True
        self._going.stop()
        self._rest.start()
        self.update()

    def initializeGL(self) -> None:
        """Called by Qt once the context is there."""
        self.picture = Picture(moderngl.create_context(), self._session.project)
        self.picture.renderer.paper = self._paper

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Keep the overlay over all of it."""
        super().resizeEvent(event)
        self.overlay.resize(self.size())
        self._stale = True
        self._rest.start()

    def paintGL(self) -> None:
        """Called by Qt: a fresh picture when something changed, the last one otherwise."""
        if self.picture is None:
            return
        ratio = self.devicePixelRatioF()
        self.picture.resize((max(16, int(self.width() * ratio)), max(16, int(self.height() * ratio))))
        if self._stale:
            self._stale = False
            self._clip()
            if self.picture.quick(self.camera, self.look):
                self._rest.stop()
        target = self.picture.renderer.context.detect_framebuffer(self.defaultFramebufferObject())
        self.picture.copy(target)
        self.framed.emit()

    def frame_all(self) -> None:
        """Show all bodies."""
        bounds = scene_bounds(self._session.project)
        self.camera = Camera.framing(bounds, self.camera.bearing, self.camera.altitude)
        self._view_changed()

    def _begin_full(self) -> None:
        if self.picture is None or (self._session.history.stroking and self._session.busy):
            return
        self.makeCurrent()
        self._clip()
        self.picture.begin(self.camera, self.look)
        self._going.start()

    def _go_on(self) -> None:
        if self.picture is None:
            return
        self.makeCurrent()
        if self.picture.step():
            self._going.stop()
            self.update()

    def _clip(self) -> None:
        assert self.picture is not None
        bounds = self.picture.renderer.bounds()
        self.camera = self.camera.clipped(bounds)
        self.overlay.marks.camera = self.camera if self._session.project.bodies else None
        depth = float((self.camera.eye - bounds.centre) @ self.camera.back)
        self.overlay.marks.depth = max(depth, self.camera.near * 2)
        self.overlay.marks.dark = not LOOKS[self.look].sky and sum(self._paper.low) < 1.2
        hint = "Choose a base form on the left, then press Build."
        self.overlay.marks.hint = "" if self._session.project.bodies else hint
        self.overlay.update()

    # what the session says

    def _changed(self, change: Change) -> None:
        if self.picture is not None:
            self.picture.note(change)
        if "bodies" in change.fields:
            self._hit = None
            self.frame_all()
        if not self._session.history.stroking:
            self._point()
        self.redraw()

    def _replaced(self) -> None:
        self._hit = None
        if self.picture is not None:
            self.makeCurrent()
            self.picture.show(self._session.project)
        self.show_project()

    def show_project(self) -> None:
        """Look at the open project from its first viewpoint, or at all of it."""
        project = self._session.project
        if project.viewpoints:
            self.camera = Camera.from_viewpoint(project.viewpoints[0], scene_bounds(project))
        else:
            self.camera = Camera.framing(scene_bounds(project))
        self._view_changed()

    def _view_changed(self) -> None:
        self._point()
        self.redraw()

    # pointing

    @property
    def brush(self) -> Brush | None:
        """The brush in hand, with Shift held the one that smooths."""
        tool = self._session.tool
        if tool.kind != "brush":
            return None
        return BRUSHES["smooth"] if self._shift() and BRUSHES[tool.name].column == "position" else BRUSHES[tool.name]

    def _values(self, brush: Brush) -> Values:
        values = dict(self._session.brush_values(brush.name))
        if brush.name != self._session.tool.name:
            values["radius"] = self._session.brush_values(self._session.tool.name)["radius"]
        return values

    def _shift(self) -> bool:
        return bool(self._modifiers() & Qt.KeyboardModifier.ShiftModifier)

    def _control(self) -> bool:
        return bool(self._modifiers() & Qt.KeyboardModifier.ControlModifier)

    def _modifiers(self) -> Qt.KeyboardModifier:
        from PyQt6.QtWidgets import QApplication

        return QApplication.keyboardModifiers()

    def _ray(self, at: QPointF) -> tuple[Vector, Vector]:
        return self.camera.ray(at.x(), at.y(), self.width(), self.height())

    def _point(self) -> None:
        body = self._session.body
        if body is None or self._pointer is None or self._session.busy:
            self._hit = None
        else:
            self._hit = body.ray(*self._ray(self._pointer))
        self.pointed.emit(self._hit)
        self._refresh_marks()

    def _refresh_marks(self) -> None:
        marks, brush, body, hit = self.overlay.marks, self.brush, self._session.body, self._hit
        marks.ring, marks.loose = None, None
        if brush is not None and body is not None and self._pointer is not None and not self._navigation.active:
            if hit is None:
                marks.loose = self._pointer
            else:
                values = self._values(brush)
                radius, core = number(values, "radius"), number(values, "core") / 100
                normal = body.normal_at(hit)
                push = np.array([0.0, 1.0, 0.0]) if values.get("direction") == "up" else normal
                if self._control() and brush.inverse:
                    push = -push
                stalk = np.stack((hit.position, hit.position + push * radius * 0.45))
                empty = np.empty((0, 3))
                marks.ring = Ring(
                    draped_ring(body, hit.position, normal, radius),
                    draped_ring(body, hit.position, normal, radius * core, 32) if core > 0.02 else empty,
                    stalk if brush.column == "position" else empty,
                    f"{radius:.3g} m",
                    number(values, "strength") > 0,
                )
        self.overlay.update()

    def _pivot(self, at: QPointF) -> Vector:
        body = self._session.body
        hit = None if body is None else body.ray(*self._ray(at))
        return self.camera.target if hit is None else hit.position

    # the hand

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Begin a stroke, a view, or a change of brush size."""
        if event is None:
            return
        self._pointer = event.position()
        button = event.button()
        if self._session.history.stroking or self._navigation.active:
            return
        if button == Qt.MouseButton.RightButton or (
            button == Qt.MouseButton.LeftButton and (self._space or self._session.tool.kind != "brush")
        ):
            self._navigation.begin(Gesture.TURN, event.position(), self._pivot(event.position()))
        elif button == Qt.MouseButton.MiddleButton:
            self._navigation.begin(Gesture.MOVE, event.position(), self._pivot(event.position()))
        elif button == Qt.MouseButton.LeftButton and self._size_key and self.brush is not None:
            values = self._session.brush_values(self._session.tool.name)
            self._sizing = (event.position(), number(values, "radius"), number(values, "strength"))
        elif button == Qt.MouseButton.LeftButton:
            self._begin_stroke(event.position())
        self._refresh_marks()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Go on with what was begun, or point."""
        if event is None:
            return
        at = event.position()
        if self._sizing is not None:
            self._size(at)
            return
        self._pointer = at
        if self._navigation.active:
            self.camera = self._navigation.drag(self.camera, at, self.height())
            self.redraw()
            return
        if self._session.history.stroking:
            self._sample(at)
        self._point()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """End what was begun."""
        if self._sizing is not None:
            self._sizing = None
        elif self._navigation.active:
            self._navigation.end()
            self._view_changed()
        elif self._session.history.stroking and event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._session.history.finish()
            self._point()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Zoom to the pointer."""
        if event is None:
            return
        notches = event.angleDelta().y() / 120
        self._pointer = event.position()
        self.camera = wheeled(self.camera, notches, self._pivot(event.position()))
        self._view_changed()

    def leaveEvent(self, event: QEvent | None) -> None:
        """Nothing is pointed at."""
        self._pointer = None
        self._point()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Held keys are let go."""
        self._space = self._size_key = False
        super().focusOutEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrow keys and plus and minus move the view; Space and B are held with a drag."""
        if event is None:
            return
        if event.key() == Qt.Key.Key_Space:
            self._space = True
        elif event.key() == SIZE_KEY:
            self._size_key = True
        elif event.key() in (Qt.Key.Key_Shift, Qt.Key.Key_Control):
            self._refresh_marks()
        else:
            camera = keyed(self.camera, event.key())
            if camera is None:
                super().keyPressEvent(event)
                return
            self.camera = camera
            self._view_changed()

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        """Held keys are let go."""
        if event is None or event.isAutoRepeat():
            return
        if event.key() == Qt.Key.Key_Space:
            self._space = False
        elif event.key() == SIZE_KEY:
            self._size_key = False
        elif event.key() in (Qt.Key.Key_Shift, Qt.Key.Key_Control):
            self._refresh_marks()
        else:
            super().keyReleaseEvent(event)

    def change_radius(self, factor: float) -> None:
        """Make the brush in hand larger or smaller."""
        self._set("radius", lambda value: _tidy(value * factor))

    def change_strength(self, step: float) -> None:
        """Make the brush in hand stronger or weaker, in percent."""
        self._set("strength", lambda value: value + step)

    def _set(self, name: str, change: "object") -> None:
        tool = self._session.tool
        if tool.kind != "brush" or not callable(change):
            return
        setting = next(entry for entry in BRUSHES[tool.name].all_settings if entry.name == name)
        value = change(number(self._session.brush_values(tool.name), name))
        low, high = getattr(setting, "low"), getattr(setting, "high")  # noqa: B009  a Number by its name
        self._session.set_brush_value(tool.name, name, float(min(max(value, low), high)))

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
            self._session.noticed.emit("Please wait until the present work is done, or stop it.")
            return
        ground = self._session.project.grounds[self._session.ground].name if brush.needs_ground else ""
        invert = self._control() and bool(brush.inverse)
        try:
            self._session.history.begin(Stroke(body.name, brush.name, (), dict(self._values(brush)), ground, invert))
        except HulmoError as error:
            self._session.noticed.emit(str(error))
            return
        self._sample(at)

    def _sample(self, at: QPointF) -> None:
        origin, direction = self._ray(at)
        numbers = (*origin.tolist(), *direction.tolist())
        self._session.history.sample(numbers)


def _tidy(value: float) -> float:
    return float(f"{value:.3g}")


def _paper(theme: Theme) -> Paper:
    return Paper(theme.paper_high, theme.paper_low)


def pointer_cursor() -> QCursor:
    """The cursor over the canvas: small, so that the ring is what one sees."""
    return QCursor(Qt.CursorShape.CrossCursor)
