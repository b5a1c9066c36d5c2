"""A body unwrapped along its seams."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.uv.charts import parts_of, welded
from hulmo.core.uv.flatten import flattened, rim_of, settled
from hulmo.core.uv.opened import opened
from hulmo.core.uv.pack import signed_areas

Uv = NDArray[np.float64]
Numbers = NDArray[np.int32]
Marks = NDArray[np.bool_]


def along_seams(
    place: Uv, opposite: Numbers, seam: Marks, keep: str = "angles", told: Callable[[float], None] = lambda share: None
) -> tuple[Uv, Numbers]:
    """(K, 3, 2) texture coordinates in metres, charts on top of each other, and the (K,) chart of each triangle.

    Parameters
    ----------
    place : (K, 3, 3) float64
        Corners, metres.
    opposite : (3 K,) int32
    seam : (K, 3) bool
        Every chart that they leave must have a border.
    keep : str
        See `flattened`.
    """
    found = opened(opposite, seam)
    out = np.zeros((*found.point.shape, 2))
    done = 0
    for faces in parts_of(found.chart):
        _, first, local = np.unique(found.point[faces], return_index=True, return_inverse=True)
        local = local.reshape(-1, 3)
        out[faces] = flattened(place[faces].reshape(-1, 3)[first], np.asarray(local, np.int32), keep)[local]
        done += faces.size
        told(done / found.chart.size)
    return out, found.chart


def pinned_again(place: Uv, uv: Uv, chart: Numbers, pinned: Marks) -> tuple[Uv, int]:
    """Charts laid anew so that corners that are pinned keep their coordinates; charts with fewer than two such points stay.

    Parameters
    ----------
    place : (K, 3, 3) float64
    uv : (K, 3, 2) float64
    chart : (K,) int32
    pinned : (K, 3) bool

    Returns
    -------
    uv : (K, 3, 2) float64
    charts : int
        That were laid anew.
    """
    out, many = uv.copy(), 0
    for faces in parts_of(chart):
        flat, local, where, held = _one_chart(place, uv, faces, pinned[faces])
        if held.size < 2 or np.ptp(flat[held], axis=0).max() <= 0:
            continue
        out[faces] = flattened(where, local, pinned=held, at=flat[held])[local]
        many += 1
    return out, many


def relaxed(place: Uv, uv: Uv, chart: Numbers, loose: Marks) -> tuple[Uv, int]:
    """Some triangles laid anew within their charts, with the rest and the rims of charts held.

    A chart in which that would turn triangles over stays as it was.

    Parameters
    ----------
    place : (K, 3, 3) float64
    uv : (K, 3, 2) float64
    chart : (K,) int32
    loose : (K,) bool

    Returns
    -------
    uv : (K, 3, 2) float64
    stayed : int
        Charts that stay because triangles would turn over.
    """
    out, stayed = uv.copy(), 0
    for faces in parts_of(chart):
        if not loose[faces].any():
            continue
        flat, local, where, _ = _one_chart(place, uv, faces, np.zeros((faces.size, 3), np.bool_))
        held = np.zeros(flat.shape[0], np.bool_)
        held[local[~loose[faces]].reshape(-1)] = True
        held[rim_of(local)] = True
        moved = local[loose[faces]]
        rows, inner = np.unique(moved, return_inverse=True)
        if held[rows].all():
            continue
        rest = ~loose[faces] if not loose[faces].all() else loose[faces]
        scale = float(np.sqrt(_size(uv[faces][rest]) / max(_size(place[faces][rest]), 1e-30)))
        fixed = np.flatnonzero(held[rows]).astype(np.int32)
        flat[rows] = settled(
            where[rows], inner.reshape(-1, 3).astype(np.int32), flat[rows], fixed, 1.0 / max(scale, 1e-30)
        )
        found = np.where(held[local][..., None], uv[faces], flat[local])
        before, after = _over(uv[faces]), _over(found)
        if not np.isfinite(found).all() or (after & ~before).any():
            stayed += 1
            continue
        out[faces] = found
    return out, stayed


def _one_chart(place: Uv, uv: Uv, faces: NDArray[np.intp], pinned: Marks) -> tuple[Uv, Numbers, Uv, Numbers]:
    flat, local = welded(uv[faces], np.zeros(faces.size, np.int32))
    where = np.zeros((flat.shape[0], 3))
    where[local.reshape(-1)] = place[faces].reshape(-1, 3)
    held = np.unique(local.reshape(-1)[pinned.reshape(-1)]).astype(np.int32)
    return flat, local.astype(np.int32), where, held


def _size(corner: Uv) -> float:
    # area of triangles in the plane or in space
    flat = corner.shape[2] == 2
    return float(np.abs(signed_areas(corner)).sum() if flat else triangle_areas(corner).sum())


def _over(uv: Uv) -> Marks:
    return np.asarray(signed_areas(uv) < 0)
