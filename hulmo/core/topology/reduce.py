"""Fewer triangles, the shape kept as well as can be."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.soundness import wrong_triangle
from hulmo.core.mesh.used_rows import over_used_rows
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.carry import carried
from hulmo.core.topology.cure import turn_slivers
from hulmo.core.topology.fill import fill_borders
from hulmo.core.topology.mend import Mended, mend, same_rows
from hulmo.core.topology.parts import part_of_triangles, picked
from hulmo.core.topology.simplify import simplified, simplified_within

FEWEST = 4

CARE = (7, 5, 3)
"""Aggressiveness of the library, tried in turn until the surface stays a manifold."""

MORE = (1.02, 1.05, 1.1)
"""Times the wanted count that are tried where the surface pinches."""

SHORT = 1.12
"""Times the wanted count from which on a surface counts as not reduced."""

CRUMB = 8
"""Triangles of a loose piece that may be dropped where a pinch was opened."""

TRIES = 9
"""Counts that are tried to meet an error."""


def reduce_to(body: Body, count: int, progress: Progress) -> tuple[VertexTable, CornerTable]:
    """Tables with about so many triangles; all columns, UV and regions are carried. What is guarded stays, and so does every
    vertex of a locked border.

    Raises
    ------
    InvalidInput
        Fewer triangles than make a body, or more than there are, or than what is guarded leaves room for.

    Notes
    -----
    Edge collapse by quadric error (Garland and Heckbert 1997), as the libraries fast-simplification and, where something has
    to stay, pyfqmr do it.
    """
    have = body.corners.live_count
    if not FEWEST <= count < have:
        raise InvalidInput(
            f"reduce: {count:,} triangles asked for; {body.name!r} has {have:,}, at least {FEWEST} must stay"
        )
    used, faces = over_used_rows(body.corners.live_triangles(), body.vertices.count)
    points = np.ascontiguousarray(body.vertices["position"][used])
    fixed = kept_triangles(body)[body.corners.triangles[:, 0] >= 0]
    if int(fixed.sum()) > count - FEWEST:
        raise InvalidInput(
            f"reduce: {count:,} triangles asked for; {int(fixed.sum()):,} of {body.name!r} are guarded and stay; ask for "
            "more, or clear the guard"
        )
    progress.step(0.1, "collapsing edges")
    if fixed.any() or body.border_lock:
        position, triangles = _simplified_around(points, faces, fixed, count, progress.part(0.1, 0.6))
    else:
        border = body.corners.border_corners().size
        position, triangles = _simplified(points, faces, count, border, progress.part(0.1, 0.6))
    progress.step(0.6, "carrying grounds and layers")
    tables = carried(body, position, triangles)
    progress.step(0.9, "turning slivers")
    tables = turn_slivers(body, tables)
    if wrong_triangle(tables[1]) >= 0:
        raise InvalidInput(
            f"reduce: with {count:,} triangles the surface of {body.name!r} would touch itself; ask for more triangles"
        )
    return tables


def kept_triangles(body: Body) -> NDArray[np.bool_]:
    """(M,) which triangle slots have a guarded corner: they stay whatever is done around them."""
    triangles = body.corners.triangles
    if GUARD not in body.vertices:
        return np.zeros(triangles.shape[0], np.bool_)
    return np.asarray((body.vertices[GUARD][:, 0] > 0)[triangles].any(axis=1) & (triangles[:, 0] >= 0))


def _simplified_around(
    points: NDArray[np.float32], faces: NDArray[np.int32], fixed: NDArray[np.bool_], count: int, progress: Progress
) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
    """As `_simplified`, some triangles and all borders kept: the rest is taken out, reduced within its rims, put back."""
    new_points, new_faces = simplified_within(points, faces[~fixed], count - int(fixed.sum()), progress)
    # rims are joined by place: to the bit, since neither side may move them
    whole = np.concatenate((points, new_points))
    triangles = np.concatenate((faces[fixed].astype(np.int64), new_faces.astype(np.int64) + points.shape[0]))
    same = same_rows(np.ascontiguousarray(whole + np.float32(0.0)).view(np.uint32))
    result = mend(whole, same[triangles], outward=False)
    return np.ascontiguousarray(whole[result.source], np.float32), result.triangles


def _simplified(
    points: NDArray[np.float32], faces: NDArray[np.int32], count: int, border: int, progress: Progress
) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
    """Position and triangles of a manifold with as many borders as before.

    The library collapses edges without asking whether the surface stays a manifold, so its result is looked at: where it
    pinched, it is tried again more carefully and with a few triangles more, and at last opened there and closed without the
    crumbs.
    """
    best: Mended | None = None
    made, worst = points, (True, True)
    tried = [(care, count) for care in CARE] + [(care, int(count * more) + 2) for more in MORE for care in CARE[:2]]
    for care, wanted in tried:
        if wanted >= faces.shape[0]:
            continue
        new_points, new_faces = simplified(points, faces, wanted, care, progress)
        result = mend(new_points, new_faces, outward=False)
        edges = CornerTable.from_triangles(result.triangles, result.source.size)
        whole = not result.account and (edges.border_corners().size == 0) == (border == 0)
        # the more careful, the sooner it stops short of what was asked: one that pinches is nearer to it
        faults = (result.triangles.shape[0] > SHORT * count, not whole)
        if best is None or faults < worst:
            best, made, worst = result, new_points, faults
        if worst == (False, False):
            break
    assert best is not None
    table = VertexTable(best.source.size)
    table.set_column("position", np.ascontiguousarray(made[best.source], np.float32))
    corners = CornerTable.from_triangles(best.triangles, table.count)
    if border == 0 and corners.border_corners().size:
        table, corners = _largest(table, corners)
        table, corners, _ = fill_borders(table, corners)
    return table["position"], corners.live_triangles()


def _largest(table: VertexTable, corners: CornerTable) -> tuple[VertexTable, CornerTable]:
    # opened pinches leave crumbs of a few triangles
    parts, part = part_of_triangles(corners)
    sizes = np.bincount(part, minlength=parts)
    keep = sizes > CRUMB
    return picked(table, corners, keep[part]) if keep.any() and not keep.all() else (table, corners)


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
