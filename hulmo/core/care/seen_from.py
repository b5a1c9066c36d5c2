"""How many pixels triangles take from viewpoints, and which none of them ever sees."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.dress.viewpoint import Viewpoint, view_axes
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.line_of_sight import hidden, visible
from hulmo.core.progress import Progress

Figures = NDArray[np.float64]
Mask = NDArray[np.bool_]

CLOSEST = 1e-3
"""Metres before the eye from which on anything is seen."""

ASK_MIDDLE = 3.0
"""Pixels from which on a triangle without a corner in sight is asked for its middle: a large one may show no more."""


@dataclass(frozen=True)
class Seen:
    """What viewpoints see of a body.

    Attributes
    ----------
    pixels : (M,) float64
        By slot: most pixels that a triangle takes in any picture; 0 where it is in none.
    seen : (M,) bool
        Whether any viewpoint sees any of it; never of freed slots.
    """

    pixels: Figures
    seen: Mask


def seen_from(
    body: Body, views: tuple[Viewpoint, ...], size: tuple[int, int], progress: Progress, others: tuple[Body, ...] = ()
) -> Seen:
    """Look at a body from viewpoints.

    Parameters
    ----------
    size : tuple of int
        Pixels of the pictures, width and height.
    others : tuple of Body
        What else may stand before it.

    Notes
    -----
    A triangle counts as seen where one of its corners or its middle is in the picture and nothing lies between.
    """
    corners = body.corners
    live = corners.triangles[:, 0] >= 0
    pixels, seen = np.zeros(corners.count), np.zeros(corners.count, np.bool_)
    place = body.placed(body.vertices["position"].astype(np.float64))
    middle = place[corners.triangles].mean(axis=1)
    every = np.arange(body.vertices.count, dtype=np.int32)
    for done, view in enumerate(views):
        progress.step(done / len(views), f"looking from {view.name}")
        eye = np.array(view.eye)
        at, ahead = _on_picture(place, view, size)
        inside = _inside(at, ahead, size)
        rows = every[inside & (corners.first_corner >= 0)]
        clear = np.zeros(every.size, np.bool_)
        clear[rows] = visible(body, rows, body.own(eye))
        for other in others:
            clear &= ~_behind(other, place, eye, clear)
        here = live & any_of(clear, corners.triangles)
        size_there = _areas(at, corners.triangles)
        front = (ahead[corners.triangles] > CLOSEST).all(axis=1)
        # what is large and shows no corner may show its middle
        asked = np.flatnonzero(live & ~here & front & (size_there > ASK_MIDDLE))
        centre, depth = _on_picture(middle[asked], view, size)
        asked = asked[_inside(centre, depth, size)]
        away = hidden(body, body.own(middle[asked]), body.own(eye))
        for other in others:
            away |= _behind(other, middle[asked], eye, ~away)
        here[asked] |= ~away
        pixels[here & front] = np.maximum(pixels[here & front], size_there[here & front])
        pixels[here & ~front] = np.inf  # it reaches past the eye
        seen |= here
    return Seen(pixels, seen)


def _on_picture(place: Figures, view: Viewpoint, size: tuple[int, int]) -> tuple[Figures, Figures]:
    # (K, 2) pixels of places, and (K,) metres that they lie ahead
    eye, target = np.array(view.eye), np.array(view.target)
    own = (place - eye) @ view_axes(target - eye)
    ahead = -own[:, 2]
    scale = size[1] / 2 / math.tan(math.radians(view.field) / 2)
    safe = np.maximum(ahead, CLOSEST)
    return np.stack((size[0] / 2 + own[:, 0] / safe * scale, size[1] / 2 - own[:, 1] / safe * scale), axis=1), ahead


def _inside(at: Figures, ahead: Figures, size: tuple[int, int]) -> Mask:
    return np.asarray(
        (ahead > CLOSEST) & (at[:, 0] >= 0) & (at[:, 0] <= size[0]) & (at[:, 1] >= 0) & (at[:, 1] <= size[1])
    )


def _areas(at: Figures, triangles: NDArray[np.int32]) -> Figures:
    a, b, c = (at[triangles[:, k]] for k in range(3))
    return np.asarray(np.abs((b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])) / 2)


def _behind(other: Body, place: Figures, eye: Figures, asked: Mask) -> Mask:
    # which of the places that are asked for another body hides
    out = np.zeros(place.shape[0], np.bool_)
    out[asked] = hidden(other, other.own(place[asked]), other.own(eye))
    return out
