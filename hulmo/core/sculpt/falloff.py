"""Falloff: how a brush fades from its full-strength core to its rim."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import in_python, written_into_kernels
from hulmo.core.setting import Choice, Curve

FALLOFFS = ("smooth", "dome", "sharp", "linear", "flat", "curve")

NO_CURVE = np.linspace(1.0, 0.0, 2)

SETTING = Choice(
    "falloff",
    "Falloff",
    (
        ("smooth", "Smooth", "Rounded at the core and at the rim."),
        ("dome", "Dome", "A half ball: full for long, steep at the rim."),
        ("sharp", "Sharp", "A peak."),
        ("linear", "Linear", "A straight cone."),
        ("flat", "Flat", "Full strength up to the rim."),
        ("curve", "Own curve", "The curve drawn below."),
    ),
    "smooth",
    "How the effect fades between the core and the rim.",
)

CURVE = Curve(
    "falloff_curve",
    "Falloff curve",
    ((0.0, 1.0), (0.5, 0.5), (1.0, 0.0)),
    "From the core (left) to the rim (right), when the falloff is Own curve.",
    (("falloff", "curve"),),
)


@written_into_kernels
def falloff_at(kind, share, table):  # type: ignore[no-untyped-def]
    """Strength at a share of the way from core (0) to rim (1); `table` holds the curve of the kind that is drawn."""
    rest = 1.0 - share
    if kind == 0:
        return rest * rest * (1.0 + 2.0 * share)
    if kind == 1:
        return np.sqrt(max(1.0 - share * share, 0.0))
    if kind == 2:
        return rest * rest
    if kind == 3:
        return rest
    if kind == 4:
        return 1.0
    at = share * (table.size - 1)
    low = min(int(at), table.size - 2)
    return table[low] + (table[low + 1] - table[low]) * (at - low)


def falloff(name: str, share: NDArray[np.float64], table: NDArray[np.float64] = NO_CURVE) -> NDArray[np.float64]:
    """Strength between 0 and 1.

    Parameters
    ----------
    name : str
        smooth: (1 - t)² (1 + 2 t); dome: sqrt(1 - t²); sharp: (1 - t)²; linear: 1 - t; flat: 1; curve: as drawn.
    share : (K,) float64
        t, the share of the way from the edge of the core (0) to the rim (1).
    table : (S,) float64
        The drawn curve, as `hulmo.core.curve.curve_table` gives it.
    """
    kind, one = FALLOFFS.index(name), in_python(falloff_at)
    return np.array([one(kind, float(t), table) for t in share])


def pass_sum(name: str, core: float, table: NDArray[np.float64] = NO_CURVE) -> float:
    """Integral of the falloff over a pass through the middle, in radii: what dabs one radius apart would add up to."""
    share = (np.arange(512) + 0.5) / 512
    return 2.0 * (core + (1.0 - core) * float(falloff(name, share, table).mean()))
