"""The nearest of many places that lie in a row, for many points at once."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels

Places = NDArray[np.float64]

RUN = 16
"""Places in one box, and boxes in one wider box: what follows each other lies close together."""


class NearestPlace:
    """Finds the nearest of some places; made once, asked often.

    Boxes around runs of places, and around runs of those: places of a course follow each other, so that no sorting is
    needed, and whoever asks for points side by side begins with the place found last.

    Parameters
    ----------
    places : (K, 3) float64
        One or more.

    Examples
    --------
    >>> NearestPlace(np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]])).of(np.array([[0.9, 1.0, 0.0]]))
    array([1])
    """

    def __init__(self, places: Places) -> None:
        self._places = np.ascontiguousarray(places, np.float64)
        starts = np.arange(0, self._places.shape[0], RUN)
        low, high = (extreme.reduceat(self._places, starts) for extreme in (np.minimum, np.maximum))
        wide = np.arange(0, starts.size, RUN)
        self._boxes = np.stack((low, high), axis=1)
        self._wide = np.stack((np.minimum.reduceat(low, wide), np.maximum.reduceat(high, wide)), axis=1)

    def of(self, points: Places) -> NDArray[np.int64]:
        """(L,) number of the place nearest to each of (L, 3) points; of several the first found."""
        out = np.empty(points.shape[0], np.int64)
        _nearest(np.ascontiguousarray(points, np.float64), self._places, self._boxes, self._wide, out)
        return out


@written_into_kernels
def _to_box(box, point):  # type: ignore[no-untyped-def]
    far = 0.0
    for axis in range(3):
        off = max(box[0, axis] - point[axis], point[axis] - box[1, axis], 0.0)
        far += off * off
    return far


@written_into_kernels
def _apart(one, other):  # type: ignore[no-untyped-def]
    far = 0.0
    for axis in range(3):
        far += (one[axis] - other[axis]) ** 2
    return far


@kernel("void(float64[:,::1], float64[:,::1], float64[:,:,::1], float64[:,:,::1], int64[::1])")
def _nearest(
    points: Places, places: Places, boxes: NDArray[np.float64], wide: NDArray[np.float64], out: NDArray[np.int64]
) -> None:
    found = np.int64(0)
    for i in range(points.shape[0]):
        best = _apart(points[i], places[found])
        for w in range(wide.shape[0]):
            if _to_box(wide[w], points[i]) >= best:
                continue
            for b in range(w * RUN, min((w + 1) * RUN, boxes.shape[0])):
                if _to_box(boxes[b], points[i]) >= best:
                    continue
                for k in range(b * RUN, min((b + 1) * RUN, places.shape[0])):
                    far = _apart(points[i], places[k])
                    if far < best:
                        best = far
                        found = np.int64(k)
        out[i] = found
