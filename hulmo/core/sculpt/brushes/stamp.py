"""Stamp: place a grey image as relief, dragged to size and turned."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.grey_image import read_grey, sample_grey
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.direction import common_direction, direction_settings, moved
from hulmo.core.setting import Number, Picture, Values, number


def check(values: Values, where: str) -> None:
    """Raise a clear error when the image cannot be read."""
    read_grey(str(values["image"]), where=where)


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: along the chosen direction by amount times height times the image.

    The image fills the square around the brush circle, its top toward where the pointer was dragged to (else toward what
    is most upright). Grey at `flat` moves nothing.
    """
    values = dab.values
    way = common_direction(dab)
    up = dab.start_normal if way is None else way
    top, right = frame(dab, up, np.radians(number(values, "turn")))
    away = np.take(dab.surface, dab.rows, axis=0) - dab.start_point
    u, v = 0.5 + away @ right / (2 * dab.radius), 0.5 - away @ top / (2 * dab.radius)
    flat = number(values, "flat") / 100.0
    grey = sample_grey(read_grey(str(values["image"])), u, v, wrap=False)
    height = (grey - np.float32(flat)) / np.float32(max(flat, 1.0 - flat))
    scale = dab.radius * number(values, "height_share") / 100.0
    step = dab.amount * height * np.float32(-scale if dab.invert else scale)
    return moved(dab, step, way)


def frame(dab: Dab, up: NDArray[np.float64], turn: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Top and right of an image that lies square to `up`, turned by some radians; a mirrored copy has it mirrored."""
    for way in (dab.pull, dab.turn @ np.array([0.0, 1.0, 0.0]), dab.turn @ np.array([0.0, 0.0, -1.0])):
        top = way - up * (way @ up)
        length = float(np.linalg.norm(top))
        if length > 0.05 * float(np.linalg.norm(way)) > 0:
            top /= length
            break
    right = np.cross(top, up) * (-1.0 if dab.mirrored else 1.0)
    c, s = np.cos(turn), np.sin(turn)
    return c * top + s * right, c * right - s * top


BRUSH = Brush(
    name="stamp",
    label="Stamp",
    help="Places an image as relief. Drag to size and turn it.",
    key="T",
    stage="sculpt",
    group="Break up",
    column="position",
    settings=(
        Picture("image", "Image", "crater", "A shipped stamp, or any PNG, TIFF or JPEG."),
        Number(
            "height_share", "Height", "%", 0.0, 400.0, 30.0, "Height of full white, as a share of the radius.",
            comfort=(0.0, 100.0),
        ),
        Number("flat", "Flat grey", "%", 0.0, 100.0, 50.0, "Grey that moves nothing: 50 for shipped stamps, 0 for black."),
        Number("turn", "Turn", "°", -180.0, 180.0, 0.0, "Turns the image against the way it is dragged."),
        *direction_settings("mean"),
    ),
    apply=apply,
    inverse="Sink",
    defaults=(("strength", 100.0), ("falloff", "smooth"), ("core", 70.0)),
    places=True,
    check=check,
)  # fmt: skip
