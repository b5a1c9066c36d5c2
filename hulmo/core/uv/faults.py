"""Which triangles lie ill in texture coordinates: mirrored, without area, stretched, outside, or over each other."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.uv.figures import FLAT, RASTER, stretches
from hulmo.core.uv.laid import Laid
from hulmo.core.uv.pack import signed_areas
from hulmo.core.uv.texels import texels_of

STRETCHED = 2.0
"""Stretch from which a triangle counts as stretched."""

INNER = np.array([[1, 1, 1], [4, 1, 1], [1, 4, 1], [1, 1, 4]]) / np.array([[3], [6], [6], [6]])
"""Places within a triangle that are looked at, as shares of its corners."""


def faulty(laid: Laid) -> dict[str, NDArray[np.int32]]:
    """Slots of the triangles at fault, the worst first, by fault: mirrored, flat, stretched, outside, twice."""
    area = signed_areas(laid.uv)
    good = np.abs(area) > FLAT
    most = stretches(laid.place, laid.uv)[1]
    covered = float(np.abs(area[good]).sum())
    metres = np.sqrt(laid.area[good].sum() / covered) if covered > 0 else 1.0
    stretch = np.where(good, most / metres, 0.0)
    cover = texels_of(laid.uv, (RASTER, RASTER), counts=True).counts
    assert cover is not None
    at = np.floor(np.einsum("pk,tkc->tpc", INNER, laid.uv) * RASTER).astype(np.int64)
    within = ((at >= 0) & (at < RASTER)).all(axis=2)
    at = np.clip(at, 0, RASTER - 1)
    twice = (within & (cover[at[..., 1], at[..., 0]] > 1)).any(axis=1)
    outside = ((laid.uv < -1e-6) | (laid.uv > 1 + 1e-6)).any(axis=(1, 2))
    size = laid.area
    return {
        name: laid.slots[np.flatnonzero(mask)[np.argsort(-badness[mask], kind="stable")]]
        for name, mask, badness in (
            ("mirrored", good & (area < 0), size), ("flat", ~good, size), ("stretched", stretch > STRETCHED, stretch),
            ("outside", outside, size), ("twice", twice, size),
        )
    }  # fmt: skip
