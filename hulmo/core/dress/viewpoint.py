"""Saved cameras."""

import math

import msgspec

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
    """

    name: str
    eye: Triple
    target: Triple
    field: float = 40.0


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
