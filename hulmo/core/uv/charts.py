"""Charts: parts of a body that lie in one piece in texture coordinates."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.low_high import low_high
from hulmo.core.mesh.parts_across import parts_across
from hulmo.core.mesh.torn import torn

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
    return parts_across(opposite, np.ones(uv.shape[0], np.bool_), torn(uv, opposite, SAME))[1]


def parts_of(chart: NDArray[np.integer]) -> list[NDArray[np.intp]]:
    """The triangles of each chart, of charts that are numbered from 0."""
    order = np.argsort(chart, kind="stable")
    return np.split(order, _starts(chart[order])[1:])


def boxes_of(uv: Uv, chart: NDArray[np.integer]) -> tuple[Uv, Uv]:
    """(C, 2) least and (C, 2) largest coordinates of charts that are numbered from 0."""
    order = np.argsort(chart, kind="stable")
    starts = _starts(chart[order])
    low = np.minimum.reduceat(uv.min(axis=1)[order], starts, axis=0)
    return low, np.maximum.reduceat(uv.max(axis=1)[order], starts, axis=0)


def _starts(sorted_charts: NDArray[np.integer]) -> NDArray[np.intp]:
    return np.flatnonzero(np.diff(sorted_charts, prepend=-1))


def welded(uv: Uv, chart: NDArray[np.int32]) -> tuple[Uv, NDArray[np.uint32]]:
    """(K, 2) places, each one once in a chart, and the (M, 3) places of triangles."""
    low, high = low_high(uv.reshape(-1, 2))
    near = SAME * max(float((high - low).max()), 1e-12)
    key = np.empty((uv.shape[0] * 3, 3), np.int64)
    key[:, :2] = np.round(uv.reshape(-1, 2) / near)
    key[:, 2] = np.repeat(chart, 3)
    _, first, back = np.unique(key, axis=0, return_index=True, return_inverse=True)
    return uv.reshape(-1, 2)[first], back.reshape(-1, 3).astype(np.uint32)
