"""Marks around props, where they are shown in the scene."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import Strewn, frames


def corners_around(body: Body, strewn: Strewn) -> NDArray[np.float64]:
    """(4 K, 3, 3) corners of triangles that stand around props, metres."""
    pivot, matrix = frames(body, strewn)
    at, axis = body.placed(pivot), matrix[:, :, 1]
    tip = at + 1.6 * axis
    out = []
    for k in range(4):
        angle, other = k * np.pi / 2, (k + 1) * np.pi / 2
        one, two = (
            tip + 0.35 * (np.cos(turn) * matrix[:, :, 0] + np.sin(turn) * matrix[:, :, 2]) + 0.6 * axis
            for turn in (angle, other)
        )
        out.append(np.stack((tip, one, two), axis=1))
    return np.concatenate(out)
