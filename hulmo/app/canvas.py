"""The canvas: when the scene is drawn, and from where it is seen. What the hand does there is in `hand.py`."""

import moderngl
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCursor, QFocusEvent, QImage, QKeyEvent, QMouseEvent, QResizeEvent, QTabletEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from hulmo.app.cards.inside_card import inside_of
from hulmo.app.glide import Glide
from hulmo.app.hand import Hand
from hulmo.app.key_cursor import PRESS, KeyCursor
from hulmo.app.levels_view import LevelsView
from hulmo.app.overlay import Overlay
from hulmo.app.pen import touch_of
from hulmo.app.picture import Picture
from hulmo.app.session import Session
from hulmo.app.sheet import make_sheet
from hulmo.app.shown_choice import ShownOver
from hulmo.app.theme import Theme
from hulmo.app.tools.by_hand import ByHandTool
from hulmo.core.deliver.pieces import Piece
from hulmo.core.edit import Change
from hulmo.core.objects.viewpoint import viewpoint_of
from hulmo.core.setting import Value, Values
from hulmo.render.camera import Camera
from hulmo.render.inside import Inside
from hulmo.render.light_meter import light_at, mean_exposure
from hulmo.render.looks import LOOKS, first_values, legend
from hulmo.render.part import Part
from hulmo.render.renderer import NOTHING, reach_of, scene_bounds
from hulmo.render.view import Paper

REST = 160
"""Milliseconds without movement after which the full picture is drawn."""

POSTPONED = 20
"""Times of `REST` that the first full picture of a project waits for its waters at the most."""

DARK = 1.2
"""A page whose red, green and blue sum to less wants pale marks."""


WITH_SIGNS = ("objects", "water", "light")
"""Kinds of tools for which signs show where things are that have no shape."""


class Canvas(QWidget):
    """Draws the project; hands mouse and keys to the hand.

    Signals
    -------
    framed
        A picture was put on the screen.
    """

    framed = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(QCursor(Qt.CursorShape.CrossCursor))
        self.setMinimumSize(320, 240)
        self.setAccessibleName("Canvas")
        self.setAccessibleDescription(
            "Left drag uses the brush. Right drag turns the view, middle drag moves it, the wheel zooms, Home shows all. "
            "By keys: arrows turn the view, with Ctrl they move it, plus and minus zoom. Return puts a pointer there that "
            "arrows then move and Return presses; Escape takes it away."
        )
        self.look = "lit"
        self.look_values = first_values()
        self.inside = Inside()
        self.camera = Camera.framing(NOTHING)
        self.picture: Picture | None = None
        self.sheet = make_sheet(self, self)
        self.overlay = Overlay(self)
        self.hand = Hand(session, self, self.overlay, self)
        self.key_cursor = KeyCursor(self.hand, self)
        self.key_cursor.moved.connect(self._key_cursor_moved)
        self.glide = Glide(self.hand.look, self)
        self._mouse_at = QPointF()
        self._session = session
        session.held = True
        self._paper = _paper(theme)
        self._stale = True
        self._due = True
        self._shown_ground = 0
        self._dotted = self._signed = False
        self.over = ShownOver(session)
        self.levels = LevelsView(self)
        self._told: list[str] = []
        self._postponed = 0
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST)
        self._rest.timeout.connect(self._begin_full)
        self._going = QTimer(self)
        self._going.setInterval(0)
        self._going.timeout.connect(self._go_on)
        session.changed.connect(self._changed)
        session.settings_changed.connect(self._hand_changed)
        session.tool_changed.connect(self._tool_changed)
        session.replaced.connect(self._replaced)
        session.parts.changed.connect(self._tool_changed)
        session.waters.found.connect(self.show_waters)

    @property
    def resting(self) -> bool:
        """Whether the full picture of the present state is on the screen."""
        return not (self.glide.going or self._stale or self._due or self._rest.isActive() or self._going.isActive())

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

    def set_look_value(self, look: str, name: str, value: Value) -> None:
        """Adjust a look."""
        self.look_values[look][name] = value
        self.redraw()

    def set_inside(self, values: Values) -> None:
        """See inside bodies by section plane and lamp; nothing of the kind for an empty dictionary."""
        bounds = scene_bounds(self._session.project)
        self.inside = inside_of(values, bounds.centre) if values else Inside()
        self.hand.section.show_section(values, self.inside, bounds)
        self.hand.refresh()
        if self.picture is not None:
            self.picture.renderer.inside = self.inside
        self.redraw()

    def mark(self, corners: NDArray[np.float64] | None) -> None:
        """Mark triangles, given by their (K, 3, 3) corners in metres; None for no marks."""
        if self.picture is not None:
            self.sheet.make_current()
            self.picture.renderer.mark(corners)
            self.picture.forget()
            self.redraw()

    def show_figures(self, ident: int, values: NDArray[np.float32] | None) -> None:
        """Have a figure of every triangle slot of a body for the look at them; None for none."""
        if self.picture is not None:
            self.sheet.make_current()
            self.picture.renderer.set_figures(ident, values)
            self.picture.forget()
            self.redraw()

    def show_waters(self) -> None:
        """Draw waters where they have been found to stand."""
        if self.picture is not None:
            self.sheet.make_current()
            self.picture.renderer.set_waters(self._session.waters.surfaces)
            self.picture.forget()
            self.redraw()

    def show_choice(self) -> None:
        """Draw what is chosen of the active body, and seams, while a tool that works on parts is in hand."""
        if self.picture is None:
            return
        shown = self.over.now(isinstance(self.hand.tool, ByHandTool))
        if shown is not None:
            self.sheet.make_current()
            self.picture.renderer.choose(shown.faces, shown.edges, shown.seams)
            self.picture.forget()
            self.redraw()

    def show_levels(self, pieces: list[Piece] | None) -> None:
        """Draw the levels of a delivery in place of the bodies, by distance; None for the bodies themselves."""
        if self.picture is None or (pieces is None and not self.levels.on):
            return
        self.sheet.make_current()
        project = self._session.project
        self.levels.end()
        self.picture.show(project if not pieces else self.levels.begin(project, pieces))
        self.show_waters()
        self.show_choice()
        self.redraw()

    def go_to(self, corners: NDArray[np.float64]) -> None:
        """Look at a triangle, given by its (3, 3) corners, from where it faces."""
        body = self._session.body
        a, b, c = corners.astype(np.float64)
        size = float(np.linalg.norm(corners - corners[[1, 2, 0]], axis=1).max())
        normal = np.cross(b - a, c - a)
        length = float(np.linalg.norm(normal))
        normal = normal / length if length > 1e-12 * size * size else np.array([0.0, 1.0, 0.0])
        point = (a + b + c) / 3
        bounds = scene_bounds(self._session.project)
        away = min(max(12.0 * size, 0.05 * bounds.radius), 2.0 * bounds.radius)
        hit = None if body is None else body.ray(point + normal * 1e-3 * away, normal)
        if hit is not None:  # stay on this side of the opposite wall
            away = min(away, 0.8 * hit.distance)
        self.hand.look(Camera.facing(point, normal, max(away, 2.0 * size, 1e-3), bounds))

    def redraw(self) -> None:
        """Draw soon: at once what can be, in full when the hand rests."""
        self.glide.moved(self.camera)
        self._stale = True
        self._going.stop()
        self._rest.start()
        self.request()

    def request(self) -> None:
        """Have what there is shown soon."""
        self._due = True
        self.sheet.request()

    def show_project(self) -> None:
        """Look at the open project from its first viewpoint, or at all of it."""
        project = self._session.project
        bounds = scene_bounds(project)
        if project.viewpoints:
            self.hand.look(Camera.from_viewpoint(project.viewpoints[0], bounds))
        else:
            self.hand.look(Camera.framing(bounds))

    def look_from(self, ident: int) -> None:
        """Fly to a viewpoint, by its number."""
        project = self._session.project
        entry = next(entry for entry in project.objects if entry.ident == ident)
        self.glide.go(self.camera, Camera.from_viewpoint(viewpoint_of(entry), scene_bounds(project)))

    def light_at(self, at: QPointF) -> tuple[float, float, float]:
        """Linear light, without exposure, of what is seen somewhere on the canvas."""
        assert self.picture is not None
        self.sheet.make_current()
        place = min(max(int(at.x()), 0), self.width() - 1), min(max(int(at.y()), 0), self.height() - 1)
        return light_at(self.picture.renderer, self.camera, (self.width(), self.height()), place)

    def mean_exposure(self) -> float:
        """Stops that bring the mean of what is seen to middle grey."""
        assert self.picture is not None
        self.sheet.make_current()
        return mean_exposure(self.picture.renderer, self.camera, self.width() / max(self.height(), 1))

    def frame_all(self) -> None:
        """Show all bodies."""
        bounds = scene_bounds(self._session.project)
        self.hand.look(Camera.framing(bounds, self.camera.bearing, self.camera.altitude))

    def begin(self, context: moderngl.Context) -> None:
        """Called by the sheet once the context is there."""
        self.picture = Picture(context, self._session.project)
        self.picture.renderer.paper = self._paper
        self.picture.renderer.look_values = self.look_values
        self.picture.renderer.inside = self.inside

    def release(self) -> None:
        """Free what is on the graphics card; nothing is drawn any more."""
        self._rest.stop()
        self._going.stop()
        self.picture = None
        self.sheet.release()

    def none(self, problem: str) -> None:
        """Called by the sheet when there is no context to be had."""
        self._session.held = False
        self._session.noticed.emit(
            f"This display offers no OpenGL 3.3 ({problem}), so nothing can be drawn. Update the graphics driver. "
            "The command line works without it."
        )

    def compose(self, size: tuple[int, int]) -> None:
        """Called by the sheet: a fresh picture when something changed, the last one otherwise."""
        if self.picture is None:
            return
        self.hand.catch_up()
        self.picture.resize(size)
        if self._stale:
            self._stale = False
            self._prepare()
            if self.picture.quick(self.camera, self.look):
                self._rest.stop()
            else:  # on a busy machine the full one may have been begun before this was drawn, and is given up by it
                self._going.stop()
                self._rest.start()

    def copy(self, target: moderngl.Framebuffer, kept: bool) -> Part | None:
        """Called by the sheet: put the picture there."""
        return Part(0, 0, 0, 0) if self.picture is None else self.picture.copy(target, kept)

    def done(self) -> None:
        """Called by the sheet: the picture is on the screen."""
        self._due = self._session.held = False
        self.framed.emit()

    def grab_picture(self) -> QImage:
        """What is on the screen, marks left out."""
        return self.sheet.grab_picture()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Keep sheet and overlay over all of it."""
        super().resizeEvent(event)
        self.sheet.resize(self.size())
        self.overlay.resize(self.size())
        self.redraw()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Hand it on."""
        if event is not None:
            self.key_cursor.put_away()
            self.hand.press(event.position(), event.button())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Hand it on."""
        if event is None or (self.key_cursor.at is not None and event.position() == self._mouse_at):
            return  # the mouse lies still, and something moved under it
        self._mouse_at = event.position()
        self.key_cursor.put_away()
        self.hand.move(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Hand it on."""
        if event is not None:
            self.hand.release(event.button())

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        """Hand it on, with pressure and lean."""
        if event is None:
            return
        pen = touch_of(event)
        if event.type() == QEvent.Type.TabletPress:
            self.hand.press(event.position(), event.button(), pen)
        elif event.type() == QEvent.Type.TabletRelease:
            self.hand.release(event.button())
        else:
            self.hand.move(event.position(), pen)
        event.accept()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Hand it on."""
        if event is not None:
            self.hand.wheel(event.position(), event.angleDelta().y() / 120)

    def leaveEvent(self, event: QEvent | None) -> None:
        """Hand it on."""
        if self.key_cursor.at is None:
            self.hand.leave()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Hand it on."""
        self.key_cursor.put_away()
        self.hand.let_go()
        super().focusOutEvent(event)

    def event(self, event: QEvent | None) -> bool:
        """Keys that the tool in hand wants for itself are no shortcuts."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and not event.modifiers() & Qt.KeyboardModifier.ControlModifier
            and self.hand.tool.wants(event.key())
        ):
            event.accept()
            return True
        return bool(super().event(event))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Hand it on."""
        if event is not None and not self._cursor_key(event, True) and not self.hand.key(event.key(), True):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        """Hand it on."""
        if event is None or self._cursor_key(event, False):
            return
        if event.isAutoRepeat() or not self.hand.key(event.key(), False):
            super().keyReleaseEvent(event)

    def _cursor_key(self, event: QKeyEvent, down: bool) -> bool:
        if event.isAutoRepeat() and event.key() in PRESS:
            return True  # still held
        return self.key_cursor.key(event.key(), event.modifiers(), down, self.width(), self.height())

    def _key_cursor_moved(self) -> None:
        self.overlay.marks.cursor = self.key_cursor.at
        self.overlay.update()

    def _begin_full(self) -> None:
        if self.picture is None:
            return
        if self._postponed < POSTPONED and self._session.waters.running:
            # of a project just opened: waters will be seen in it, and are found sooner with nothing drawn meanwhile
            self._postponed += 1
            self._rest.start()
            return
        self._postponed = POSTPONED
        self.sheet.make_current()
        self._prepare()
        stroking = self._session.history.stroking
        self.picture.begin(self.camera, self.look, stroking)
        if stroking:
            self._rest.start()  # a stroke that ends without a change tells nobody
        self._going.start()

    def _go_on(self) -> None:
        if self.picture is None:
            return
        self.sheet.make_current()
        if self.picture.step():
            self._going.stop()
            self._tell_problems(self.picture.renderer.problems)
            for body in self._session.project.bodies:
                _ = body.index  # built before the pointer asks for what lies under it
            self.request()
        elif self.picture.fresh:
            self.request()

    def _prepare(self) -> None:
        assert self.picture is not None
        change = self.levels.pick(self.camera.eye)
        if change is not None:
            self.picture.note(change)
        bounds = self.picture.renderer.bounds()
        self.camera = self.camera.clipped(reach_of(bounds, self._session.project.objects, True))
        marks, there = self.overlay.marks, bool(self._session.project.bodies)
        marks.camera = self.camera if there else None
        marks.depth = max(float((self.camera.eye - bounds.centre) @ self.camera.back), self.camera.near * 2)
        marks.dark = not LOOKS[self.look].sky and sum(self._paper.low) < DARK
        project = self._session.project
        marks.legend = None
        if there:
            marks.legend = legend(
                LOOKS[self.look], self.look_values[self.look], bounds, project.ground_names, self._session.ground,
                project.blend.together, self._heights(),
            )  # fmt: skip
        self.picture.renderer.ground = self._session.ground
        body = self._session.body
        self.picture.renderer.vertices_of = body.ident if body is not None and self.hand.tool.shows_vertices else 0
        self.picture.renderer.signs = self._session.tool.kind in WITH_SIGNS
        marks.hint = "" if there else "Choose a base form on the left, then press Build."
        self.overlay.refresh()

    def _heights(self) -> tuple[float, float] | None:
        # of the active body, where its down is its own
        body = self._session.body
        if body is None or body.down.kind == "level" or self.picture is None or self.look != "height":
            return None
        return self.picture.renderer.heights(body.ident)

    def _tell_problems(self, problems: list[str]) -> None:
        if problems and problems != self._told:
            self._session.noticed.emit("Drawn in plain grey: " + "; ".join(problems))
        self._told = list(problems)

    def _tool_changed(self) -> None:
        self.show_choice()
        shown, signs = self.hand.tool.shows_vertices, self._session.tool.kind in WITH_SIGNS
        if (shown, signs) != (self._dotted, self._signed):
            self._dotted, self._signed = shown, signs
            self.redraw()

    def _hand_changed(self) -> None:
        if self.look == "weight" and self._shown_ground != self._session.ground:
            self._shown_ground = self._session.ground
            self.redraw()

    def _changed(self, change: Change) -> None:
        self.show_levels(None)
        if self.picture is not None:
            self.picture.note(change)
        if "bodies" in change.fields:
            self.hand.forget()
            self.frame_all()
        if not self._session.history.stroking:
            self.hand.point()
            if self.over.wanted(isinstance(self.hand.tool, ByHandTool)):
                self.show_choice()
        self.redraw()

    def _replaced(self) -> None:
        self._postponed = 0
        self.hand.forget()
        self.levels.end()
        if self.picture is not None:
            self.sheet.make_current()
            self.picture.show(self._session.project)
        self.show_project()


def _paper(theme: Theme) -> Paper:
    return Paper(theme.paper_high, theme.paper_low)
