"""Turning, moving and zooming the view by mouse, wheel and keys."""

import enum

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt

from hulmo.render.camera import Camera

Vector = NDArray[np.float64]

TURN = 0.0085
"""Radians a pixel."""

KEY_TURN = 0.12

KEY_MOVE = 0.06
"""Heights of the picture that Ctrl and an arrow move the view."""


class Gesture(enum.Enum):
    """What a drag of the view does."""

    TURN = "turn"
    MOVE = "move"


class Navigation:
    """One drag of the view at a time."""

    def __init__(self) -> None:
        self._gesture: Gesture | None = None
        self._last = QPointF()
        self._pivot = np.zeros(3)

    @property
    def active(self) -> bool:
        """Whether a drag is going on."""
        return self._gesture is not None

    def begin(self, gesture: Gesture, at: QPointF, pivot: Vector) -> None:
        """Start a drag; the view turns about, or moves along with, the pivot."""
        self._gesture, self._last, self._pivot = gesture, at, pivot

    def drag(self, camera: Camera, at: QPointF, height: float) -> Camera:
        """The camera after the pointer came to `at`."""
        step = at - self._last
        self._last = at
        if self._gesture is Gesture.TURN:
            return camera.turned(step.x() * TURN, step.y() * TURN, self._pivot)
        away = float((camera.eye - self._pivot) @ camera.back)
        size = camera.metres_per_pixel(max(away, camera.near), height)
        return camera.shifted(-step.x() * size, step.y() * size)

    def end(self) -> None:
        """Stop the drag."""
        self._gesture = None


def wheeled(camera: Camera, notches: float, toward: Vector) -> Camera:
    """The camera after turning the wheel; positive goes closer to `toward`."""
    return camera.closer(0.86**notches, toward)


def keyed(camera: Camera, key: int, moves: bool = False) -> Camera | None:
    """The camera after an arrow key that turns it or, with `moves`, moves it along; None for other keys."""
    steps = {
        Qt.Key.Key_Left: (1.0, 0.0),
        Qt.Key.Key_Right: (-1.0, 0.0),
        Qt.Key.Key_Up: (0.0, 1.0),
        Qt.Key.Key_Down: (0.0, -1.0),
    }
    for known, (right, up) in steps.items():
        if key == known and moves:
            step = KEY_MOVE * camera.metres_per_pixel(camera.distance, 1)
            return camera.shifted(-right * step, up * step)
        if key == known:
            return camera.turned(right * KEY_TURN, up * KEY_TURN, camera.target)
    if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
        return camera.closer(0.86, camera.target)
    if key == Qt.Key.Key_Minus:
        return camera.closer(1 / 0.86, camera.target)
    return None
