"""What is wrong with props on a body: what floats, is buried, leans too far, overlaps or stands in water."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.standing_water import depth_under
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.sounding import OVER, soundings
from hulmo.core.mesh.strewn import Strewn, anchors, axes, frames
from hulmo.core.progress import Progress
from hulmo.core.props.prop import WAYS
from hulmo.core.props.strew import Tray

Mask = NDArray[np.bool_]
Figures = NDArray[np.float64]

KINDS = {
    "floats": "Floating",
    "buried": "Buried",
    "leans": "Leaning",
    "overlaps": "Overlapping",
    "wet": "In water",
}
"""Names of the faults, and how they are called."""

RIM = 8
"""Places around a prop at which it is asked how far it stands off the ground."""

GAP = 0.05
"""Metres, and share of its height, that the rim of a prop may hang over the ground."""

BURIED = 0.9
"""Share of its height from which a prop that stands in the ground counts as buried."""

STEEPEST = 40.0
"""Degrees that a prop may lean away from straight up."""


def faults_of(
    body: Body, strewn: Strewn, tray: Tray, steepest: float, progress: Progress
) -> tuple[dict[str, Mask], Figures]:
    """Which props are at fault, by the names of `KINDS`, and how far each hangs over the ground.

    Parameters
    ----------
    steepest : float
        Degrees that a prop may lean away from straight up.

    Returns
    -------
    tuple
        (K,) masks, and (K,) metres.
    """
    there = strewn.there
    place, normal = anchors(body, strewn)
    axis = axes(body, strewn, place, normal)
    up = np.broadcast_to(body.up(place), place.shape)
    high, low = np.zeros(strewn.count), np.zeros(strewn.count)
    outline = np.zeros((strewn.count, WAYS))
    for ident, mesh in tray.meshes.items():
        rows = strewn.prop == ident
        high[rows], low[rows] = mesh.high, mesh.low
        outline[rows] = mesh.outline
    progress.step(0.1, "looking under props")
    gap = _gaps(body, strewn, outline, low, up)
    tall = high * strewn.size
    lean = np.degrees(np.arccos(np.clip((axis * up).sum(axis=1), -1.0, 1.0)))
    progress.step(0.6, "looking between props")
    under = depth_under(body, 0)[body.corners.triangles[strewn.slot]] if body.waters else None
    out = {
        "floats": gap > GAP + GAP * tall,
        "buried": strewn.sink > BURIED * tall,
        "leans": lean > steepest,
        "overlaps": tray.room(body, 1.0).overlapping(strewn),
        "wet": np.zeros(strewn.count, np.bool_) if under is None else (under > 0).all(axis=1),
    }
    return {name: mask & there for name, mask in out.items()}, gap


def _gaps(body: Body, strewn: Strewn, outline: Figures, low: Figures, up: Figures) -> Figures:
    # metres that the lower rim hangs over the ground at the most
    pivot, matrix = frames(body, strewn)
    turn = np.arange(0, WAYS, WAYS // RIM) * (2.0 * np.pi / WAYS)
    gap = np.zeros(strewn.count)
    for k, angle in zip(range(0, WAYS, WAYS // RIM), turn.tolist(), strict=True):
        # a rim narrower than the outline: most props are rounded below
        reach = 0.7 * outline[:, k]
        local = np.stack((reach * np.cos(angle), low, reach * np.sin(angle)), axis=1)
        rim = pivot + np.einsum("kij,kj->ki", matrix, local)
        lift = 0.5 + outline.max(axis=1) * strewn.size
        state, depth = soundings(body, rim + up * lift[:, None], up)
        gap = np.maximum(gap, np.where(state == OVER, depth - lift, 0.0))
    return gap
