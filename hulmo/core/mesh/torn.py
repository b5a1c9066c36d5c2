"""Where what is known at the corners of triangles is torn at the edges between them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.low_high import low_high
from hulmo.core.mesh.one_ring import next_corner, previous_corner

Values = NDArray[np.floating]
Corners = NDArray[np.int32]


def ahead(corner: NDArray[np.integer], by: int) -> NDArray[np.integer]:
    """Corners so many further round their triangles."""
    return np.asarray(corner - corner % 3 + (corner + by) % 3)


def torn(values: Values, opposite: Corners, same: float) -> NDArray[np.bool_]:
    """(M, 3) edges, by the corner across, whose two sides have different values; of a border, that it is none.

    Parameters
    ----------
    values : (M, 3, W) float
    opposite : (3 M,) int32
        -1 at borders.
    same : float
        Share of the extent of all values within which two are the same.
    """
    flat = np.ascontiguousarray(values, np.float64).reshape(-1, values.shape[2])
    out = np.zeros(opposite.size, np.bool_)
    if flat.size:
        low, high = low_high(flat)
        _torn(flat, opposite, same * max(float((high - low).max(initial=0.0)), 1e-12), out)
    return out.reshape(-1, 3)


@kernel("void(float64[:,::1], int32[::1], float64, boolean[::1])")
def _torn(flat: NDArray[np.float64], opposite: Corners, near: float, out: NDArray[np.bool_]) -> None:
    for corner in range(opposite.size):
        other = opposite[corner]
        if other < corner:  # a border, or looked at from there
            continue
        here, there = next_corner(corner), previous_corner(corner)
        for column in range(flat.shape[1]):  # the edge runs the other way there
            if (
                abs(flat[here, column] - flat[previous_corner(other), column]) > near
                or abs(flat[there, column] - flat[next_corner(other), column]) > near
            ):
                out[corner] = out[other] = True
                break
