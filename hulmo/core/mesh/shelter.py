"""How much of the sky is hidden from each vertex by the body itself."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.line_of_sight import blocked
from hulmo.core.mesh.sampled import sampled
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.mesh.spread import spread
from hulmo.core.progress import Progress
from hulmo.core.workers import side_by_side

Rows = NDArray[np.int32]
Points = NDArray[np.float32]
Values = NDArray[np.float32]

MANY = 250_000
"""Vertices from which only a sample of them is looked from."""

PIECE = 8192
"""Rows between two reports of progress."""

RAYS, RAYS_OF_MANY = 32, 16
"""Rays a vertex, each with a part of the sky of its own; fewer on large bodies, where more neighbours are averaged."""

OFF = 2e-3
"""Share of the mean edge by which rays begin above the surface."""


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float32[:,::1], int32[::1], "
    "float64, float64, int64, float64[:,::1], float32[::1])"
)
def _shelter(
    box: Points,
    first: Rows,
    leaf_items: NDArray[np.int32],
    leaf_count: Rows,
    vertex: Rows,
    position: Points,
    normal: Points,
    rows: Rows,
    off: float,
    reach: float,
    rays: int,
    above: NDArray[np.float64],
    out: Values,
) -> None:
    golden = 2.399963229728653
    for i in range(rows.size):
        row = rows[i]
        nx = np.float64(normal[row, 0])
        ny = np.float64(normal[row, 1])
        nz = np.float64(normal[row, 2])
        ox = position[row, 0] + nx * off
        oy = position[row, 1] + ny * off
        oz = position[row, 2] + nz * off
        ax, ay, az = nx, ny, nz
        if above.shape[0] > 0:  # one for all, or one each
            at = i if above.shape[0] > 1 else 0
            ax, ay, az = above[at, 0], above[at, 1], above[at, 2]
        sign = 1.0 if az >= 0.0 else -1.0
        a = -1.0 / (sign + az)
        b = ax * ay * a
        # every vertex turns the same set of rays another way (the golden ratio spreads the turns evenly)
        turn = 2.0 * np.pi * ((row * 0.6180339887498949) % 1.0)
        lift = (row * 0.7548776662466927) % 1.0
        hits = 0
        for ray in range(rays):
            # even over the unit disc, raised to the hemisphere: cosine-weighted (Malley's method)
            r2 = (ray + lift) / rays
            r = np.sqrt(r2)
            angle = golden * ray + turn
            du = r * np.cos(angle)
            dv = r * np.sin(angle)
            dw = np.sqrt(max(1.0 - r2, 0.0))
            dx = du * (1.0 + sign * ax * ax * a) + dv * b + dw * ax
            dy = du * (sign * b) + dv * (sign + ay * ay * a) + dw * ay
            dz = du * (-sign * ax) + dv * (-ay) + dw * az
            if dx * nx + dy * ny + dz * nz <= 0.0 or blocked(
                box, first, leaf_items, leaf_count, vertex, position, ox, oy, oz, dx, dy, dz, reach
            ):
                hits += 1
        out[i] = hits / rays


@kernel(
    "void(float32[:,::1], int32[::1], int32[:,::1], int32[::1], int32[::1], float32[:,::1], float32[:,::1], "
    "float64[:,::1], float64, float64, boolean[::1])"
)
def _covered(
    box: Points, first: Rows, leaf_items: NDArray[np.int32], leaf_count: Rows, vertex: Rows, position: Points,
    normal: Points, up: NDArray[np.float64], off: float, reach: float, out: NDArray[np.bool_],
) -> None:  # fmt: skip
    for row in range(out.size):
        at = row if up.shape[0] > 1 else 0
        dx, dy, dz = up[at, 0], up[at, 1], up[at, 2]
        if dx * normal[row, 0] + dy * normal[row, 1] + dz * normal[row, 2] <= 0.0:
            out[row] = True
            continue
        ox = position[row, 0] + normal[row, 0] * off
        oy = position[row, 1] + normal[row, 1] * off
        oz = position[row, 2] + normal[row, 2] * off
        out[row] = blocked(box, first, leaf_items, leaf_count, vertex, position, ox, oy, oz, dx, dy, dz, reach)


def covered(body: Body) -> NDArray[np.bool_]:
    """(N,) whether rain from straight above, by the body's own down, does not come to a vertex."""
    index, vertices = body.index, body.vertices
    low, high = index.bounds
    out = np.zeros(vertices.count, np.bool_)
    up = np.ascontiguousarray(body.up(vertices["position"]))
    if bool(((vertices["normal"] * up).sum(axis=1) > 0.0).all()) and body.down.even:
        return out  # what faces up everywhere cannot lie over itself
    off, far = OFF * mean_edge(body), 2.0 * float(np.linalg.norm(high - low))
    _covered(*index.search, body.corners.vertex, vertices["position"], vertices["normal"], up, off, far, out)
    return out


def shelter(body: Body, reach: float, progress: Progress, rays: int = 0, above: bool = False) -> Values:
    """Ambient occlusion of every vertex by the body it belongs to.

    Parameters
    ----------
    body : Body
    reach : float
        Metres beyond which nothing counts as shelter.
    progress : Progress
    rays : int
        Per vertex that is looked from: all of a small body, one in four of a large one. 0: as many as suit its size.
    above : bool
        Look at the sky above, by the body's own down, rather than at the half that the surface faces.

    Returns
    -------
    (N,) float32
        0 where nothing of the half is hidden, 1 where all of it is: the cosine-weighted share of its directions that meet
        the body within `reach`, or lie behind the surface itself. Averaged with neighbours, against the noise of few rays.
    """
    index, corners, vertices = body.index, body.corners, body.vertices
    live = np.flatnonzero(corners.first_corner >= 0).astype(np.int32)
    low, high = index.bounds
    many = live.size > MANY
    rays = rays or (RAYS_OF_MANY if many else RAYS)
    far = min(reach, 2.0 * float(np.linalg.norm(high - low)))
    off = OFF * mean_edge(body) if live.size else 0.0

    def part(rows: Rows) -> Values:
        own = np.empty(rows.size, np.float32)
        up = np.ascontiguousarray(body.up(vertices["position"][rows])) if above else np.empty((0, 3))
        _shelter(
            *index.search, corners.vertex, vertices["position"], vertices["normal"], rows, off, far, rays, up, own
        )  # fmt: skip
        return own

    def measured(rows: Rows) -> Values:
        pieces = [rows[start : start + PIECE] for start in range(0, rows.size, PIECE)]
        found = side_by_side(part, pieces, told=lambda done: progress.step(done / len(pieces), "measuring shelter"))
        return np.concatenate([np.empty(0, np.float32), *found])

    out = np.zeros(vertices.count, np.float32)
    out[live] = sampled(body, live, 4 if many else 1, measured)
    return spread(corners, spread(corners, out, "soften"), "soften")
