"""Which way a brush moves the surface."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Dab
from hulmo.core.setting import Choice, Number, Setting, number

OWN = ("own", "Own normal", "Every point moves along its own surface normal.")

CHOICES = (
    ("start", "Normal at start", "All points move along the normal where the stroke began."),
    ("mean", "Mean normal", "All points move along the mean normal of the surface under the brush."),
    ("up", "Straight up", "All points move straight up; on a moon, away from its centre."),
    ("viewer", "Away from viewer", "All points move the way you look."),
    ("axis", "Typed axis", "All points move along the bearing and altitude below."),
)

AXIS: tuple[Setting, ...] = (
    Number("bearing", "Bearing", "°", 0.0, 360.0, 0.0, "Of the typed axis: 0 north (-Z), 90 east (+X).",
           only=(("direction", "axis"),)),
    Number("altitude", "Altitude", "°", -90.0, 90.0, 0.0, "Of the typed axis: 90 straight up, 0 level, -90 straight down.",
           only=(("direction", "axis"),)),
)  # fmt: skip


def direction_settings(default: str = "own") -> tuple[Setting, ...]:
    """Direction and typed axis, for brushes that can go any way."""
    return (Choice("direction", "Direction", (OWN, *CHOICES), default, "Which way the surface moves."), *AXIS)


def axis_vector(bearing: float, altitude: float) -> NDArray[np.float64]:
    """(3,) unit vector of a bearing (degrees from -Z toward +X) and an altitude (degrees above level)."""
    b, a = math.radians(bearing), math.radians(altitude)
    return np.array([math.sin(b) * math.cos(a), math.sin(a), -math.cos(b) * math.cos(a)])


def common_direction(dab: Dab) -> NDArray[np.float64] | None:
    """(3,) unit vector that all points of a dab move along; None when each follows its own normal."""
    chosen = dab.values["direction"]
    if chosen == "start":
        return dab.start_normal
    if chosen == "mean":
        return mean_normal(dab)
    if chosen == "up":
        return np.asarray(dab.body.up(dab.centre[None])[0])
    if chosen == "viewer":
        return dab.view
    if chosen == "axis":
        return np.asarray(dab.turn @ axis_vector(number(dab.values, "bearing"), number(dab.values, "altitude")))
    return None


def mean_normal(dab: Dab) -> NDArray[np.float64]:
    """(3,) unit mean of the normals under a dab, by area and amount; the normal where the stroke began where they cancel out.

    On rough ground the normal of a single point says little about the surface around it.
    """
    total = normal_total(dab) + dab.beside
    length = float(np.linalg.norm(total[:3]))
    return np.asarray(total[:3] / length) if length > 1e-6 * total[3] else dab.start_normal


def normal_total(dab: Dab) -> NDArray[np.float64]:
    """(4,) sum of the normals under a dab, by area and amount, and of area by amount."""
    triangles = dab.body.corners.vertex.reshape(-1, 3)[dab.triangles]
    a, b, c = (dab.surface[triangles[:, k]].astype(np.float64) for k in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    at = np.minimum(np.searchsorted(dab.rows, triangles), dab.rows.size - 1)
    mine = dab.rows[at] == triangles
    weight = np.bincount(at[mine], np.repeat(area, 3).reshape(-1, 3)[mine], dab.rows.size) * dab.amount
    return np.append(weight @ dab.normals(dab.rows).astype(np.float64), weight.sum())


def pushed(dab: Dab, step: NDArray[np.float32]) -> NDArray[np.float32]:
    """(K, 3) positions moved by (K,) metres along the chosen direction."""
    return moved(dab, step, common_direction(dab))


def moved(dab: Dab, step: NDArray[np.float32], way: NDArray[np.float64] | None) -> NDArray[np.float32]:
    """(K, 3) positions moved by (K,) metres along a (3,) unit vector; each along its own normal for None."""
    position = np.take(dab.surface, dab.rows, axis=0)
    if way is None:
        position += dab.normals(dab.rows) * step[:, None]
    else:
        position += way.astype(np.float32) * step[:, None]
    return position
