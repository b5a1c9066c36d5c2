"""Axes and units of formats that say neither."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.io.delivery import Delivery
from hulmo.core.setting import Choice, Setting, Values

UNITS = {"m": 1.0, "cm": 100.0, "mm": 1000.0, "ft": 1 / 0.3048}
"""Units of a file in a metre."""

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "up", "Up axis",
        (
            ("y", "+Y up", "As in this program: X east, Y up, -Z north."),
            ("z", "+Z up", "Turned about X: X east, Y north, Z up."),
        ),
        "y", "Which axis of the file points up.",
    ),
    Choice(
        "unit", "Unit",
        (
            ("m", "Metre", "One unit of the file is a metre."),
            ("cm", "Centimetre", "One unit of the file is a centimetre."),
            ("mm", "Millimetre", "One unit of the file is a millimetre."),
            ("ft", "Foot", "One unit of the file is a foot of 0.3048 m."),
        ),
        "m", "How large one unit of the file is.",
    ),
)  # fmt: skip


HAND = Choice(
    "hand", "Handedness",
    (
        ("right", "Right-handed", "As in this program."),
        ("left", "Left-handed", "The axis along north is turned round: +Z north with Y up, -Y north with Z up."),
    ),
    "right", "Which way the third axis points.",
)  # fmt: skip
"""For formats that do not say it themselves."""


def placed(body: Delivery, values: Values) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
    """(N, 3) positions in the axes and units that were asked for, and (N, 3) unit normals in those axes."""
    position = (body.position.astype(np.float64) + body.origin) * UNITS[str(values["unit"])]
    normal = body.normal
    if values["up"] == "z":
        position, normal = (part[:, (0, 2, 1)] * np.array((1, -1, 1), part.dtype) for part in (position, normal))
    if values.get("hand") == "left":
        turn = (1, -1, 1) if values["up"] == "z" else (1, 1, -1)
        position, normal = (part * np.array(turn, part.dtype) for part in (position, normal))
    return position + 0.0, normal + np.float32(0.0)


def faced(body: Delivery, values: Values) -> NDArray[np.uint32]:
    """(M, 3) triangles, counter-clockwise as seen from outside in the axes that were asked for."""
    return body.triangles[:, (0, 2, 1)] if values.get("hand") == "left" else body.triangles
