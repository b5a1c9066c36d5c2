"""A sky taken from a picture of all directions."""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput

Image = NDArray[np.float32]
Values = NDArray[np.float64]

TALLEST = 1024
"""Rows that are kept."""

SMALLEST = 8
"""Rows that a picture needs."""

BRIGHT = 0.25
"""Share of the brightest place's light from which on what lies around it belongs to the sun."""

AROUND = math.radians(4.0)
"""How far from the brightest place it does."""

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


@dataclass(frozen=True, eq=False)
class SkyPicture:
    """All directions in one image: bearing from left to right, the zenith in the uppermost row.

    Attributes
    ----------
    name : str
        What the file was called.
    light : (H, 2 H, 3) float16
        Linear light, nowhere below 0. The middle column looks to the bearing that the sky is turned to.
    """

    name: str
    light: NDArray[np.float16]

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return self.light.nbytes

    @cached_property
    def parts(self) -> Values:
        """(9, 3) light that falls on surfaces, over pi, as shares of the first nine spherical harmonics of their normal.

        Notes
        -----
        Ramamoorthi and Hanrahan, "An efficient representation for irradiance environment maps" (SIGGRAPH 2001): the order is
        1; y, z, x; xy, yz, 3z^2 - 1, xz, x^2 - y^2 in their axes, which are ours: x east, y up, z south, of a sky that is
        not turned. A sky of 1 everywhere gives 1 on every surface.
        """
        light = self.light.astype(np.float64)
        way, solid = directions(light.shape[0])
        basis = harmonics(way.reshape(-1, 3))
        weighted = basis * np.repeat(solid, light.shape[1])[:, None]
        shares = np.array([math.pi, *[2 * math.pi / 3] * 3, *[math.pi / 4] * 5]) / math.pi
        return np.asarray(weighted.T @ light.reshape(-1, 3) * shares[:, None])

    def turned(self, degrees: float) -> Values:
        """(9, 3) `parts` of the sky turned clockwise seen from above: each normal has what it has when it is turned back."""
        rng = np.random.default_rng(1)
        way = rng.normal(size=(64, 3))
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        back = np.stack((c * way[:, 0] + s * way[:, 2], way[:, 1], -s * way[:, 0] + c * way[:, 2]), axis=1)
        return np.asarray(np.linalg.lstsq(harmonics(way), harmonics(back) @ self.parts, rcond=None)[0])

    def falls(self, normal: Values) -> Values:
        """(K, 3) light that falls on surfaces with (K, 3) unit normals, over pi, of a sky that is not turned."""
        return np.asarray(np.maximum(harmonics(normal) @ self.parts, 0.0))

    def sun(self) -> tuple[float, float]:
        """Bearing and altitude, degrees, of the middle of what is brightest, of a sky that is not turned."""
        light = self.light.astype(np.float64) @ LUMINANCE
        way, solid = directions(light.shape[0])
        brightest = way[np.unravel_index(int(light.argmax()), light.shape)]
        share = np.where((light >= BRIGHT * light.max()) & (way @ brightest > math.cos(AROUND)), light, 0.0)
        x, y, z = (way * (share * solid[:, None])[..., None]).sum(axis=(0, 1)).tolist()
        return math.degrees(math.atan2(x, -z)) % 360.0, math.degrees(math.atan2(y, math.hypot(x, z)))


def sky_picture(name: str, light: Image, where: str) -> SkyPicture:
    """A sky of an image of linear light, made smaller where it is large.

    Parameters
    ----------
    light : (H, W, 3) float32
        W is twice H, to within one pixel.

    Raises
    ------
    InvalidInput
        Of another shape, or it holds what is no light.
    """
    height, width = light.shape[:2]
    if height < SMALLEST or abs(width - 2 * height) > 1:
        raise InvalidInput(
            f"{where}: {width} x {height} pixels; a picture of all directions is twice as wide as it is high, and at least "
            f"{2 * SMALLEST} x {SMALLEST}"
        )
    if not np.isfinite(light).all() or light.min() < 0:
        raise InvalidInput(f"{where}: holds pixels that are no light (below 0, or no numbers); mend the image first")
    if not light.any():
        raise InvalidInput(f"{where}: is black all over; choose another one")
    rows = min(height, TALLEST)
    small = _resized(_resized(light, rows, 0), 2 * rows, 1)
    return SkyPicture(name, np.minimum(small, np.float32(65504.0)).astype(np.float16))


def directions(rows: int) -> tuple[Values, Values]:
    """(H, 2 H, 3) unit vectors to the pixels of a picture, and (H,) the solid angle of one in each row."""
    edge = np.cos(np.linspace(0.0, math.pi, rows + 1))
    solid = -np.diff(edge) * (math.pi / rows)
    up = math.pi / 2 - (np.arange(rows) + 0.5) / rows * math.pi
    turn = ((np.arange(2 * rows) + 0.5) / (2 * rows) - 0.5) * 2 * math.pi
    level = np.cos(up)[:, None]
    x, z = level * np.sin(turn), -level * np.cos(turn)
    return np.stack((x, np.broadcast_to(np.sin(up)[:, None], x.shape), z), axis=2), solid


def harmonics(way: Values) -> Values:
    """(K, 9) the first nine real spherical harmonics at (K, 3) unit vectors, with their factors; see `SkyPicture.parts`."""
    x, y, z = way[:, 0], way[:, 1], way[:, 2]
    one = np.ones_like(x)
    return np.stack(
        (
            0.28209479 * one, 0.48860251 * y, 0.48860251 * z, 0.48860251 * x, 1.09254843 * x * y, 1.09254843 * y * z,
            0.31539157 * (3 * z * z - 1), 1.09254843 * x * z, 0.54627422 * (x * x - y * y),
        ),
        axis=1,
    )  # fmt: skip


def _resized(light: Image, count: int, axis: int) -> Image:
    # means over even shares of an axis
    have = light.shape[axis]
    if have == count:
        return light
    total = np.concatenate((np.zeros_like(light.take([0], axis)), light.cumsum(axis, dtype=np.float64)), axis)
    at = np.linspace(0, have, count + 1)
    low = np.minimum(at.astype(int), have - 1)
    part = (at - low).reshape(-1, *[1] * (light.ndim - axis - 1))
    there = total.take(low, axis) * (1 - part) + total.take(low + 1, axis) * part
    return np.asarray(np.diff(there, axis=axis) * (count / have), np.float32)
