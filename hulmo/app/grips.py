"""Small handles in the scene that are taken and dragged: points of a passage, and the section plane."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, pyqtSignal

from hulmo.app.bore_path import BorePath
from hulmo.core.setting import Values, number
from hulmo.render.camera import Camera

Vector = NDArray[np.float64]

REACH = 10.0
"""Pixels around a handle within which a press takes it."""

STEEP = 0.3
"""Pixels a metre's worth of pixels along an axis must show on the screen; under it the axis points at the viewer."""

TURN = 0.4
"""Degrees that a pixel turns the section."""


class Scene(Protocol):
    """What grips need of the canvas."""

    camera: Camera

    def width(self) -> int:
        """Pixels."""

    def height(self) -> int:
        """Pixels."""


class Grips(QObject):
    """Finds which handle a press is on, and turns the drag into new values.

    Signals
    -------
    section_moved : dict
        New values of the section card.
    """

    section_moved = pyqtSignal(dict)

    def __init__(self, bore: BorePath, scene: Scene, parent: QObject) -> None:
        super().__init__(parent)
        self._bore, self._scene = bore, scene
        self.section: tuple[Values, Vector, Vector] | None = None
        """Values of the section card, unit normal of the plane, and the point of it in the middle of the scene."""
        self.boring = False
        """Whether points of a passage can be taken."""
        self._point: int | None = None
        self._start = QPointF()
        self._from = np.zeros(3)
        self._before: Values = {}

    @property
    def held(self) -> bool:
        """Whether a handle is being dragged."""
        return self._point is not None or bool(self._before)

    def press(self, at: QPointF) -> bool:
        """Take the handle under the pointer; False when there is none."""
        points = self._bore.points if self.boring else []
        for i, point in enumerate(points):
            if self._near(point, at):
                self._point, self._start, self._from = i, at, point.copy()
                return True
        if self.section is not None and self._near(self.section[2], at):
            self._before, self._start = dict(self.section[0]), at
            self._from = self.section[2].copy()
            return True
        return False

    def move(self, at: QPointF, deep: bool, turn: bool) -> None:
        """Drag what was taken: `deep` moves a point the way one looks, `turn` turns the section."""
        step = at - self._start
        camera = self._scene.camera
        away = float((camera.eye - self._from) @ camera.back)
        metres = camera.metres_per_pixel(max(away, 1e-3), self._scene.height())
        if self._point is not None:
            if deep:
                shift = camera.back * (step.y() * metres)
            else:
                shift = camera.right * (step.x() * metres) - camera.up * (step.y() * metres)
            self._bore.move(self._point, self._from + shift)
        elif self.section is not None and self._before:
            self.section_moved.emit(self._turned(step) if turn else self._shifted(step, metres))

    def release(self) -> None:
        """Let go."""
        self._point, self._before = None, {}

    def _shifted(self, step: QPointF, metres: float) -> Values:
        assert self.section is not None
        camera, normal = self._scene.camera, self.section[1]
        across, upward = float(normal @ camera.right), float(normal @ camera.up)
        if across**2 + upward**2 > STEEP**2:
            way = (step.x() * across - step.y() * upward) / (across**2 + upward**2) * metres
        else:  # the plane faces the viewer: up is away
            way = step.y() * metres * (1.0 if float(normal @ camera.back) > 0 else -1.0)
        return {**self._before, "place": round(number(self._before, "place") + way, 3)}

    def _turned(self, step: QPointF) -> Values:
        bearing = (number(self._before, "bearing") + TURN * step.x()) % 360.0
        tilt = min(max(number(self._before, "tilt") - TURN * step.y(), -90.0), 90.0)
        return {**self._before, "bearing": round(bearing, 1), "tilt": round(tilt, 1)}

    def _near(self, point: Vector, at: QPointF) -> bool:
        x, y, away = self._scene.camera.to_screen(point, self._scene.width(), self._scene.height())[0]
        return bool(away > 0 and np.hypot(x - at.x(), y - at.y()) <= REACH)
