"""Where what is known at the corners of triangles is torn at the edges between them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.graph import hanging_together

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
    flat = values.reshape(-1, values.shape[2])
    near = same * max(float(np.ptp(flat, axis=0).max(initial=0.0)), 1e-12) if flat.size else 0.0
    at = np.flatnonzero(opposite >= 0)
    other = opposite[at]
    apart = np.zeros(at.size, np.bool_)
    for step, back in ((1, 2), (2, 1)):  # the edge runs the other way there
        apart |= (np.abs(flat[ahead(at, step)] - flat[ahead(other, back)]) > near).any(axis=1)
    out = np.zeros(opposite.size, np.bool_)
    out[at] = apart
    return out.reshape(-1, 3)


def untorn_parts(values: Values, opposite: Corners, same: float) -> NDArray[np.int64]:
    """(M,) parts, from 0, that one can walk through across edges that are not torn; see `torn`."""
    at = np.flatnonzero((opposite > np.arange(opposite.size)) & ~torn(values, opposite, same).reshape(-1))
    return hanging_together(at // 3, opposite[at] // 3, values.shape[0])[1]
