"""Saved cameras."""

import msgspec

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
