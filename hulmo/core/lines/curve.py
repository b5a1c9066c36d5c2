"""The smooth curve through the points of a line."""

import itertools
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Places = NDArray[np.float64]


def smooth_curve(
    points: Places, corner: NDArray[np.bool_], closed: bool, step: float
) -> tuple[Places, NDArray[np.float64]]:
    """Places along a curve through points, smooth but where it has corners.

    Parameters
    ----------
    points : (K, 3) float64
        Metres; 2 or more, no two in a row at the same place.
    corner : (K,) bool
        Where the curve may turn sharply.
    closed : bool
        Whether it goes on from the last point to the first.
    step : float
        Metres that places lie apart, about.

    Returns
    -------
    tuple
        (M, 3) places, the last one of a closed curve before the first; and (M,) where among the points each lies: 1.5 is
        halfway from the second to the third.

    Notes
    -----
    Cubic splines with continuous second derivatives over the square root of the chord (centripetal; Lee 1989), periodic
    where the curve is closed and has no corner.

    Examples
    --------
    >>> square = np.array([[0.0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1]])
    >>> places, at = smooth_curve(square, np.ones(4, bool), True, 0.5)
    >>> len(places), float(at[1])
    (8, 0.5)
    """
    count = points.shape[0]
    at_corner = np.flatnonzero(corner).tolist()
    if closed and not at_corner:
        whole = np.concatenate((points, points[:1]))
        place, at = _sampled(whole, np.arange(count + 1.0), step, True)
        return place[:-1], at[:-1]
    places, ats = [], []
    for run in _runs(count, at_corner, closed):
        place, at = _sampled(points[np.array(run) % count], np.array(run, np.float64), step, False)
        places.append(place[:-1])
        ats.append(at[:-1])
    if not closed:
        places.append(points[-1:])
        ats.append(np.array([count - 1.0]))
    return np.concatenate(places), np.concatenate(ats) % count


def _runs(count: int, corners: list[int], closed: bool) -> Iterator[list[int]]:
    # numbers of points from corner to corner; of a closed curve they go on beyond the last
    if closed:
        for i, start in enumerate(corners):
            end = corners[i + 1] if i + 1 < len(corners) else corners[0] + count
            yield list(range(start, end + 1))
        return
    stops = sorted({0, *corners, count - 1})
    for start, end in itertools.pairwise(stops):
        yield list(range(start, end + 1))


def _sampled(
    points: Places, number: NDArray[np.float64], step: float, periodic: bool
) -> tuple[Places, NDArray[np.float64]]:
    chord = np.linalg.norm(np.diff(points, axis=0), axis=1)
    knot = np.concatenate(([0.0], np.cumsum(np.sqrt(chord))))
    pieces = np.maximum(np.ceil(chord / step).astype(int), 1)
    share = np.concatenate([i + np.arange(n) / n for i, n in enumerate(pieces)] + [np.array([float(len(pieces))])])
    at = np.interp(share, np.arange(points.shape[0]), knot)
    where = np.interp(share, np.arange(points.shape[0]), number)
    if points.shape[0] == 2:
        part = share[:, None]
        return points[0] + part * (points[1] - points[0]), where
    return _spline(knot, points, at, periodic), where


def _spline(knot: NDArray[np.float64], points: Places, at: NDArray[np.float64], periodic: bool) -> Places:
    # solved here: SciPy's splines take more than a second to import, when somebody has just placed a second point
    h, slope = np.diff(knot), np.diff(points, axis=0) / np.diff(knot)[:, None]
    count = points.shape[0]
    size = count - 1 if periodic else count
    matrix, given = np.eye(size), np.zeros((size, 3))
    rows = np.arange(size) if periodic else np.arange(1, count - 1)
    before, after = h[rows - 1], h[rows % h.size]
    matrix[rows, rows] = 2 * (before + after)
    matrix[rows, rows - 1] += before
    matrix[rows, (rows + 1) % size] += after
    given[rows] = 6 * (slope[rows % h.size] - slope[rows - 1])
    bend = np.linalg.solve(matrix, given)  # second derivatives
    if periodic:
        bend = np.concatenate((bend, bend[:1]))
    piece = np.clip(np.searchsorted(knot, at, side="right") - 1, 0, h.size - 1)
    u, v, w = at - knot[piece], knot[piece + 1] - at, h[piece]
    first = bend[piece] * (v**3 / (6 * w))[:, None] + bend[piece + 1] * (u**3 / (6 * w))[:, None]
    second = (points[piece] / w[:, None] - bend[piece] * w[:, None] / 6) * v[:, None]
    third = (points[piece + 1] / w[:, None] - bend[piece + 1] * w[:, None] / 6) * u[:, None]
    return np.asarray(first + second + third)
