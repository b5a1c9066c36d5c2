"""Texture coordinates on the sides of a box."""

import numpy as np

from hulmo.core.kernel import kernel
from hulmo.core.setting import Values
from hulmo.core.uv.projection import Places, Projection


@kernel("void(float64[:,:,::1], float64[:,::1], float64[:,::1], float64[:,:,::1])")
def _on_sides(place: Places, normal: Places, ways: Places, uv: Places) -> None:
    # right and down for one who looks at the side from outside, as `projection.seen_on_side` has it
    local = np.empty(3)
    for t in range(place.shape[0]):
        axis = 0
        for k in range(3):
            local[k] = normal[t, 0] * ways[k, 0] + normal[t, 1] * ways[k, 1] + normal[t, 2] * ways[k, 2]
            if abs(local[k]) > abs(local[axis]):
                axis = k
        turn = -1.0 if local[axis] < 0 else 1.0
        for c in range(3):
            for k in range(3):
                local[k] = place[t, c, 0] * ways[k, 0] + place[t, c, 1] * ways[k, 1] + place[t, c, 2] * ways[k, 2]
            uv[t, c, 0] = -local[2] * turn if axis == 0 else local[0] if axis == 1 else local[0] * turn
            uv[t, c, 1] = local[2] * turn if axis == 1 else -local[1]


def _lay(place: Places, normal: Places, ways: Places, values: Values) -> Places:
    uv = np.empty((place.shape[0], 3, 2))
    _on_sides(np.ascontiguousarray(place), np.ascontiguousarray(normal), np.ascontiguousarray(ways), uv)
    return uv


BOX = Projection("box", "Box", "Each face on the side of a box that it faces most.", (), _lay)
