"""Saved cameras."""

import math

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.origin import OUTERMOST

Triple = tuple[float, float, float]


class Viewpoint(msgspec.Struct, frozen=True):
    """A saved camera.

    Attributes
    ----------
    name : str
    eye, target : tuple of float
        Metres.
    field : float
        Vertical field of view, degrees.
    ratio : float
        Width over height of its pictures; 0: as they are asked for.
    """

    name: str
    eye: Triple
    target: Triple
    field: float = 40.0
    ratio: float = 0.0


def check_viewpoint(view: Viewpoint, where: str) -> None:
    """Refuse a camera that cannot be looked through.

    Raises
    ------
    InvalidInput
    """
    if not view.name.strip():
        raise InvalidInput(f"{where}: a viewpoint needs a name")
    if not all(math.isfinite(value) for value in (*view.eye, *view.target)) or view.eye == view.target:
        raise InvalidInput(f"{where} {view.name!r}: eye and target must be two different finite points")
    if max(map(abs, (*view.eye, *view.target))) > OUTERMOST:
        raise InvalidInput(f"{where} {view.name!r}: eye and target may be {OUTERMOST:g} m from zero at the most")
    if not 5.0 <= view.field <= 120.0:
        raise InvalidInput(f"{where} {view.name!r}: field is {view.field:g}°; it must lie between 5 and 120°")


def view_axes(way: NDArray[np.float64]) -> NDArray[np.float64]:
    """(3, 3) right, up and back of who looks along a (3,) vector with +Y as far up as can be: in columns, of length 1."""
    back = -way / np.linalg.norm(way)
    right = np.cross((0.0, 1.0, 0.0), back)
    length = float(np.linalg.norm(right))
    right = right / length if length > 1e-9 else np.array([1.0, 0.0, 0.0])
    return np.stack((right, np.cross(back, right), back), axis=1)
