"""The handle of the section plane, there whichever tool is in hand."""

import numpy as np
from PyQt6.QtCore import QObject, QPointF, Qt, pyqtSignal

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing, Vector, holds
from hulmo.app.tools.reach import near, pixel
from hulmo.core.mesh.body import Bounds
from hulmo.core.setting import Values, number
from hulmo.render.inside import Inside

BESIDE = 0.8
"""Where the handle stands, in radii of the scene from its middle."""

STEEP = 0.3
"""Pixels a metre's worth of pixels along an axis must show on the screen; under it the axis points at the viewer."""

MARGIN = 28.0
"""Pixels that the handle keeps from the edges of the picture."""

TURN = 0.4
"""Degrees that a pixel turns the section."""


class SectionHandle(Controller):
    """Drags the plane along; with Shift, turns it.

    Signals
    -------
    section_moved : dict
        New values of the section card.
    """

    section_moved = pyqtSignal(dict)

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self.section: tuple[Values, Vector, Vector] | None = None
        """Values of the section card, unit normal of the plane, and the place where its handle would best stand."""
        self._plane = False
        self._last = QPointF()

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._plane

    def show_section(self, values: Values, inside: Inside, bounds: Bounds) -> None:
        """Have a handle for the section plane, or none where there is no plane."""
        if inside.section is None:
            self.section = None
            return
        normal = np.array(inside.section[:3])
        middle = bounds.centre + normal * (inside.section[3] - float(normal @ bounds.centre))
        # it stands clear of the bodies, above them or, on a level plane, to their north
        aside = np.array([0.0, 1.0, 0.0]) if abs(normal[1]) < 0.9 else np.array([0.0, 0.0, -1.0])
        aside = aside - normal * float(aside @ normal)
        handle = middle + aside / np.linalg.norm(aside) * bounds.radius * BESIDE
        self.section = (dict(values), normal, handle)

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        self._last = at
        handle = self.handle
        self._plane = not self.session.busy and handle is not None and near(self.hand.view, handle, at)
        return self._plane

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        step, self._last = at - self._last, at
        if self._plane and self.section is not None:
            turn = holds(Qt.KeyboardModifier.ShiftModifier)
            self.section_moved.emit(self._turned(step) if turn else self._shifted(step))

    def release(self) -> None:
        """See `Controller.release`."""
        self._plane = False

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        handle = self.handle
        marks.section = None if self.section is None or handle is None else (self.section[1], handle)

    @property
    def handle(self) -> Vector | None:
        """Where the handle stands: on the plane, and within the picture wherever one looks from."""
        if self.section is None:
            return None
        _, normal, wanted = self.section
        camera, width, height = self.hand.view.camera, self.hand.view.width(), self.hand.view.height()
        x, y, away = camera.to_screen(wanted, width, height)[0]
        close = np.array([x, y]) if away > 0 else np.array([width / 2, height / 2])
        low, high = np.full(2, MARGIN), np.array([width, height]) - MARGIN
        if away > 0 and (close >= low).all() and (close <= high).all():
            return wanted
        close = np.clip(close, low, high)
        steps = np.linspace(0.0, 1.0, 9)
        spots = low + np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2) * (high - low)
        spots = spots[np.argsort(np.linalg.norm(spots - close, axis=1), kind="stable")]
        for spot in (close, *spots):
            origin, direction = camera.ray(float(spot[0]), float(spot[1]), width, height)
            along = float(normal @ direction)
            distance = float(normal @ (wanted - origin)) / along if abs(along) > 1e-6 else 0.0
            if camera.near < distance < 20 * camera.distance:
                return origin + direction * distance
        origin, direction = camera.ray(float(close[0]), float(close[1]), width, height)
        return origin + direction * camera.distance  # the plane itself is not in the picture

    def _shifted(self, step: QPointF) -> Values:
        assert self.section is not None
        values, normal, handle = self.section[0], self.section[1], self.handle
        assert handle is not None
        camera = self.hand.view.camera
        across, upward = float(normal @ camera.right), float(normal @ camera.up)
        if across**2 + upward**2 > STEEP**2:
            way = (step.x() * across - step.y() * upward) / (across**2 + upward**2)
        else:  # the plane faces the viewer: up is away
            way = step.y() if float(normal @ camera.back) > 0 else -step.y()
        return {**values, "place": round(number(values, "place") + way * pixel(self.hand.view, handle), 3)}

    def _turned(self, step: QPointF) -> Values:
        assert self.section is not None
        values = self.section[0]
        bearing = (number(values, "bearing") + TURN * step.x()) % 360.0
        tilt = min(max(number(values, "tilt") - TURN * step.y(), -90.0), 90.0)
        return {**values, "bearing": round(bearing, 1), "tilt": round(tilt, 1)}
