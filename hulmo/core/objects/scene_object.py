"""Things that stand in the scene beside the bodies: a record of where they are, and of what their kind wants to know."""

import math
from collections.abc import Mapping
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.origin import check_place

Matrix = NDArray[np.float64]
Triple = tuple[float, float, float]

SMALLEST, LARGEST = 1e-3, 1e4
"""Factors by which an object can be scaled."""


class SceneObject(msgspec.Struct, frozen=True):
    """One thing of the scene. What a kind needs besides lies in `values`.

    Attributes
    ----------
    ident : int
        A number that no other object has; larger than 0.
    kind : str
        One of `objects.KINDS`; one that is not known is kept as it is.
    name : str
        A name that no other object has.
    at : tuple of float
        Metres; about the parent where there is one.
    turn : tuple of float
        Degrees about the X, then the Y, then the Z axis, counter-clockwise for one whom the axis points at.
    scale : float
        Factor, the same in every direction.
    parent : int
        Number of the object that it goes along with; 0 for none.
    shown : bool
    values : dict
        Settings of its kind.
    more : dict
        Whatever a file says of it besides; kept and written back.
    """

    ident: int
    kind: str
    name: str
    at: Triple = (0.0, 0.0, 0.0)
    turn: Triple = (0.0, 0.0, 0.0)
    scale: float = 1.0
    parent: int = 0
    shown: bool = True
    values: dict[str, Any] = {}
    more: dict[str, Any] = {}

    def matrix(self) -> Matrix:
        """(4, 4) from its own space to that of its parent."""
        out = np.eye(4)
        turned = turn_matrix(self.turn)
        out[:3, :3] = turned * self.scale
        out[:3, 3] = self.at
        return out


def turn_matrix(turn: Triple) -> Matrix:
    """(3, 3) rotation by degrees about X, then Y, then Z.

    Examples
    --------
    >>> (turn_matrix((0.0, 90.0, 0.0)) @ [0, 0, 1]).round(6).tolist()
    [1.0, 0.0, 0.0]
    """
    out = np.eye(3)
    for axis, degrees in enumerate(turn):
        c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        one = np.eye(3)
        i, j = (axis + 1) % 3, (axis + 2) % 3
        one[i, i], one[i, j], one[j, i], one[j, j] = c, -s, s, c
        out = one @ out
    return out


def upright(up: NDArray[np.floating]) -> Triple:
    """Degrees by which something that stands along +Y is turned so that it stands along a (3,) unit vector.

    Examples
    --------
    >>> upright(np.array([0.0, 1.0, 0.0]))
    (0.0, 0.0, 0.0)
    """
    x, y, z = (float(value) for value in up)
    if x == 0 and z == 0 and y > 0:
        return 0.0, 0.0, 0.0
    # the shortest way from +Y (Rodrigues), taken apart into turns about X, then Y, then Z
    axis = np.array([z, 0.0, -x])
    size = float(np.linalg.norm(axis))
    axis = axis / size if size > 1e-12 else np.array([1.0, 0.0, 0.0])
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    turn = np.eye(3) + size * cross + (1 - y) * cross @ cross
    about_y = math.asin(max(-1.0, min(1.0, -turn[2, 0])))
    about_x, about_z = math.atan2(turn[2, 1], turn[2, 2]), math.atan2(turn[1, 0], turn[0, 0])
    return math.degrees(about_x), math.degrees(about_y), math.degrees(about_z)


def world_matrix(objects: tuple[SceneObject, ...], one: SceneObject) -> Matrix:
    """(4, 4) from the space of an object to the world, through all it goes along with.

    Raises
    ------
    InvalidInput
        It goes along with itself.
    """
    by_ident = {entry.ident: entry for entry in objects}
    out = one.matrix()
    parent, seen = one.parent, {one.ident}
    while parent:
        if parent in seen or parent not in by_ident:
            raise InvalidInput(f"{one.name!r} goes along with itself, or with something that is not there")
        seen.add(parent)
        out = by_ident[parent].matrix() @ out
        parent = by_ident[parent].parent
    return out


def check_objects(objects: tuple[SceneObject, ...], where: str) -> None:
    """Refuse objects that no project may hold, whatever their kind.

    Raises
    ------
    InvalidInput
    """
    if len({entry.ident for entry in objects}) < len(objects):
        raise InvalidInput(f"{where}: two objects share a number")
    for entry in objects:
        what = f"{where} {entry.name!r}"
        if entry.ident < 1:
            raise InvalidInput(f"{what}: its number is {entry.ident}; numbers are larger than 0")
        check_place(entry.at, f"{what}: its place")
        if not all(math.isfinite(degrees) and abs(degrees) <= 1e6 for degrees in entry.turn):
            raise InvalidInput(f"{what}: it must be turned by three finite numbers of degrees")
        if not SMALLEST <= entry.scale <= LARGEST:
            raise InvalidInput(
                f"{what}: its scale is {entry.scale:g}; it must lie between {SMALLEST:g} and {LARGEST:g}"
            )
        world_matrix(objects, entry)


KEYS = tuple(name for name in SceneObject.__struct_fields__ if name != "more")


def to_record(entry: SceneObject) -> dict[str, Any]:
    """What a file says of an object."""
    return {**{key: getattr(entry, key) for key in KEYS}, **entry.more}


def from_record(record: Mapping[str, Any], where: str) -> SceneObject:
    """The object that a file speaks of; what is not known of it is kept.

    Raises
    ------
    InvalidInput
    """
    known = {key: value for key, value in record.items() if key in KEYS}
    more = {str(key): value for key, value in record.items() if key not in KEYS}
    try:
        return msgspec.convert({**known, "more": more}, SceneObject)
    except msgspec.ValidationError as error:
        raise InvalidInput(f"{where}: an object of the scene cannot be read ({error})") from error
