"""What a way of laying texture coordinates is."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.low_high import low_high
from hulmo.core.setting import Setting, Values

Places = NDArray[np.float64]


@dataclass(frozen=True)
class Projection:
    """One way: one file, one line in `uv/__init__.py`.

    Attributes
    ----------
    name, label, help : str
    settings : tuple of Setting
    lay : callable
        From (M, 3, 3) corners of triangles, (M, 3) their unit normals, the (3, 3) ways east, up and south in rows, and
        settings to (M, 3, 2) metres: to the right, and down. A triangle that is seen from outside is not mirrored.
    """

    name: str
    label: str
    help: str
    settings: tuple[Setting, ...]
    lay: Callable[[Places, Places, Places, Values], Places]


def sides_of(way: Places) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
    """Which axis (0, 1, 2) each of (M, 3) vectors goes along most, and whether it goes backward."""
    axis = np.abs(way).argmax(axis=1)
    return axis, way[np.arange(way.shape[0]), axis] < 0


def seen_on_side(local: Places, axis: NDArray[np.intp], back: NDArray[np.bool_]) -> Places:
    """(M, 3, 3) right, down and outward of (M, 3, 3) places (east, up, south), for one who looks at a side from outside."""
    east, up, south = local[..., 0], local[..., 1], local[..., 2]
    axis, turn = axis[:, None], np.where(back, -1.0, 1.0)[:, None]
    right = np.where(axis == 0, -south * turn, np.where(axis == 1, east, east * turn))
    down = np.where(axis == 1, south * turn, -up)
    out = np.where(axis == 0, east * turn, np.where(axis == 1, up * turn, south * turn))
    return np.stack((right, down, out), axis=2)


def unbroken(angle: Places) -> Places:
    """(M, 3) angles of triangles, with whole turns added so that no triangle reaches round."""
    return np.asarray(angle + 2 * np.pi * np.round((angle[:, :1] - angle) / (2 * np.pi)))


def middle_of(local: Places) -> Places:
    """(3,) the middle of the extent of (M, 3, 3) places."""
    flat = local.reshape(-1, 3)
    return np.asarray(np.add(*low_high(flat)) / 2)
