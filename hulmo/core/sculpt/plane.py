"""The plane that Level, Shave and Infill work toward."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Dab
from hulmo.core.setting import Choice, Number, Setting, number

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "plane",
        "Plane",
        (
            ("start", "Where it began", "The plane that touches the surface where the stroke began."),
            ("height", "At a height", "A level plane at the height below; on a moon, all round."),
        ),
        "start",
        "Which plane the surface is brought to.",
    ),
    Number(
        "level", "Height", "m", -100_000.0, 100_000.0, 0.0, "Height of the level plane above zero.",
        comfort=(-20.0, 60.0), only=(("plane", "height"),),
    ),
)  # fmt: skip


def toward_plane(dab: Dab, above: bool, below: bool) -> NDArray[np.float32]:
    """New positions: each row goes its amount of the way to the plane, straight along the plane's normal.

    Parameters
    ----------
    dab : Dab
    above, below : bool
        Whether what stands above, and what lies below the plane is moved.

    Returns
    -------
    (K, 3) float32
        Metres.
    """
    if dab.values["plane"] == "height":
        position = np.take(dab.surface, dab.rows, axis=0)
        normal = dab.body.up(position)
        away = dab.body.heights(position) - number(dab.values, "level")
    else:
        position = np.take(dab.surface, dab.rows, axis=0)
        normal = dab.start_normal[None]
        away = (position - dab.start_point) @ dab.start_normal
    if not above:
        away = np.minimum(away, 0.0)
    if not below:
        away = np.maximum(away, 0.0)
    step = away * np.minimum(dab.amount, 1.0)
    return np.asarray(position - step[:, None] * normal, np.float32)
