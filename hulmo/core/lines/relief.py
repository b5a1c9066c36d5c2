"""What the cross-section of a line makes of the ground."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.curve import curve_table
from hulmo.core.lines.field import Inward
from hulmo.core.lines.trace import Trace
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Values, number

WALL = 1.5
"""Times half the width and the shoulder that the ground may lie above or below a bed and still be drawn to it."""

Figures = NDArray[np.float64]


def rises(body: Body, position: NDArray[np.float32], course: Trace, found: Inward, values: Values) -> Figures:
    """(N,) metres that each vertex goes straight up, or down below 0.

    Parameters
    ----------
    body : Body
        Says which way is up.
    position : (N, 3) float32
        The surface that the line lies on, metres about the origin of the body.
    course : Trace
        Of the line on it.
    found : Inward
        As far as `reach_of` the line.
    values : dict
        Its settings.
    """
    out = np.zeros(position.shape[0])
    shoulder = number(values, "shoulder")
    inward = number(values, "inward") if course.closed else found.inward
    if not course.closed:  # the middle of a track is half its width in
        inward = course.widths(found.arc) / 2
    beyond = found.inward > -shoulder if shoulder > 0 else found.inward >= 0
    if values["level"] != "off":
        height = body.heights(position)
        bed = bed_of(body, course, values)
        wanted = (
            float(bed.mean()) if values["level"] == "flat" else np.interp(found.arc, course.arc, _ends(course, bed))
        )
        t = np.clip(1 + found.inward / shoulder, 0.0, 1.0) if shoulder > 0 else (found.inward >= 0).astype(np.float64)
        lift = wanted + number(values, "rise") - height
        # what lies far above or below is another place: the foot of a cliff, the roof of a cave
        most = WALL * np.maximum(np.abs(inward) + shoulder, 1e-6) + abs(number(values, "rise"))
        u = np.clip(2 - np.abs(lift) / most, 0.0, 1.0)
        share = t * t * (3 - 2 * t) * u * u * (3 - 2 * u)
        out += np.where(beyond, share * lift, 0.0)
    low, high = number(values, "low"), number(values, "high")
    profile = values["profile"]
    assert isinstance(profile, tuple)
    table = low + (high - low) * curve_table(profile)
    x = np.clip((inward - found.inward) / np.maximum(inward + shoulder, 1e-9), 0.0, 1.0)
    return np.asarray(out + np.where(beyond, np.interp(x, np.linspace(0.0, 1.0, table.size), table), 0.0))


def reach_of(values: Values, closed: bool) -> float:
    """Metres from the rim that the relief of a line asks for."""
    return max(number(values, "shoulder"), number(values, "inward") if closed else 0.0)


def bed_of(body: Body, course: Trace, values: Values) -> Figures:
    """(K,) heights of the bed at the places of a course, metres: smoothed over its width, and held to its steepest slope."""
    height = body.heights(course.places)
    arc, closed = course.arc[: height.size], course.closed
    if not closed:
        wide = float(course.width.mean())
        even = np.linspace(0.0, course.length, max(int(course.length / max(wide / 8, 1e-6)), 8))
        if even.size <= 4 * height.size:
            h = np.interp(even, arc, height)
            half = max(round(wide / 2 / float(even[1] - even[0])), 1)
            padded = np.concatenate((2 * h[0] - h[half:0:-1], h, 2 * h[-1] - h[-2 : -half - 2 : -1]))
            if padded.size == h.size + 2 * half:
                height = np.interp(arc, even, np.convolve(padded, np.full(2 * half + 1, 1 / (2 * half + 1)), "valid"))
    steepest = number(values, "steepest")
    if steepest > 0 and not closed:
        run = level_steps(body, course)
        height = _held(height, np.tan(np.radians(steepest)) * run)
    return np.asarray(height)


def level_steps(body: Body, course: Trace) -> Figures:
    """(K - 1,) level metres from each place of a course to the next."""
    step = np.diff(course.places, axis=0)
    up = body.up(course.places[:-1])
    rise = np.einsum("ki,ki->k", step, np.broadcast_to(up, step.shape))
    return np.asarray(np.sqrt(np.maximum(np.einsum("ki,ki->k", step, step) - rise * rise, 0.0)))


def _held(height: Figures, most: Figures) -> Figures:
    # the mean of the highest course below and the lowest one above that climb no more than so much a step
    below, above = height.copy(), height.copy()
    for i in range(1, height.size):
        below[i] = min(below[i], below[i - 1] + most[i - 1])
        above[i] = max(above[i], above[i - 1] - most[i - 1])
    for i in range(height.size - 2, -1, -1):
        below[i] = min(below[i], below[i + 1] + most[i])
        above[i] = max(above[i], above[i + 1] - most[i])
    return np.asarray((below + above) / 2)


def _ends(course: Trace, values: Figures) -> Figures:
    return np.append(values, values[0]) if course.closed else values
