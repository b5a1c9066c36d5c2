"""Lengths, slopes and areas of lines."""

from dataclasses import dataclass

import numpy as np

from hulmo.core.lines.ground import Ground
from hulmo.core.lines.relief import level_steps
from hulmo.core.lines.trace import Trace
from hulmo.core.mesh.body import Body
from hulmo.core.objects.line import column_of
from hulmo.core.objects.scene_object import SceneObject

OVER = 1.0
"""Metres over which the steepest piece of a track is taken."""


@dataclass(frozen=True)
class Measured:
    """What is said of a line.

    Attributes
    ----------
    length : float
        Metres along it.
    slope, steepest : float
        Degrees of a track: from end to end of all its climbing and falling, and of its steepest metre; 0 of outlines.
    area : float
        Square metres inside.
    """

    length: float
    slope: float
    steepest: float
    area: float


def measured(body: Body, entry: SceneObject, course: Trace) -> Measured:
    """Figures of a line that was laid on a body."""
    slope = steepest = 0.0
    if not course.closed:
        height = body.heights(course.places)
        run = np.concatenate(([0.0], np.cumsum(level_steps(body, course))))
        climb = np.concatenate(([0.0], np.cumsum(np.abs(np.diff(height)))))
        if run[-1] > 0:
            slope = float(np.degrees(np.arctan2(climb[-1], run[-1])))
            over = min(OVER, float(run[-1]))
            start = np.linspace(0.0, run[-1] - over, 200)
            rise = np.interp(start + over, run, height) - np.interp(start, run, height)
            steepest = float(np.degrees(np.arctan2(np.abs(rise).max(), over)))
    return Measured(course.length, slope, steepest, enclosed(body, column_of(entry)))


def enclosed(body: Body, column: str) -> float:
    """Square metres of a body where a column is above 0, linear over every triangle."""
    if column not in body.vertices:
        return 0.0
    ground = Ground.of(body)
    triangles = body.corners.live_triangles()
    value = body.vertices[column][:, 0].astype(np.float64)[triangles]
    near = (value > 0).any(axis=1)
    triangles, value = triangles[near], value[near]
    a, b, c = (ground.position[triangles[:, k]].astype(np.float64) for k in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    order = np.argsort(value, axis=1)
    low, mid, high = (np.take_along_axis(value, order[:, k : k + 1], axis=1)[:, 0] for k in range(3))
    with np.errstate(divide="ignore", invalid="ignore"):
        tip = high * high / ((high - low) * (high - mid))  # only one corner inside
        foot = 1 - low * low / ((low - high) * (low - mid))  # all but one
    share = np.where(low >= 0, 1.0, np.where(mid > 0, foot, tip))
    return float((area * np.nan_to_num(share)).sum())
