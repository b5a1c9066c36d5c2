"""How texture coordinates lie: stretch, density, what is mirrored, flat, outside or lies over each other."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.uv.charts import charts_of
from hulmo.core.uv.pack import signed_areas
from hulmo.core.uv.texels import texels_of

Uv = NDArray[np.float64]
Figures = NDArray[np.float64]

RASTER = 1024
"""Texels a side at which what lies over each other is counted."""

FLAT = 1e-14
"""Area in texture coordinates up to which a triangle has none."""


@dataclass(frozen=True)
class UvFigures:
    """Figures of the texture coordinates of a body.

    Attributes
    ----------
    charts : int
    l2, linf : float
        Stretch by area; 1 where nothing is stretched.
    mirrored, flat, outside : int
        Triangles that are mirrored, without area, or not within 0 to 1.
    used, twice : float
        Shares of the unit square that triangles cover, and that several of them cover.
    metres : float
        That a unit covers.
    """

    charts: int
    l2: float
    linf: float
    mirrored: int
    flat: int
    outside: int
    used: float
    twice: float
    metres: float


def stretches(place: Figures, uv: Uv) -> tuple[Figures, Figures]:
    """Stretch of each triangle by the mean and by the largest of the ways through it; infinite without area in UV.

    Parameters
    ----------
    place : (M, 3, 3) float64
        Metres.
    uv : (M, 3, 2) float64

    Returns
    -------
    l2, linf : (M,) float64
        Metres to a unit.

    Notes
    -----
    Sander, Snyder, Gortler and Hoppe, "Texture mapping progressive meshes" (SIGGRAPH 2001), section 3.
    """
    s, t = uv[..., 0], uv[..., 1]
    area = ((s[:, 1] - s[:, 0]) * (t[:, 2] - t[:, 0]) - (s[:, 2] - s[:, 0]) * (t[:, 1] - t[:, 0])) / 2
    with np.errstate(divide="ignore", invalid="ignore"):
        by_s = (
            place[:, 0] * (t[:, 1] - t[:, 2])[:, None]
            + place[:, 1] * (t[:, 2] - t[:, 0])[:, None]
            + place[:, 2] * (t[:, 0] - t[:, 1])[:, None]
        ) / (2 * area)[:, None]
        by_t = (
            place[:, 0] * (s[:, 2] - s[:, 1])[:, None]
            + place[:, 1] * (s[:, 0] - s[:, 2])[:, None]
            + place[:, 2] * (s[:, 1] - s[:, 0])[:, None]
        ) / (2 * area)[:, None]
        a, b, c = (by_s * by_s).sum(axis=1), (by_s * by_t).sum(axis=1), (by_t * by_t).sum(axis=1)
        root = np.sqrt((a - c) ** 2 + 4 * b * b)
        l2, linf = np.sqrt((a + c) / 2), np.sqrt((a + c + root) / 2)
    empty = np.abs(area) <= FLAT
    return np.where(empty, np.inf, l2), np.where(empty, np.inf, linf)


def figures_of(place: Figures, uv: Uv, opposite: NDArray[np.int32]) -> UvFigures:
    """Figures of texture coordinates.

    Parameters
    ----------
    place : (M, 3, 3) float64
        Metres.
    uv : (M, 3, 2) float64
    opposite : (3 M,) int32
    """
    flat = np.abs(signed_areas(uv))
    area = triangle_areas(place)
    good = flat > FLAT
    l2, linf = stretches(place, uv)
    total, spread = float(area[good].sum()), float(flat[good].sum())
    per = np.sqrt(spread / total) if total > 0 else 1.0
    mean = float(np.sqrt((l2[good] ** 2 * area[good]).sum() / total)) * per if total > 0 else 1.0
    most = float(linf[good].max(initial=0.0)) * per
    cover = texels_of(uv, (RASTER, RASTER), counts=True).counts
    assert cover is not None
    return UvFigures(
        int(charts_of(uv, opposite).max(initial=-1)) + 1,
        mean,
        most,
        int((good & (signed_areas(uv) < 0)).sum()),
        int((~good).sum()),
        int(((uv < -1e-6) | (uv > 1 + 1e-6)).any(axis=(1, 2)).sum()),
        float((cover > 0).mean()),
        float((cover > 1).mean()),
        1.0 / per if per > 0 else 1.0,
    )
