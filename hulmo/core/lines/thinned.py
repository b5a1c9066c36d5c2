"""The few points that a line drawn freehand needs."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.polyline import needed

Places = NDArray[np.float64]


def thinned(places: Places, tolerance: float) -> Places:
    """The places of a polyline without those that lie within a tolerance of what is left.

    Parameters
    ----------
    places : (K, 3) float64
    tolerance : float
        Metres.

    Examples
    --------
    >>> thinned(np.array([[0.0, 0, 0], [1, 0.01, 0], [2, 0, 0], [2, 0, 3]]), 0.1).tolist()
    [[0.0, 0.0, 0.0], [2.0, 0.0, 0.0], [2.0, 0.0, 3.0]]
    """
    return np.asarray(places[needed(places, tolerance)])
