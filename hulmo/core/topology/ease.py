"""Even triangles over a whole body, the surface kept."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.progress import Progress

SHARE = 0.6
"""Part of the way to the middle of its neighbours that a vertex goes in one pass."""


def ease(body: Body, passes: int, progress: Progress) -> NDArray[np.float32]:
    """(N, 3) positions after vertices slid toward the middle of their one-rings and back onto the old surface.

    Borders stay, and the guard keeps its share.

    Notes
    -----
    Tangential relaxation with projection, as in Botsch and Kobbelt, "A remeshing approach to multiresolution modeling"
    (2004).
    """
    corners = body.corners
    old = body.vertices["position"]
    rows = np.arange(body.vertices.count, dtype=np.int32)
    position, normal = old.copy(), body.vertices["normal"].copy()
    amount = np.full(rows.size, SHARE, np.float32)
    free = body.free_share(rows)
    if free is not None:
        amount *= free
    for done in range(passes):
        progress.step(done / passes, "sliding vertices")
        position = ring_means(position, corners, rows, amount, normal, along=True)
        update_normals(position, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
    triangle, weight = body.index.nearest_many(corners.vertex, old, position)
    on = np.einsum("ki,kij->kj", weight, old[corners.triangles[triangle]])
    moved = (position != old).any(axis=1)
    return np.where(moved[:, None], on, old).astype(np.float32)
