"""Which way is down for a body: the same everywhere, or toward the middle of a moon."""

import math

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.attribute import FARTHEST

Vector = NDArray[np.float64]
Triple = tuple[float, float, float]

KINDS = ("level", "centre", "way")

POLE = np.array([0.0, 1.0, 0.0])
"""Axis that the north of a moon is named by."""


class Down(msgspec.Struct, frozen=True):
    """Down, and where heights count from.

    Attributes
    ----------
    kind : str
        "level": along -Y. "centre": toward a place. "way": along a direction.
    at : tuple of float
        The place, metres of the world; or the direction, of length 1.
    sea : float
        Metres: the height that counts as 0; of a centre the radius that does.
    """

    kind: str = "level"
    at: Triple = (0.0, 0.0, 0.0)
    sea: float = 0.0

    @property
    def even(self) -> bool:
        """Whether it is the same everywhere."""
        return self.kind != "centre"

    def up(self, points: NDArray[np.floating], origin: Triple) -> Vector:
        """Unit vectors straight up, (1, 3) where they are the same everywhere, else (K, 3).

        Parameters
        ----------
        points : (K, 3)
            Metres about the origin of the body.
        """
        if self.kind == "level":
            return np.array([[0.0, 1.0, 0.0]])
        if self.kind == "way":
            return -np.array([self.at])
        way = np.asarray(points, np.float64) - (np.array(self.at) - origin)
        length = np.sqrt(np.einsum("ij,ij->i", way, way))[:, None]
        return np.where(length > 0, way / np.maximum(length, 1e-300), POLE)

    def height(self, points: NDArray[np.floating], origin: Triple) -> Vector:
        """(K,) metres above the sea of (K, 3) places about the origin."""
        if self.kind == "level":
            return np.asarray(points[:, 1].astype(np.float64) + (origin[1] - self.sea))
        places = np.asarray(points, np.float64)
        if self.kind == "way":
            return np.asarray(-(places @ self.at + np.dot(origin, self.at)) - self.sea)
        way = places - (np.array(self.at) - origin)
        return np.asarray(np.sqrt(np.einsum("ij,ij->i", way, way)) - self.sea)

    def cosine(
        self, normal: NDArray[np.floating], points: NDArray[np.floating], origin: Triple
    ) -> NDArray[np.floating]:
        """(K,) upward part of (K, 3) unit normals at (K, 3) places about the origin."""
        if self.kind == "level":
            return normal[:, 1]
        return np.asarray((normal * self.up(points, origin)).sum(axis=1))

    def slope(self, normal: NDArray[np.floating], points: NDArray[np.floating], origin: Triple) -> NDArray[np.floating]:
        """(K,) degrees between surface and horizontal: 0 level, 90 a wall, up to 180 under an overhang."""
        return np.asarray(np.degrees(np.arccos(np.clip(self.cosine(normal, points, origin), -1.0, 1.0))))

    def level_places(self, points: NDArray[np.float32], origin: Triple) -> NDArray[np.float32]:
        """(K, 3) the places on the sea straight above or below, where patterns are looked up that run along the horizon."""
        if self.kind == "level":
            return points * np.array([1.0, 0.0, 1.0], np.float32)
        high = self.height(points, origin)[:, None]
        return np.asarray(points - self.up(points, origin) * high, np.float32)

    def frame(self, points: NDArray[np.floating], origin: Triple) -> tuple[Vector, Vector, Vector]:
        """East, up and north, (1, 3) or (K, 3) unit vectors: of the world, or as one who stands there has them, with the
        pole of +Y; at the poles themselves east is +X."""
        up = self.up(points, origin)
        if self.kind == "level":
            return np.array([[1.0, 0.0, 0.0]]), up, np.array([[0.0, 0.0, -1.0]])
        east = np.cross(POLE, up)
        length = np.sqrt(np.einsum("ij,ij->i", east, east))[:, None]
        east = np.where(length > 1e-9, east / np.maximum(length, 1e-300), [1.0, 0.0, 0.0])
        return east, up, np.cross(up, east)

    def moved(self, matrix: Vector, middle: Vector, move: Vector) -> "Down":
        """Down for a body that was turned and stretched by a (3, 3) matrix about a place of the world, and moved."""
        if self.kind != "centre":
            return self
        x, y, z = (matrix @ (np.array(self.at) - middle) + middle + move).tolist()
        size = abs(float(np.linalg.det(matrix))) ** (1.0 / 3.0)
        return Down("centre", (x, y, z), self.sea * size)


LEVEL = Down()


def check_down(down: Down, where: str) -> None:
    """Refuse a down that is none.

    Raises
    ------
    InvalidInput
    """
    if down.kind not in KINDS:
        raise InvalidInput(f"{where}: kind is {shown(down.kind)}; it must be one of {', '.join(KINDS)}")
    if not all(math.isfinite(value) and abs(value) <= 1e10 for value in (*down.at, down.sea)):
        raise InvalidInput(f"{where}: place and sea must be finite numbers of metres, 10,000,000,000 at the most")
    if down.kind == "centre" and not 0 <= down.sea <= FARTHEST:
        raise InvalidInput(
            f"{where}: sea is {down.sea:g} m; the radius of a moon's sea lies between 0 and {FARTHEST:g} m"
        )
    if down.kind == "way" and abs(math.hypot(*down.at) - 1.0) > 1e-6:
        raise InvalidInput(f"{where}: the direction of down must have a length of 1; it has {math.hypot(*down.at):g}")
