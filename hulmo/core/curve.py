"""A smooth curve through points that never swings above or below them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.setting import Points

STEPS = 257
"""Entries of a curve's table."""


def curve_table(points: Points) -> NDArray[np.float64]:
    """Heights of a curve at `STEPS` even places from x = 0 to x = 1.

    Parameters
    ----------
    points : tuple of (x, y)
        Ascending in x, the first at 0, the last at 1; y between 0 and 1.

    Returns
    -------
    (STEPS,) float64
        Between 0 and 1, through every point; where points rise or fall, so does the curve.

    Notes
    -----
    Monotone cubic interpolation: Fritsch and Carlson (1980), with the harmonic mean of Fritsch and Butland (1984) for
    slopes.

    Examples
    --------
    >>> float(curve_table(((0.0, 0.0), (1.0, 1.0)))[64])
    0.25
    """
    x, y = (np.array(part, np.float64) for part in zip(*points, strict=True))
    width, secant = np.diff(x), np.diff(y) / np.diff(x)
    slope = np.zeros(x.size)
    slope[0], slope[-1] = secant[0], secant[-1]
    for i in range(1, x.size - 1):
        before, after = secant[i - 1], secant[i]
        if before * after > 0:
            w1, w2 = 2 * width[i] + width[i - 1], width[i] + 2 * width[i - 1]
            slope[i] = (w1 + w2) / (w1 / before + w2 / after)
    at = np.linspace(0.0, 1.0, STEPS)
    span = np.clip(np.searchsorted(x, at, side="right") - 1, 0, x.size - 2)
    t = (at - x[span]) / width[span]
    t2, t3 = t * t, t * t * t
    value = (
        (2 * t3 - 3 * t2 + 1) * y[span]
        + (t3 - 2 * t2 + t) * width[span] * slope[span]
        + (3 * t2 - 2 * t3) * y[span + 1]
        + (t3 - t2) * width[span] * slope[span + 1]
    )
    return np.asarray(np.clip(value, 0.0, 1.0))


def curve_at(table: NDArray[np.float64], share: float) -> float:
    """Height of a curve at one place, 0 to 1."""
    at = min(max(share, 0.0), 1.0) * (table.size - 1)
    low = min(int(at), table.size - 2)
    return float(table[low] + (at - low) * (table[low + 1] - table[low]))
