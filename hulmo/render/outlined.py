"""Which vertices lie within a line that is drawn on a picture."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.line_of_sight import visible
from hulmo.render.camera import Camera


def outlined(
    body: Body, outline: NDArray[np.float64], camera: Camera, width: int, height: int, through: bool
) -> NDArray[np.int32]:
    """(K,) vertices inside a closed line of the picture.

    Parameters
    ----------
    body : Body
    outline : (P, 2) float64
        Pixels; two points are the corners of a box.
    camera : Camera
    width, height : int
        Of the picture, pixels.
    through : bool
        Whether hidden vertices count.
    """
    low, high = outline.min(axis=0), outline.max(axis=0)
    if outline.shape[0] == 2:
        outline = np.array([low, (high[0], low[1]), high, (low[0], high[1])])
    seen = camera.to_screen(
        body.placed(body.vertices["position"]) if body.far else body.vertices["position"], width, height
    )
    inside = (seen[:, 2] > 0) & (seen[:, :2] >= low).all(axis=1) & (seen[:, :2] <= high).all(axis=1)
    rows = np.flatnonzero(inside & (body.corners.first_corner >= 0)).astype(np.int32)
    # even-odd rule
    x, y = seen[rows, 0], seen[rows, 1]
    odd = np.zeros(rows.size, np.bool_)
    for (ax, ay), (bx, by) in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        crosses = (ay > y) != (by > y)
        if crosses.any():
            odd ^= crosses & (x < ax + (y - ay) / np.where(by == ay, 1.0, by - ay) * (bx - ax))
    rows = rows[odd]
    return rows if through or not rows.size else rows[visible(body, rows, body.own(camera.eye))]
