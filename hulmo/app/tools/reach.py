"""Taking hold of places in the scene with the pointer, and dragging them along."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF

from hulmo.app.tools.controller import View

Vector = NDArray[np.float64]

REACH = 10.0
"""Pixels around a handle within which a press takes it."""


def near(view: View, point: Vector, at: QPointF) -> bool:
    """Whether a press at a place on the canvas takes hold of a place in the scene."""
    x, y, away = view.camera.to_screen(point, view.width(), view.height())[0]
    return bool(away > 0 and np.hypot(x - at.x(), y - at.y()) <= REACH)


def pixel(view: View, point: Vector) -> float:
    """Metres that a pixel is large where a place is."""
    camera = view.camera
    return camera.metres_per_pixel(max(float((camera.eye - point) @ camera.back), 1e-3), view.height())


def shifted(view: View, point: Vector, step: QPointF, deep: bool) -> Vector:
    """A place after a drag by some pixels: across the view, or with `deep` the way one looks."""
    camera, metres = view.camera, pixel(view, point)
    if deep:
        return point + camera.back * (step.y() * metres)
    return point + camera.right * (step.x() * metres) - camera.up * (step.y() * metres)
