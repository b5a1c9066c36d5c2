"""A collision body of convex parts: volumetric approximate convex decomposition (V-HACD, Mamou 2016) says which triangles go
together, and each part is the convex hull of its triangles, so that all of the surface lies within the parts."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable

Places = NDArray[np.float64]

RESOLUTION = 60_000
"""Voxels of the decomposition."""

THIN = 0.01
"""Of a body's size: how thick a part is made that would be flat."""


def convex_parts(body: Body, most: int) -> list[Body]:
    """Up to so many closed, convex bodies that together hold every triangle of a body.

    Where the decomposition finds nothing to go by, it is one.
    """
    import vhacdx  # needed nowhere else

    place = body.vertices["position"].astype(np.float64)
    triangles = body.corners.live_triangles()
    closed = body.corners.border_corners().size == 0
    faces = np.column_stack((np.full(len(triangles), 3), triangles)).astype(np.uint32).reshape(-1)
    hulls = vhacdx.compute_vhacd(
        place,
        faces,
        maxConvexHulls=most,
        resolution=RESOLUTION,
        fillMode="flood" if closed else "surface",
        asyncACD=False,
    )
    middle = place[triangles].mean(axis=1)
    away = [_outside(np.asarray(points, np.float64), middle) for points, _ in hulls[:most]]
    part = np.argmin(away, axis=0) if away else np.zeros(len(triangles), np.int64)
    low, high = low_high(place)
    size = float(np.linalg.norm(high - low))
    out: list[Body] = []
    for number in np.unique(part).tolist():
        points = np.unique(triangles[part == number])
        out.append(_as_body(body, *_hull(place[points], THIN * size), f"{body.name}.collision{len(out) + 1}"))
    return out


def _outside(points: Places, places: Places) -> NDArray[np.float64]:
    # (K,) how far places lie outside of the hull of some points; below 0 within
    from scipy.spatial import ConvexHull, QhullError  # see `mesh.graph`

    try:
        planes = ConvexHull(points).equations
    except QhullError:
        return np.asarray(np.linalg.norm(places - points.mean(axis=0), axis=1))
    return np.asarray((places @ planes[:, :3].T + planes[:, 3]).max(axis=1))


def _hull(points: Places, thin: float) -> tuple[Places, NDArray[np.int32]]:
    from scipy.spatial import ConvexHull, QhullError

    try:
        hull = ConvexHull(points)
    except QhullError:  # flat, or a line: some thickness all around
        points = np.concatenate([points + thin / 2 * way for way in (*np.eye(3), *-np.eye(3))])
        hull = ConvexHull(points)
    corner = points[hull.simplices]
    facing = np.einsum(
        "ij,ij->i", np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), hull.equations[:, :3]
    )
    simplices = np.where(facing[:, None] < 0, hull.simplices[:, (0, 2, 1)], hull.simplices)
    used, flat = np.unique(simplices, return_inverse=True)
    return points[used], flat.reshape(-1, 3).astype(np.int32)


def _as_body(body: Body, points: Places, triangles: NDArray[np.int32], name: str) -> Body:
    table = VertexTable(len(points))
    table.set_column("position", points.astype(np.float32))
    made = Body(name, table, CornerTable.from_triangles(triangles, len(points)), body.ident)
    made.origin, made.down = body.origin, body.down
    made.replaced()
    return made
