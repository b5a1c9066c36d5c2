"""What of a body can be painted in images: as whole numbers at vertices, and back."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import linear_to_srgb, srgb_to_linear
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.normals import update_normals

Whole = NDArray[np.uint16]
Values = NDArray[np.float32]

FARTHEST = 1e5
"""Metres that black and white may stand for."""


@dataclass(frozen=True)
class Painted:
    """One kind of what images hold.

    Attributes
    ----------
    name, label, help : str
    """

    name: str
    label: str
    help: str


PAINTED: dict[str, Painted] = {
    entry.name: entry
    for entry in (
        Painted("grounds", "Grounds", "A grey image for each ground: white is all of it."),
        Painted("guard", "Guard", "A grey image: white is guarded wholly."),
        Painted("tint", "Tint", "A colour image, and a grey one of how much it covers."),
        Painted("relief", "Relief layer", "A grey image of heights between those for black and white."),
    )
}


def ground_values(body: Body, grounds: int, full: int) -> Whole:
    """(N, grounds) shares as whole numbers that sum to `full`."""
    return np.asarray(quantise(weights_of(body, grounds), full)[:, :grounds])


def guard_values(body: Body, full: int) -> Whole:
    """(N, 1) guard as whole numbers."""
    guard = body.vertices.get(GUARD)
    if guard is None:
        return np.zeros((body.vertices.count, 1), np.uint16)
    return np.rint(np.clip(guard.astype(np.float64), 0.0, 1.0) * full).astype(np.uint16)


def tint_values(body: Body, full: int) -> Whole:
    """(N, 4) colour by the sRGB curve, white where there is none, and cover, as whole numbers."""
    tint = body.vertices.get(TINT)
    if tint is None:
        out = np.zeros((body.vertices.count, 4), np.uint16)
        out[:, :3] = full
        return out
    known = tint.astype(np.float64)
    cover = np.clip(known[:, 3:], 0.0, 1.0)
    some = np.rint(cover * full) > 0
    colour = np.where(some, known[:, :3] / np.where(some, cover, 1.0), 1.0)
    shown = np.where(some, linear_to_srgb(np.clip(colour, 0.0, 1.0)), 1.0)
    whole: Whole = np.rint(np.concatenate((shown, cover), axis=1) * full).astype(np.uint16)
    return whole


def tint_of(values: Values) -> Values:
    """(N, 4) tint of (N, 4) colours by the sRGB curve and cover, 0 to 1."""
    linear = srgb_to_linear(np.clip(values[:, :3], 0.0, 1.0))
    return np.concatenate((linear * values[:, 3:], values[:, 3:]), axis=1).astype(np.float32)


def height_values(body: Body, layer: Layer, low: float, high: float, full: int) -> tuple[Whole, int]:
    """(N, 1) heights of a relief layer along the normals beneath it as whole numbers, and how many lie beyond the range."""
    height = heights_of(body, layer)[0]
    share = (height - low) / (high - low)
    slack = 0.5 / full
    beyond = int(((share < -slack) | (share > 1 + slack)).sum())
    return np.rint(np.clip(share, 0.0, 1.0) * full).astype(np.uint16)[:, None], beyond


def heights_of(body: Body, layer: Layer) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(N,) metres of a layer along the normals of the surface beneath it, and (N, 3) those normals."""
    place = body.layers.index(layer)
    below = body.surface(body.layers[place - 1] if place else None)
    normal, corners = np.zeros_like(below), body.corners
    rows = np.arange(body.vertices.count, dtype=np.int32)
    update_normals(below, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
    ways = normal.astype(np.float64)
    return (body.vertices[layer.column].astype(np.float64) * ways).sum(axis=1), ways


def checked_range(low: float, high: float, where: str) -> None:
    """Raises InvalidInput where black and white do not stand for two heights."""
    if not (np.isfinite([low, high]).all() and abs(low) <= FARTHEST and abs(high) <= FARTHEST and high - low >= 1e-6):
        raise InvalidInput(
            f"{where}: low is {low:g} and high {high:g} m; high must lie above low, both within {FARTHEST:g}"
        )
