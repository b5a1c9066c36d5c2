"""The few points that a line drawn freehand needs."""

import numpy as np
from numpy.typing import NDArray

Places = NDArray[np.float64]


def thinned(places: Places, tolerance: float) -> Places:
    """The places of a polyline without those that lie within a tolerance of what is left.

    Parameters
    ----------
    places : (K, 3) float64
    tolerance : float
        Metres.

    Notes
    -----
    Douglas and Peucker (1973).

    Examples
    --------
    >>> thinned(np.array([[0.0, 0, 0], [1, 0.01, 0], [2, 0, 0], [2, 0, 3]]), 0.1).tolist()
    [[0.0, 0.0, 0.0], [2.0, 0.0, 0.0], [2.0, 0.0, 3.0]]
    """
    keep = np.zeros(places.shape[0], np.bool_)
    keep[[0, -1]] = True
    waiting = [(0, places.shape[0] - 1)]
    while waiting:
        first, last = waiting.pop()
        if last - first < 2:
            continue
        way, to = places[last] - places[first], places[first + 1 : last] - places[first]
        t = np.clip(to @ way / max(float(way @ way), 1e-30), 0.0, 1.0)
        away = np.linalg.norm(to - t[:, None] * way, axis=1)
        far = int(away.argmax())
        if away[far] > tolerance:
            keep[first + 1 + far] = True
            waiting += [(first, first + 1 + far), (first + 1 + far, last)]
    return np.asarray(places[keep])
