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


@dataclass(frozen=True)
class UvMeasures:
    """What is measured of every triangle once, and asked for its figures and its faults.

    Attributes
    ----------
    signed : (M,) float64
        Areas in UV; below 0 where a triangle is mirrored.
    good, outside : (M,) bool
        Which have an area, and which do not lie within 0 to 1.
    l2, linf : (M,) float64
        Stretches, 1 where nothing is stretched; 0 for triangles without area.
    cover : (RASTER, RASTER) uint16
        Triangles over each texel.
    metres : float
        That a unit covers.
    """

    signed: Figures
    good: NDArray[np.bool_]
    outside: NDArray[np.bool_]
    l2: Figures
    linf: Figures
    cover: NDArray[np.uint8]
    metres: float


def measured(place: Figures, uv: Uv) -> UvMeasures:
    """Measures of (M, 3, 3) corners of triangles, metres, and their (M, 3, 2) texture coordinates."""
    signed = signed_areas(uv)
    good = np.abs(signed) > FLAT
    l2, linf = stretches(place, uv)
    total, spread = float(triangle_areas(place)[good].sum()), float(np.abs(signed)[good].sum())
    per = np.sqrt(spread / total) if total > 0 else 1.0
    cover = texels_of(uv, (RASTER, RASTER), counts=True).counts
    assert cover is not None
    outside = np.asarray(((uv < -1e-6) | (uv > 1 + 1e-6)).any(axis=(1, 2)))
    return UvMeasures(
        signed, good, outside, np.where(good, l2, 0.0) * per, np.where(good, linf, 0.0) * per, cover,
        1.0 / per if per > 0 else 1.0,
    )  # fmt: skip


def figures_of(place: Figures, uv: Uv, opposite: NDArray[np.int32], measures: UvMeasures | None = None) -> UvFigures:
    """Figures of texture coordinates.

    Parameters
    ----------
    place : (M, 3, 3) float64
        Metres.
    uv : (M, 3, 2) float64
    opposite : (3 M,) int32
    measures : UvMeasures, optional
        Of the same triangles, where they are known.
    """
    known = measures or measured(place, uv)
    area = np.where(known.good, triangle_areas(place), 0.0)
    total = float(area.sum())
    mean = float(np.sqrt((known.l2**2 * area).sum() / total)) if total > 0 else 1.0
    return UvFigures(
        int(charts_of(uv, opposite).max(initial=-1)) + 1,
        mean,
        float(known.linf.max(initial=0.0)),
        int((known.good & (known.signed < 0)).sum()),
        int((~known.good).sum()),
        int(known.outside.sum()),
        float((known.cover > 0).mean()),
        float((known.cover > 1).mean()),
        known.metres,
    )
