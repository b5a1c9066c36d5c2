"""How bright a picture is, before exposure and curve."""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hulmo.render.camera import Camera
from hulmo.render.part import Part
from hulmo.render.renderer import Renderer, reach_of
from hulmo.render.targets import Targets

METERED = 180
"""Rows of the picture that is measured."""

GREY = 0.18
"""Light that the mean is brought to (Reinhard et al., "Photographic tone reproduction for digital images", SIGGRAPH 2002)."""

DARKEST = 1e-4
"""Light that is added before the logarithm is taken, so that black counts for little."""

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])

AROUND = 2
"""Pixels around one that its light is taken from."""


def mean_exposure(renderer: Renderer, camera: Camera, ratio: float) -> float:
    """Stops that bring the mean of the logarithms of a lit picture's light to middle grey.

    The renderer's context must be current. `ratio` is that of width to height.
    """
    size = (max(16, round(METERED * ratio)), METERED)
    light = _light(renderer, camera, Part.whole(size), size) @ LUMINANCE
    return math.log2(GREY / math.exp(float(np.log(light + DARKEST).mean())))


def light_at(
    renderer: Renderer, camera: Camera, size: tuple[int, int], at: tuple[int, int]
) -> tuple[float, float, float]:
    """Light of the pixels around one of a lit picture, linear red, green and blue, without exposure.

    Parameters
    ----------
    size : tuple of int
        Of the picture.
    at : tuple of int
        Column from the left and row from the top.
    """
    side = 16
    piece = Part(at[0] - side // 2, size[1] - 1 - at[1] - side // 2, side, side)
    light = _light(renderer, camera, piece, size)
    middle = slice(side // 2 - AROUND, side // 2 + AROUND + 1)
    red, green, blue = light[middle, middle].mean(axis=(0, 1)).tolist()
    return red, green, blue


def _light(renderer: Renderer, camera: Camera, piece: Part, size: tuple[int, int]) -> NDArray[np.float64]:
    camera = camera.clipped(reach_of(renderer.bounds(), renderer.project.objects, False))
    view = replace(renderer.view(camera, "lit"), hatch=False, backs=False, signs=False, vertices_of=0)
    targets = Targets(renderer.context, (piece.width, piece.height))
    try:
        renderer.shadow(view)
        renderer.piece(targets, view, piece, size, linear=True)
        return np.asarray(targets.light() / 2.0**view.light.exposure, np.float64)
    finally:
        targets.release()
