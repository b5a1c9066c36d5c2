"""A surface cut open along seams: which corners lie together, and which triangles make a chart."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.torn import ahead
from hulmo.core.uv.charts import parts_of

Numbers = NDArray[np.int32]
Marks = NDArray[np.bool_]


@dataclass(frozen=True)
class Opened:
    """A surface cut open.

    Attributes
    ----------
    point : (K, 3) int32
        Number of the place of each corner; corners on both sides of a seam have different ones.
    chart : (K,) int32
        Which part each triangle belongs to.
    """

    point: Numbers
    chart: Numbers


def opened(opposite: Numbers, seam: Marks) -> Opened:
    """Cut a surface open along seams.

    Parameters
    ----------
    opposite : (3 K,) int32
        Opposite corners; -1 at borders.
    seam : (K, 3) bool
        Edges by the corner across; both sides need not agree.
    """
    count = opposite.size
    closed = (opposite >= 0) & ~seam.reshape(-1)
    closed &= np.where(opposite >= 0, ~seam.reshape(-1)[np.maximum(opposite, 0)], True)
    mine = np.flatnonzero(closed & (opposite > np.arange(count)))
    other = opposite[mine]

    a = np.concatenate((ahead(mine, 1), ahead(mine, 2)))
    b = np.concatenate((ahead(other, 2), ahead(other, 1)))  # the edge runs the other way there
    _, point = hanging_together(a, b, count)
    _, chart = hanging_together(mine // 3, other // 3, count // 3)
    return Opened(point.reshape(-1, 3).astype(np.int32), chart.astype(np.int32))


def made_discs(opposite: Numbers, seam: Marks) -> tuple[Marks, int]:
    """Seams with those added that charts with holes or handles need to lie flat.

    Returns
    -------
    seam : (K, 3) bool
    closed : int
        Charts without any border, which stay as they are.

    Notes
    -----
    Cuts by the library libigl, after Gu, Gortler and Hoppe, "Geometry images" (SIGGRAPH 2002).
    """
    import igl  # needed for this only

    found = opened(opposite, seam)
    seam = seam.copy()
    closed = 0
    for faces in parts_of(found.chart):
        points, local = np.unique(found.point[faces], return_inverse=True)
        local = local.reshape(-1, 3)
        key = _keys(local)
        edges, uses = np.unique(key, return_counts=True)
        if not (uses == 1).any():
            closed += 1
            continue
        if points.size - edges.size + faces.size == 1:
            continue
        cut = [np.array(path, np.int64) for path in igl.cut_to_disk(local.astype(np.int64))]
        wanted = np.concatenate([_key(path[:-1], path[1:]) for path in cut])
        seam[faces] |= np.isin(key, wanted) & np.isin(key, edges[uses == 2])
    return seam, closed


def _key(a: NDArray[np.integer], b: NDArray[np.integer]) -> NDArray[np.int64]:
    return np.asarray(np.minimum(a, b).astype(np.int64) << 32 | np.maximum(a, b).astype(np.int64))


def _keys(triangles: NDArray[np.integer]) -> NDArray[np.int64]:
    return np.stack([_key(triangles[:, (k + 1) % 3], triangles[:, (k + 2) % 3]) for k in range(3)], axis=1)
