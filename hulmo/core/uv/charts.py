"""Charts: parts of a body that lie in one piece in texture coordinates."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.graph import hanging_together

Uv = NDArray[np.float64]

SAME = 1e-6
"""Share of the extent within which two corners lie in the same place."""


def charts_of(uv: Uv, opposite: NDArray[np.int32]) -> NDArray[np.int32]:
    """(M,) number of the chart that each triangle belongs to, from 0.

    Parameters
    ----------
    uv : (M, 3, 2) float64
    opposite : (3 M,) int32
        Of the same triangles; -1 at borders and where the neighbour is none of them.
    """
    at = np.flatnonzero((opposite > np.arange(opposite.size)) & ~torn(uv, opposite).reshape(-1))
    return hanging_together(at // 3, opposite[at] // 3, uv.shape[0])[1].astype(np.int32)


def torn(uv: Uv, opposite: NDArray[np.int32]) -> NDArray[np.bool_]:
    """(M, 3) edges, by the corner across, whose two sides lie apart from each other; of a border, that it is none.

    Parameters
    ----------
    uv : (M, 3, 2) float64
    opposite : (3 M,) int32
    """
    near = SAME * max(float(np.ptp(uv, axis=(0, 1)).max(initial=0.0)), 1e-12)
    at = np.flatnonzero(opposite >= 0)
    other, flat = opposite[at], uv.reshape(-1, 2)

    def corner(of: NDArray[np.integer], step: int) -> Uv:
        return np.asarray(flat[of - of % 3 + (of + step) % 3])

    apart = np.zeros(at.size, np.bool_)
    for step, back in ((1, 2), (2, 1)):  # the edge runs the other way there
        apart |= (np.abs(corner(at, step) - corner(other, back)) > near).any(axis=1)
    out = np.zeros(opposite.size, np.bool_)
    out[at] = apart
    return out.reshape(-1, 3)


def welded(uv: Uv, chart: NDArray[np.int32]) -> tuple[Uv, NDArray[np.uint32]]:
    """(K, 2) places, each one once in a chart, and the (M, 3) places of triangles."""
    near = SAME * max(float(np.ptp(uv, axis=(0, 1)).max(initial=0.0)), 1e-12)
    key = np.empty((uv.shape[0] * 3, 3), np.int64)
    key[:, :2] = np.round(uv.reshape(-1, 2) / near)
    key[:, 2] = np.repeat(chart, 3)
    _, first, back = np.unique(key, axis=0, return_index=True, return_inverse=True)
    return uv.reshape(-1, 2)[first], back.reshape(-1, 3).astype(np.uint32)
