"""Small handles in the scene that are taken and dragged: points of a passage, and the section plane."""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, pyqtSignal

from hulmo.app.bore_path import BorePath
from hulmo.core.mesh.body import Bounds
from hulmo.core.setting import Values, number
from hulmo.render.camera import Camera
from hulmo.render.inside import Inside

Vector = NDArray[np.float64]

REACH = 10.0
"""Pixels around a handle within which a press takes it."""

BESIDE = 0.8
"""Where the handle of the section stands, in radii of the scene from its middle."""

STEEP = 0.3
"""Pixels a metre's worth of pixels along an axis must show on the screen; under it the axis points at the viewer."""

MARGIN = 28.0
"""Pixels that the handle of the section keeps from the edges of the picture."""

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
        """Values of the section card, unit normal of the plane, and the place where its handle would best stand."""
        self.boring = False
        """Whether points of a passage can be taken."""
        self._point: int | None = None
        self._plane = False
        self._last = QPointF()

    @property
    def held(self) -> bool:
        """Whether a handle is being dragged."""
        return self._point is not None or self._plane

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
        """Take the handle under the pointer; False when there is none."""
        points = self._bore.points if self.boring else []
        self._last = at
        for i, point in enumerate(points):
            if self._near(point, at):
                self._point = i
                return True
        handle = self.handle
        self._plane = handle is not None and self._near(handle, at)
        return self._plane

    @property
    def handle(self) -> Vector | None:
        """Where the handle of the section stands: on the plane, and within the picture wherever one looks from."""
        if self.section is None:
            return None
        _, normal, wanted = self.section
        camera, width, height = self._scene.camera, self._scene.width(), self._scene.height()
        x, y, away = camera.to_screen(wanted, width, height)[0]
        near = np.array([x, y]) if away > 0 else np.array([width / 2, height / 2])
        low, high = np.full(2, MARGIN), np.array([width, height]) - MARGIN
        if away > 0 and (near >= low).all() and (near <= high).all():
            return wanted
        near = np.clip(near, low, high)
        steps = np.linspace(0.0, 1.0, 9)
        spots = low + np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2) * (high - low)
        spots = spots[np.argsort(np.linalg.norm(spots - near, axis=1), kind="stable")]
        for spot in (near, *spots):
            origin, direction = camera.ray(float(spot[0]), float(spot[1]), width, height)
            along = float(normal @ direction)
            distance = float(normal @ (wanted - origin)) / along if abs(along) > 1e-6 else 0.0
            if camera.near < distance < 20 * camera.distance:
                return origin + direction * distance
        origin, direction = camera.ray(float(near[0]), float(near[1]), width, height)
        return origin + direction * camera.distance  # the plane itself is not in the picture

    def move(self, at: QPointF, deep: bool, turn: bool) -> None:
        """Drag what was taken: `deep` moves a point the way one looks, `turn` turns the section."""
        step, self._last = at - self._last, at
        if self._point is not None and self._point < len(self._bore.points):
            point = self._bore.points[self._point]
            self._bore.move(self._point, point + self._shift(step, point, deep))
        elif self._plane and self.section is not None:
            self.section_moved.emit(self._turned(step) if turn else self._shifted(step))

    def release(self) -> None:
        """Let go."""
        self._point, self._plane = None, False

    def _metres(self, point: Vector) -> float:
        # size of a pixel where a point is
        camera = self._scene.camera
        return camera.metres_per_pixel(max(float((camera.eye - point) @ camera.back), 1e-3), self._scene.height())

    def _shift(self, step: QPointF, point: Vector, deep: bool) -> Vector:
        camera, metres = self._scene.camera, self._metres(point)
        if deep:
            return camera.back * (step.y() * metres)
        return camera.right * (step.x() * metres) - camera.up * (step.y() * metres)

    def _shifted(self, step: QPointF) -> Values:
        assert self.section is not None
        values, normal, handle = self.section[0], self.section[1], self.handle
        assert handle is not None
        camera = self._scene.camera
        across, upward = float(normal @ camera.right), float(normal @ camera.up)
        if across**2 + upward**2 > STEEP**2:
            way = (step.x() * across - step.y() * upward) / (across**2 + upward**2)
        else:  # the plane faces the viewer: up is away
            way = step.y() if float(normal @ camera.back) > 0 else -step.y()
        return {**values, "place": round(number(values, "place") + way * self._metres(handle), 3)}

    def _turned(self, step: QPointF) -> Values:
        assert self.section is not None
        values = self.section[0]
        bearing = (number(values, "bearing") + TURN * step.x()) % 360.0
        tilt = min(max(number(values, "tilt") - TURN * step.y(), -90.0), 90.0)
        return {**values, "bearing": round(bearing, 1), "tilt": round(tilt, 1)}

    def _near(self, point: Vector, at: QPointF) -> bool:
        x, y, away = self._scene.camera.to_screen(point, self._scene.width(), self._scene.height())[0]
        return bool(away > 0 and np.hypot(x - at.x(), y - at.y()) <= REACH)
