"""What lies straight below places: how deep, and whether they lie in the open or under the surface."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.tree_query import first_hit
from hulmo.core.workers import by_pieces

Places = NDArray[np.float64]
States = NDArray[np.int8]

BURIED, OPEN, OVER = 0, 1, 2
"""Under the surface; in the open with nothing of the body below; in the open with the body below."""

ASIDE = 3e-6 * np.array([0.83, 0.21, 0.51])
"""Share of the extent of a body by which places are looked down from beside themselves."""

PIECE = 2048
"""Places that one thread takes at a time."""


def soundings(body: Body, points: Places, up: Places) -> tuple[States, Places]:
    """Look straight down from places, and up where nothing lies below.

    Parameters
    ----------
    points : (K, 3) float64
        Metres about the body's origin.
    up : (1, 3) or (K, 3) float64
        Unit vectors.

    Returns
    -------
    tuple
        (K,) BURIED, OPEN or OVER, and (K,) metres down to the surface, infinite where it is not OVER.
    """
    state, depth = np.empty(points.shape[0], np.int8), np.full(points.shape[0], np.inf)
    # beside the plumb line by a hair: what stands exactly above or below a corner is met on one side of it
    points = np.ascontiguousarray(points + ASIDE * float(np.ptp(body.index.bounds, axis=0).max()))
    ways = np.array(np.broadcast_to(up, points.shape), np.float64, order="C")
    search = body.index.search
    vertex, position = body.corners.vertex, body.vertices["position"]

    def look(part: slice) -> None:
        _soundings(*search, vertex, position, points[part], ways[part], state[part], depth[part])

    by_pieces(look, points.shape[0], PIECE)
    return state, depth


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float64[:,::1], "
    "float64[:,::1], int8[::1], float64[::1])"
)
def _soundings(
    box: NDArray[np.float32], first: NDArray[np.int32], leaf_items: NDArray[np.int32], leaf_count: NDArray[np.int32],
    vertex: NDArray[np.int32], position: NDArray[np.float32], points: Places, up: Places,
    state: States, depth: Places,
) -> None:  # fmt: skip
    out = np.empty(3)
    for i in range(points.shape[0]):
        state[i] = OPEN
        for side in (-1.0, 1.0):
            way = side * up[i]
            slot = first_hit(
                box, first, leaf_items, leaf_count, vertex, position, None, None, points[i], way, np.inf, out
            )
            if slot < 0:
                continue
            p = position[vertex[3 * slot]]
            q = position[vertex[3 * slot + 1]]
            r = position[vertex[3 * slot + 2]]
            ax, ay, az = np.float64(q[0]) - p[0], np.float64(q[1]) - p[1], np.float64(q[2]) - p[2]
            bx, by, bz = np.float64(r[0]) - p[0], np.float64(r[1]) - p[1], np.float64(r[2]) - p[2]
            faces = (ay * bz - az * by) * up[i, 0] + (az * bx - ax * bz) * up[i, 1] + (ax * by - ay * bx) * up[i, 2]
            # seen from above, ground shows its face; seen from below, what shows its back has one under it
            if side < 0.0:
                state[i] = OVER if faces >= 0.0 else BURIED
                if faces >= 0.0:
                    depth[i] = out[0]
            else:
                state[i] = BURIED if faces > 0.0 else OPEN
            break
