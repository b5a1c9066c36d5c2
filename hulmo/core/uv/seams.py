"""Edges along which a body is cut open to be unwrapped."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import SEAM


def seams_of(body: Body) -> NDArray[np.bool_]:
    """(M, 3) edges by the corner across, marked on both sides; of triangles that are gone, none."""
    marked = body.corners.slots.get(SEAM)
    if marked is None:
        return np.zeros((body.corners.count, 3), np.bool_)
    return np.asarray((marked[:, :, 0] > 0.5) & (body.corners.triangles[:, :1] >= 0))
