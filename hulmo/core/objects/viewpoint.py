"""Viewpoints: named places to look from."""

import functools
import math
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.dress.viewpoint import Viewpoint, check_viewpoint
from hulmo.core.errors import InvalidInput
from hulmo.core.objects.kind import Mesh, ObjectKind, put_by
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import Choice, Number, Switch

FIELD = Number(
    "field",
    "Lens",
    "°",
    5.0,
    120.0,
    40.0,
    "Degrees from the lower to the upper rim of the picture: wide angles make room.",
)


FRAMES = {
    "free": 0.0,
    "16:9": 16 / 9,
    "3:2": 1.5,
    "4:3": 4 / 3,
    "1:1": 1.0,
    "2:3": 2 / 3,
    "9:16": 9 / 16,
    "2.39:1": 2.39,
}
"""Width over height of pictures, by what it is called."""

FRAME = Choice(
    "frame",
    "Frame",
    tuple((name, "Any" if name == "free" else name, "Width to height of its pictures.") for name in FRAMES),
    "free",
    "Width to height of its pictures.",
)

LOCKED = Switch("locked", "Locked", False, "It stays where it is until this is off.")


def viewpoint_of(entry: SceneObject) -> Viewpoint:
    """The camera that an object of this kind is.

    Raises
    ------
    InvalidInput
        Its values are none of a camera.
    """
    target, field = entry.values.get("target"), entry.values.get("field", FIELD.default)
    numbers: list[Any] = [*target, field] if isinstance(target, list | tuple) and len(target) == 3 else [None]
    if not all(isinstance(value, int | float) and not isinstance(value, bool) for value in numbers):
        raise InvalidInput(
            f"viewpoint {entry.name!r}: it needs three numbers for what it looks at, and one for its lens"
        )
    try:
        x, y, z, degrees = (float(value) for value in numbers)
    except OverflowError as error:
        raise InvalidInput(f"viewpoint {entry.name!r}: a number of it is too large") from error
    return Viewpoint(entry.name, entry.at, (x, y, z), degrees, FRAMES.get(str(entry.values.get("frame")), 0.0))


def viewpoint_values(view: Viewpoint) -> dict[str, object]:
    """What an object needs to know besides its place to be a camera."""
    return {"field": view.field, "target": list(view.target)}


def _check(entry: SceneObject, where: str) -> None:
    check_viewpoint(viewpoint_of(entry), where)
    for setting in (FRAME, LOCKED):
        if setting.name in entry.values:
            setting.check(entry.values[setting.name], f"{where} {entry.name!r}")


def _moved(entry: SceneObject, way: NDArray[np.float64]) -> SceneObject:
    target = (np.array(viewpoint_of(entry).target) + way).tolist()
    return msgspec.structs.replace(put_by(entry, way), values={**entry.values, "target": target})


@functools.cache
def _mesh() -> Mesh:
    # a low hood, open in front: the field a lens of 40 degrees sees
    wide, high = 0.62 * math.tan(math.radians(27)), 0.62 * math.tan(math.radians(20))
    tip = np.zeros(3)
    corners = [np.array((x, y, -0.62)) for x, y in ((-wide, -high), (wide, -high), (wide, high), (-wide, high))]
    position: list[NDArray[np.float64]] = []
    triangles: list[tuple[int, int, int]] = []
    for i in range(4):
        for order in ((0, 1, 2), (0, 2, 1)):  # seen from both sides
            begin = len(position)
            side = [tip, corners[i], corners[(i + 1) % 4]]
            position += [side[k] for k in order]
            triangles.append((begin, begin + 1, begin + 2))
    places = np.array(position, np.float32)
    faces = np.array(triangles, np.int32)
    a, b, c = (places[faces[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    return places, np.repeat(normal, 3, axis=0).astype(np.float32), faces


VIEWPOINT = ObjectKind(
    "viewpoint",
    "Viewpoint",
    "A named place to look from.",
    (FIELD, FRAME, LOCKED),
    _mesh,
    (0.10, 0.42, 0.45),
    True,
    _check,
    _moved,
    turns=False,
)
