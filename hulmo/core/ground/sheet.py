"""How images of what is known at vertices lie over a body, so that they go out and come back without loss.

The texel that a vertex lies in holds just its value, and the others what lies between vertices. Read back, a vertex takes
the value of its texel. So an image that nobody touched changes nothing, whatever lies between.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import UV
from hulmo.core.uv.texels import texels_of, with_margin

Whole = NDArray[np.uint16]
Figures = NDArray[np.float64]
Box = tuple[float, float, float]

MARGIN = 16
"""Texels around charts that are filled, so that brushes of other programs do not draw in what lies outside."""


@dataclass(frozen=True)
class Sheet:
    """An image laid over a body.

    Attributes
    ----------
    places : (M, 3, 2) float64
        Coordinates of the corners of the live triangles, 0 to 1 from left to right and from top to bottom.
    triangles : (M, 3) int32
        Their vertices.
    count : int
        Vertices of the body.
    """

    places: Figures
    triangles: NDArray[np.int32]
    count: int

    def written(self, values: Whole, size: int) -> tuple[Whole, int]:
        """An image of values at vertices, and how many vertices share their texel with another value.

        Parameters
        ----------
        values : (N, C) uint16
        size : int
            Texels a side.

        Returns
        -------
        image : (size, size, C) uint16
        crowded : int
        """
        texels = texels_of(self.places, (size, size))
        at, slot, share = texels.places(0, size)
        rows = self.triangles[slot]
        share = share.astype(np.float64)
        mixed = values[rows[:, 0]] * (1.0 - share.sum(axis=1))[:, None]
        mixed += values[rows[:, 1]] * share[:, :1]
        mixed += values[rows[:, 2]] * share[:, 1:]
        image = np.zeros((size * size, values.shape[1]), np.uint16)
        image[at] = np.rint(mixed)
        vertex, texel = self.pairs(size, size)
        image[texel] = values[vertex]
        crowded = int(np.unique(vertex[(image[texel] != values[vertex]).any(axis=1)]).size)
        taken = with_margin(texels.triangle >= 0, MARGIN)
        filled = taken >= 0
        image[filled] = image[taken[filled]]
        return image.reshape(size, size, -1), crowded

    def read(self, image: NDArray[np.float32], between: bool) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
        """Values at vertices of an image, and which vertices lie on it.

        Parameters
        ----------
        image : (H, W, C) float32
        between : bool
            Whether values are taken in proportion between texels; otherwise each vertex takes that of its texel.

        Returns
        -------
        (N, C) float32
            Where a vertex has several places, at a seam, the mean of what is there.
        (N,) bool
        """
        height, width = image.shape[:2]
        if between:
            vertex = self.triangles.reshape(-1)
            spot = self.places.reshape(-1, 2)
            inside = ((spot >= 0) & (spot <= 1)).all(axis=1)
            return self._means(vertex[inside], _between(image, spot[inside]))
        vertex, texel = self.pairs(width, height)
        return self._means(vertex, image.reshape(height * width, -1)[texel])

    def kept(self, values: Whole, full: int, width: int, height: int) -> NDArray[np.float32]:
        """(N, C) what `read` would find, without `between`, in the image of (N, C) whole numbers as they are, over `full`."""
        vertex, texel = self.pairs(width, height)
        texels, at = np.unique(texel, return_inverse=True)
        image = np.zeros((texels.size, values.shape[1]), np.uint16)
        image[at] = values[vertex]
        return self._means(vertex, image[at].astype(np.float32) / np.float32(full))[0]

    def _means(
        self, vertex: NDArray[np.int32], found: NDArray[np.floating]
    ) -> tuple[NDArray[np.float32], NDArray[np.bool_]]:
        hits = np.bincount(vertex, minlength=self.count)
        there = hits > 0
        total = np.zeros((self.count, found.shape[1]))
        for k in range(found.shape[1]):
            total[there, k] = np.bincount(vertex, found[:, k], self.count)[there] / hits[there]
        return total.astype(np.float32), there

    def pairs(self, width: int, height: int) -> tuple[NDArray[np.int32], NDArray[np.int64]]:
        """Vertices, and the texels that they lie in; a vertex at a seam has several."""
        spot = self.places.reshape(-1, 2)
        inside = ((spot >= -1e-6) & (spot <= 1 + 1e-6)).all(axis=1)
        column = np.clip((spot[inside, 0] * width).astype(np.int64), 0, width - 1)
        row = np.clip((spot[inside, 1] * height).astype(np.int64), 0, height - 1)
        both = np.unique(self.triangles.reshape(-1)[inside].astype(np.int64) << 32 | (row * width + column))
        return (both >> 32).astype(np.int32), both & 0xFFFFFFFF


def sheet_of(body: Body, by: str, column: str = UV, box: Box | None = None) -> Sheet:
    """How an image lies over a body.

    Parameters
    ----------
    by : str
        uv or above.
    column : str
        Corner column of texture coordinates.
    box : (east, south, side), optional
        Metres: where the image begins in the west and in the north, and how far it reaches; the body's extent without.

    Raises
    ------
    InvalidInput
        No such texture coordinates.
    """
    live = body.corners.triangles[:, 0] >= 0
    triangles = body.corners.triangles[live]
    if by == "uv":
        uv = body.corners.slots.get(column)
        if uv is None:
            raise InvalidInput(f"{body.name!r} has no UV{column[len(UV) :]}; lay or unwrap it, or take it from above")
        return Sheet(uv[live].astype(np.float64), triangles, body.vertices.count)
    west, north, side = box or box_of(body)
    place = body.placed(body.vertices["position"])[:, (0, 2)]
    places = (place - (west, north)) / side
    return Sheet(places[triangles], triangles, body.vertices.count)


def box_of(body: Body) -> Box:
    """West, north and side of the square that a body fills as seen from above, metres."""
    rows = np.unique(body.corners.live_triangles())
    place = body.placed(body.vertices["position"])[rows][:, (0, 2)]
    low, high = low_high(place)
    return float(low[0]), float(low[1]), max(float((high - low).max()), 1e-6)


def _between(image: NDArray[np.float32], spot: Figures) -> Figures:
    height, width = image.shape[:2]
    at = spot * (width, height) - 0.5
    low = np.floor(at).astype(np.int64)
    part = at - low
    left, right = (np.clip(low[:, 0] + step, 0, width - 1) for step in (0, 1))
    top, bottom = (np.clip(low[:, 1] + step, 0, height - 1) for step in (0, 1))
    x, y = part[:, :1], part[:, 1:]
    upper = image[top, left] * (1 - x) + image[top, right] * x
    lower = image[bottom, left] * (1 - x) + image[bottom, right] * x
    return np.asarray(upper * (1 - y) + lower * y, np.float64)
