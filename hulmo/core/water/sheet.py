"""Even sheets that waters are cut from: level, or round about a centre."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.down import Down
from hulmo.core.mesh.forms import FORMS

Places = NDArray[np.float64]
Triangles = NDArray[np.int32]

MOST_ROUND = 400_000
"""Triangles of a sphere that is begun with at the most."""


def flat_sheet(
    middle: Places, east: Places, north: Places, low: Places, high: Places, edge: float
) -> tuple[Places, Triangles]:
    """A rectangle of even triangles.

    Parameters
    ----------
    middle, east, north : (3,) float64
        Where it counts from, and its unit vectors.
    low, high : (2,) float64
        Its corners along those, metres.
    edge : float
        About how long edges are, metres.

    Returns
    -------
    tuple
        (N, 3) places and (M, 3) triangles that face east x north's way up.
    """
    columns, rows = (max(2, int(np.ceil(side / edge))) for side in (high - low))
    across, along = np.linspace(low[0], high[0], columns + 1), np.linspace(low[1], high[1], rows + 1)
    x, y = np.meshgrid(across, along)
    position = middle + x.reshape(-1, 1) * east + y.reshape(-1, 1) * north
    at = (np.arange(rows)[:, None] * (columns + 1) + np.arange(columns)).reshape(-1)
    right, up, both = at + 1, at + columns + 1, at + columns + 2
    slant = ((np.arange(rows)[:, None] + np.arange(columns)) % 2 == 0).reshape(-1, 1)
    one = np.where(slant, np.stack((at, right, both), axis=1), np.stack((at, right, up), axis=1))
    two = np.where(slant, np.stack((at, both, up), axis=1), np.stack((right, both, up), axis=1))
    return position, np.concatenate((one, two)).astype(np.int32)


def round_sheet(centre: Places, radius: float, edge: float) -> tuple[Places, Triangles]:
    """A sphere of about even triangles, facing outward."""
    edge = max(edge, radius * np.sqrt(4.0 * np.pi / (0.433 * MOST_ROUND)))
    shape = FORMS["box_sphere"].build({"radius": radius, "edge": edge})
    way = shape.position.astype(np.float64)
    way *= radius / np.linalg.norm(way, axis=1, keepdims=True)
    return centre + way, shape.triangles


def on_level(down: Down, height: float, points: Places) -> Places:
    """(K, 3) places of the world brought straight up or down to a height."""
    origin = (0.0, 0.0, 0.0)
    return np.asarray(points + down.up(points, origin) * (height - down.height(points, origin))[:, None])
