"""How sharply triangles are bent away from their neighbours."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.sides import unit_normals

Slots = NDArray[np.int32]


def bends(body: Body, slots: Slots) -> NDArray[np.float64]:
    """(K,) largest angle between the normal of each of some triangles and those across its edges, degrees; 0 without any."""
    corners, position = body.corners, body.vertices["position"]
    own = unit_normals(position, corners.triangles[slots])
    across = corners.opposite.reshape(-1, 3)[slots]
    along = np.ones(slots.size)
    for side in range(3):
        there = across[:, side] >= 0
        other = unit_normals(position, corners.triangles[across[there, side] // 3])
        along[there] = np.minimum(along[there], np.einsum("ij,ij->i", own[there], other))
    return np.asarray(np.degrees(np.arccos(np.clip(along, -1, 1))))
