"""Fewer triangles, the shape kept as well as can be."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.carry import carry, carry_faces

FEWEST = 4

TRIES = 9
"""Counts that are tried to meet an error."""


def reduce_to(body: Body, count: int, progress: Progress) -> tuple[VertexTable, CornerTable]:
    """Tables with about so many triangles; borders stay where they are, and all columns, UV and regions are carried.

    Raises
    ------
    InvalidInput
        Fewer triangles than make a body, or more than there are.

    Notes
    -----
    Edge collapse by quadric error (Garland and Heckbert 1997), as the library fast-simplification does it.
    """
    import fast_simplification

    have = body.corners.live_count
    if not FEWEST <= count < have:
        raise InvalidInput(
            f"reduce: {count:,} triangles asked for; {body.name!r} has {have:,}, at least {FEWEST} must stay"
        )
    used, number = np.unique(body.corners.live_triangles(), return_inverse=True)
    points = np.ascontiguousarray(body.vertices["position"][used])
    faces = np.ascontiguousarray(number.reshape(-1, 3), np.int32)
    progress.step(0.1, "collapsing edges")
    new_points, new_faces = fast_simplification.simplify(points, faces, target_count=count)[:2]
    progress.step(0.6, "carrying grounds and layers")
    position = np.ascontiguousarray(new_points, np.float32)
    triangles = np.ascontiguousarray(new_faces, np.int32)
    keep, place = np.unique(triangles, return_inverse=True)
    table = carry(body, position[keep])
    faces = place.reshape(-1, 3).astype(np.int32)
    uv, region = carry_faces(body, table["position"], faces)
    try:
        corners = CornerTable.from_triangles(faces, table.count, uv)
    except InvalidInput as error:
        raise InvalidInput(
            f"reduce: {count:,} triangles are too few for {body.name!r}: the surface would touch itself; ask for more"
        ) from error
    corners.region[:] = region
    return table, corners


def reduce_within(body: Body, error: float, progress: Progress) -> tuple[VertexTable, CornerTable]:
    """Tables with as few triangles as keep every old vertex within `error` metres of the new surface.

    Raises
    ------
    InvalidInput
        No smaller mesh keeps within it.
    """
    low, high = FEWEST, body.corners.live_count
    best = None
    for i in range(TRIES):
        progress.step(i / TRIES, "looking for the count")
        count = int(np.sqrt(float(low) * high))
        try:
            tables = reduce_to(body, count, Progress())
        except InvalidInput:
            low = count
            continue
        if deviation(body.vertices["position"], tables) <= error:
            best, high = tables, count
        else:
            low = count
    if best is None:
        raise InvalidInput(
            f"reduce: {body.name!r} cannot lose triangles and stay within {error:g} m; allow a larger error"
        )
    return best


def deviation(points: NDArray[np.float32], tables: tuple[VertexTable, CornerTable]) -> float:
    """Largest distance of points from a mesh, metres: one side of the Hausdorff distance."""
    vertices, corners = tables
    mesh = Body.from_shape("", Shape(vertices["position"].copy(), corners.live_triangles()))
    triangle, weight = mesh.index.nearest_many(mesh.corners.vertex, mesh.vertices["position"], points)
    on = np.einsum("ki,kij->kj", weight, mesh.vertices["position"][mesh.corners.triangles[triangle]])
    return float(np.linalg.norm(on - points, axis=1).max(initial=0.0))
