"""Which triangles lie ill in texture coordinates: mirrored, without area, stretched, outside, or over each other."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.uv.figures import RASTER
from hulmo.core.uv.laid import Laid

STRETCHED = 2.0
"""Stretch from which a triangle counts as stretched."""

INNER = np.array([[1, 1, 1], [4, 1, 1], [1, 4, 1], [1, 1, 4]]) / np.array([[3], [6], [6], [6]])
"""Places within a triangle that are looked at, as shares of its corners."""


def faulty(laid: Laid) -> dict[str, NDArray[np.int32]]:
    """Slots of the triangles at fault, the worst first, by fault: mirrored, flat, stretched, outside, twice."""
    known, size = laid.measures, laid.area
    at = np.floor(np.einsum("pk,tkc->tpc", INNER, laid.uv) * RASTER).astype(np.int64)
    within = ((at >= 0) & (at < RASTER)).all(axis=2)
    at = np.clip(at, 0, RASTER - 1)
    twice = (within & (known.cover[at[..., 1], at[..., 0]] > 1)).any(axis=1)
    return {
        name: laid.slots[np.flatnonzero(mask)[np.argsort(-badness[mask], kind="stable")]]
        for name, mask, badness in (
            ("mirrored", known.good & (known.signed < 0), size), ("flat", ~known.good, size),
            ("stretched", known.linf > STRETCHED, known.linf), ("outside", known.outside, size), ("twice", twice, size),
        )
    }  # fmt: skip
