"""Which places of a polyline are needed."""

import numpy as np
from numpy.typing import NDArray

Mask = NDArray[np.bool_]


def needed(places: NDArray[np.float64], tolerance: float) -> Mask:
    """(K,) places of a polyline without which what is left would lie further than a tolerance off one of them.

    Parameters
    ----------
    places : (K, D) float64
        In any number of dimensions; both ends are needed.
    tolerance : float

    Notes
    -----
    Douglas and Peucker (1973).

    Examples
    --------
    >>> needed(np.array([[0.0, 0], [1, 0.01], [2, 0], [2, 3]]), 0.1).tolist()
    [True, False, True, True]
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
    return keep
