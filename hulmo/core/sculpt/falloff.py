"""Falloff: how a brush fades from its full-strength core to its rim."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from hulmo.core.setting import Choice

FALLOFFS = ("smooth", "dome", "sharp", "linear", "flat")

SETTING = Choice(
    "falloff",
    "Falloff",
    (
        ("smooth", "Smooth", "Rounded at the core and at the rim."),
        ("dome", "Dome", "A half ball: full for long, steep at the rim."),
        ("sharp", "Sharp", "A peak."),
        ("linear", "Linear", "A straight cone."),
        ("flat", "Flat", "Full strength up to the rim."),
    ),
    "smooth",
    "How the effect fades between the core and the rim.",
)


@njit(inline="always")
def falloff_at(kind, share):  # type: ignore[no-untyped-def]
    """Strength at a share of the way from core (0) to rim (1)."""
    rest = 1.0 - share
    if kind == 0:
        return rest * rest * (1.0 + 2.0 * share)
    if kind == 1:
        return np.sqrt(max(1.0 - share * share, 0.0))
    if kind == 2:
        return rest * rest
    if kind == 3:
        return rest
    return 1.0


def falloff(name: str, share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Strength between 0 and 1.

    Parameters
    ----------
    name : str
        smooth: (1 - t)² (1 + 2 t); dome: sqrt(1 - t²); sharp: (1 - t)²; linear: 1 - t; flat: 1.
    share : (K,) float64
        t, the share of the way from the edge of the core (0) to the rim (1).
    """
    kind = FALLOFFS.index(name)
    return np.array([falloff_at.py_func(kind, float(t)) for t in share])


def pass_sum(name: str, core: float) -> float:
    """Integral of the falloff over a pass through the middle, in radii: what dabs one radius apart would add up to."""
    share = (np.arange(512) + 0.5) / 512
    return 2.0 * (core + (1.0 - core) * float(falloff(name, share).mean()))
