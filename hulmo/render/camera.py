"""The camera: where it stands, what it sees, and how the hand moves it."""

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.mesh.body import Bounds

Vector = NDArray[np.float64]
Matrix = NDArray[np.float64]

STEEPEST = math.radians(89.0)


@dataclass(frozen=True)
class Camera:
    """A camera that turns about a target.

    Attributes
    ----------
    target : (3,) float64
        Metres.
    distance : float
        Metres from eye to target.
    bearing : float
        Radians; direction from the target to the eye, clockwise from north (-Z) seen from above.
    altitude : float
        Radians above the horizon.
    field : float
        Vertical field of view, degrees.
    near, far : float
        Clipping distances, metres.
    """

    target: Vector
    distance: float
    bearing: float
    altitude: float
    field: float = 40.0
    near: float = 0.1
    far: float = 1000.0

    @classmethod
    def framing(cls, bounds: Bounds, bearing: float = 0.75 * math.pi, altitude: float = 0.45) -> "Camera":
        """A camera that sees all of a box."""
        radius = max(bounds.radius, 1e-3)
        camera = cls(bounds.centre, radius / math.sin(math.radians(20.0)) * 1.05, bearing, altitude)
        return camera.clipped(bounds)

    @classmethod
    def from_viewpoint(cls, view: Viewpoint, bounds: Bounds) -> "Camera":
        """A saved camera."""
        target, eye = np.array(view.target), np.array(view.eye)
        offset = eye - target
        distance = float(np.linalg.norm(offset))
        altitude = math.asin(max(-1.0, min(1.0, offset[1] / distance)))
        bearing = math.atan2(offset[0], -offset[2])
        camera = cls(target, distance, bearing, max(-STEEPEST, min(STEEPEST, altitude)), view.field)
        return camera.clipped(bounds)

    @classmethod
    def facing(cls, point: Vector, normal: Vector, distance: float, bounds: Bounds) -> "Camera":
        """A camera that looks at a point from where a normal points to; `bounds` is what must not be clipped."""
        eye = point + normal * distance
        return cls.from_viewpoint(Viewpoint("", tuple(eye.tolist()), tuple(point.tolist())), bounds)

    def clipped(self, bounds: Bounds) -> "Camera":
        """The same camera with clipping distances that hold a box."""
        away = float(np.linalg.norm(self.eye - bounds.centre))
        far = (away + bounds.radius) * 1.05 + 1.0
        near = max(away - bounds.radius * 1.1, min(self.distance * 0.02, bounds.radius * 0.02), far * 1e-5)
        return replace(self, near=near, far=far)

    @cached_property
    def back(self) -> Vector:
        """(3,) unit vector from target to eye."""
        level = math.cos(self.altitude)
        return np.array([level * math.sin(self.bearing), math.sin(self.altitude), -level * math.cos(self.bearing)])

    @cached_property
    def eye(self) -> Vector:
        """(3,) position, metres."""
        return self.target + self.back * self.distance

    @property
    def toward_eye(self) -> tuple[float, float, float]:
        """Unit vector from what is looked at to the eye, as (east, up, north)."""
        x, y, z = self.back.tolist()
        return x, y, -z

    @cached_property
    def right(self) -> Vector:
        """(3,) unit vector to the right of the picture."""
        return np.array([-math.cos(self.bearing), 0.0, -math.sin(self.bearing)])

    @cached_property
    def up(self) -> Vector:
        """(3,) unit vector to the top of the picture."""
        return np.cross(self.back, self.right)

    def view(self) -> Matrix:
        """(4, 4) world to camera."""
        matrix = np.eye(4)
        matrix[:3, :3] = np.stack((self.right, self.up, self.back))
        matrix[:3, 3] = -matrix[:3, :3] @ self.eye
        return matrix

    def projection(self, aspect: float) -> Matrix:
        """(4, 4) camera to clip space; `aspect` is width over height."""
        scale = 1.0 / math.tan(math.radians(self.field) / 2)
        near, far = self.near, self.far
        matrix = np.zeros((4, 4))
        matrix[0, 0] = scale / aspect
        matrix[1, 1] = scale
        matrix[2, 2] = (far + near) / (near - far)
        matrix[2, 3] = 2 * far * near / (near - far)
        matrix[3, 2] = -1.0
        return matrix

    def view_projection(self, aspect: float) -> Matrix:
        """(4, 4) world to clip space."""
        return self.projection(aspect) @ self.view()

    def ray(self, x: float, y: float, width: float, height: float) -> tuple[Vector, Vector]:
        """Origin and unit direction through a pixel; x to the right, y down from the upper left."""
        scale = math.tan(math.radians(self.field) / 2)
        across = (2 * x / width - 1) * scale * width / height
        upward = (1 - 2 * y / height) * scale
        direction = self.right * across + self.up * upward - self.back
        return self.eye, direction / np.linalg.norm(direction)

    def to_screen(self, points: NDArray[np.floating], width: float, height: float) -> NDArray[np.float64]:
        """(K, 3) pixel x, pixel y, and distance along the view of (K, 3) points; distance <= 0 lies behind."""
        view = self.view()
        seen = np.atleast_2d(points) @ view[:3, :3].T + view[:3, 3]
        away = -seen[:, 2]
        scale = height / 2 / math.tan(math.radians(self.field) / 2)
        safe = np.where(np.abs(away) > 1e-9, away, 1e-9)
        return np.column_stack((width / 2 + seen[:, 0] / safe * scale, height / 2 - seen[:, 1] / safe * scale, away))

    def metres_per_pixel(self, away: float, height: float) -> float:
        """Size of a pixel at a distance from the eye."""
        return 2 * math.tan(math.radians(self.field) / 2) * away / height

    def key(self) -> tuple[float, ...]:
        """What tells two cameras apart that see different things; how near and far they see is not in it."""
        x, y, z = self.target.tolist()
        return x, y, z, self.distance, self.bearing, self.altitude, self.field

    def turned(self, right: float, up: float, pivot: Vector) -> "Camera":
        """Turn about a pivot by radians; the pivot keeps its place in the picture."""
        altitude = max(-STEEPEST, min(STEEPEST, self.altitude + up))
        moved = replace(self, bearing=self.bearing + right, altitude=altitude)
        offset = self.target - pivot
        before = np.stack((self.right, self.up, self.back))
        after = np.stack((moved.right, moved.up, moved.back))
        return replace(moved, target=pivot + after.T @ (before @ offset))

    def shifted(self, right: float, up: float) -> "Camera":
        """Move sideways by metres."""
        return replace(self, target=self.target + self.right * right + self.up * up)

    def closer(self, factor: float, toward: Vector) -> "Camera":
        """Zoom by a factor (under 1 goes closer); the point `toward` keeps its place in the picture."""
        factor = max(factor, 1e-4 / max(self.distance, 1e-9))
        return replace(self, target=toward + (self.target - toward) * factor, distance=self.distance * factor)
