"""A quick course of a line, as it is drawn on the screen."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.lines.curve import smooth_curve
from hulmo.core.lines.ground import Ground, Places

PLACES = 160
"""Places of one line, about."""


def sketched(
    ground: Ground, points: Places, corner: NDArray[np.bool_], closed: bool
) -> tuple[Places, NDArray[np.int32], NDArray[np.float64]]:
    """Places along a line, the vertex nearest to each, and where among the points each lies.

    Parameters
    ----------
    points : (K, 3) float64
        Metres about the origin of the body.
    corner : (K,) bool
    closed : bool
        Whether the first place comes last again.
    """
    keep = np.ones(points.shape[0], np.bool_)
    keep[1:] = np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-9
    at = np.flatnonzero(keep).astype(np.float64)
    points, corner = points[keep], corner[keep]
    closed = closed and points.shape[0] > 2
    if points.shape[0] > 1:
        total = float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
        points, number = smooth_curve(points, corner, closed, max(total / PLACES, 1e-9))
        at = np.interp(number, np.arange(at.size + 1), np.append(at, at[-1] + 1))
        if closed:
            points, at = np.concatenate((points, points[:1])), np.append(at, at[-1])
    triangle, weight = ground.nearest(points)
    rows = np.take_along_axis(ground.corners.triangles[triangle], weight.argmax(axis=1)[:, None], axis=1)[:, 0]
    return ground.at(triangle, weight), rows.astype(np.int32), at
