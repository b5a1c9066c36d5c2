"""Brushes: strokes, and their size by a held key."""

import math
from collections.abc import Callable

from PyQt6.QtCore import QObject, QPointF, Qt, QTimer

from hulmo.app.brush_ring import brush_ring, layer_takes, twin_rims
from hulmo.app.going_over import going_over
from hulmo.app.overlay import Marks
from hulmo.app.plain_words import plain_words
from hulmo.app.session import WAIT, Session
from hulmo.app.tools.controller import FULL, Controller, Pointing, holds
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import Stroke
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import FORM
from hulmo.core.sculpt.brush import Brush
from hulmo.core.setting import Number, Values, number

BEYOND = 1e7
"""Metres at which there is nothing any more."""

FLOW = 50
"""Milliseconds between two dabs of a brush that flows at rest."""

SIZE_KEY = Qt.Key.Key_B
"""Held with a drag: across sets the radius, up and down the strength."""

VIEW_SHARES = (("radius_by", "view_share", "radius"), ("edge_by", "edge_share", "edge"))
"""Lengths that may be given as a share of the view: what says so, the share in percent, and the length in metres."""


class BrushTool(Controller):
    """Turns presses and drags into strokes."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._sizing: tuple[QPointF, float, float] | None = None
        self._others: tuple[Body, ...] | None = None
        session.changed.connect(self._look_again)
        session.settings_changed.connect(self._look_again)
        session.replaced.connect(self._look_again)
        self._flow = QTimer(self)
        self._flow.setInterval(FLOW)
        self._flow.timeout.connect(self._go_on)

    @property
    def brush(self) -> Brush:
        """The brush in hand; with Shift held, the one that smooths instead of any other of the Sculpt stage."""
        brush = BRUSHES[self.session.tool.name]
        smooths = holds(Qt.KeyboardModifier.ShiftModifier) and brush.stage == "sculpt"
        return BRUSHES["smooth"] if smooths else brush

    @property
    def others(self) -> tuple[Body, ...]:
        """See `Controller.others`."""
        body = self.session.body
        if body is None:
            return ()
        if self._others is None:
            self._others = going_over(self.session.project, body, self.session.brushes.over)
        return self._others

    def _look_again(self, change: Change | None = None) -> None:
        # who lies beside the active body is asked again when bodies or settings are others
        if change is None or change.bodies or change.fields:
            self._others = None

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._sizing is not None or self.session.history.stroking

    @property
    def stays(self) -> bool:
        """See `Controller.stays`: while the size is changed."""
        return self._sizing is not None

    def press(self, at: QPointF) -> bool:
        """Begin a stroke, or a change of brush size."""
        if self.hand.down(SIZE_KEY):
            values = self.session.brushes.of(self.session.tool.name)
            self._sizing = (at, number(values, "radius"), number({"strength": 0.0, **values}, "strength"))
        else:
            self._begin(at)
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        if self._sizing is not None:
            self._size(at)
        elif self.session.history.stroking:
            self._sample(at)

    def release(self) -> None:
        """See `Controller.release`."""
        if self._sizing is not None:
            self._sizing = None
        elif self.session.history.stroking:
            self._flow.stop()
            self.session.history.finish()
            self.hand.point()

    def mark(self, marks: Marks) -> None:
        """The ring where the pointer is, and those of symmetric copies."""
        body, pointer, hit = self.session.body, self.hand.pointer, self.hand.hit
        if body is None or not body.shown or pointer is None or self.hand.turning:
            return
        if self.hand.beside is not None:
            body, hit = self.hand.beside
        if hit is None:
            marks.loose = pointer
            return
        others = tuple(other for other in (*self.others, self.session.body) if other is not None and other is not body)
        brush, values, ray = self.brush, self._values(self.brush), self.hand.ray(pointer)
        inverted, hasty = holds(Qt.KeyboardModifier.ControlModifier), self.session.history.stroking
        marks.ring = brush_ring(body, brush, values, hit, inverted, ray[1], hasty, others if self.others else ())
        if brush.shapes and not layer_takes(body, self.session.layer):
            marks.ring.works = False
        marks.twins = twin_rims(body, values, ray)

    def change_radius(self, factor: float) -> None:
        """Make the brush in hand larger or smaller."""
        by_view = self.session.brushes.of(self.session.tool.name)["radius_by"] == "view"
        self._set("view_share" if by_view else "radius", lambda value: _tidy(value * factor))

    def change_strength(self, step: float) -> None:
        """Make the brush in hand stronger or weaker, in percent."""
        self._set("strength", lambda value: value + step)

    def _values(self, brush: Brush) -> Values:
        values = dict(self.session.brushes.of(brush.name))
        if brush.name != self.session.tool.name:
            chosen = self.session.brushes.of(self.session.tool.name)
            values.update({name: chosen[name] for name in ("radius", "radius_by", "view_share")})
        view = self.hand.view
        hit = self.hand.hit if self.hand.beside is None else self.hand.beside[1]
        if hit is not None:
            away = float((view.camera.eye - hit.position) @ view.camera.back)
            metres = view.camera.metres_per_pixel(max(away, 1e-3), view.height()) * view.height()
            for by, share, name in VIEW_SHARES:
                if values.get(by) == "view":
                    setting = next(entry for entry in brush.all_settings if entry.name == name)
                    assert isinstance(setting, Number)
                    wanted = _tidy(metres * number(values, share) / 100)
                    values[name] = min(max(wanted, setting.low), setting.high)
        values.update({by: "metres" for by, _, _ in VIEW_SHARES if by in values})
        return values

    def _set(self, name: str, change: Callable[[float], float]) -> None:
        tool = self.session.tool.name
        setting = next((entry for entry in BRUSHES[tool].all_settings if entry.name == name), None)
        if not isinstance(setting, Number):
            return  # this brush has no such thing
        value = change(number(self.session.brushes.of(tool), name))
        self.session.brushes.set(tool, name, float(min(max(value, setting.low), setting.high)))

    def _size(self, at: QPointF) -> None:
        assert self._sizing is not None
        start, radius, strength = self._sizing
        step = at - start
        self._set("radius", lambda _: _tidy(radius * math.exp(step.x() / 120)))
        self._set("strength", lambda _: round(strength - step.y() / 3))

    def _begin(self, at: QPointF) -> None:
        session, brush, body = self.session, self.brush, self.session.body
        if body is None:
            return
        session.give_way()
        if session.busy:
            session.noticed.emit(WAIT)
            return
        ground = session.project.grounds[session.ground].name if brush.needs_ground else ""
        invert = holds(Qt.KeyboardModifier.ControlModifier) and bool(brush.inverse)
        layer = session.layer if brush.shapes else FORM
        over = tuple(other.name for other in self.others)
        start = Stroke(body.name, brush.name, (), dict(self._values(brush)), ground, invert, layer, over)
        session.rules.settle()
        try:
            session.history.begin(start)
        except HulmoError as error:
            session.noticed.emit(plain_words(str(error)))
            return
        self._sample(at)
        if start.settings.get("flow"):
            self._flow.start()

    def _sample(self, at: QPointF) -> None:
        origin, direction = self.hand.ray(at)
        if self.hand.view.inside.section is not None and self.session.body is not None:
            hit = self.hand.find(at) or (self.hand.beside[1] if self.hand.beside is not None else None)
            unit = direction / math.sqrt(float(direction @ direction))
            # the stroke is laid on what is seen, whatever was cut away before it; from a cap it goes past everything
            origin = origin + unit * BEYOND if hit is None else hit.position - unit * 1e-3
        numbers = (*origin.tolist(), *direction.tolist())
        if self.hand.pen is not FULL:
            numbers = (*numbers, self.hand.pen.pressure, self.hand.pen.lean)
        self.session.history.sample(numbers)

    def _go_on(self) -> None:
        # a brush that flows goes on while the pointer rests
        if self.session.history.stroking and self.hand.pointer is not None:
            self._sample(self.hand.pointer)
        else:
            self._flow.stop()


def _tidy(value: float) -> float:
    return float(f"{value:.3g}")
