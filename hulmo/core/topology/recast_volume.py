"""Even triangles around the volume that a closed body encloses: parts that overlap become one, folds are undone."""

import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.memory import available_bytes
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.carry import carried
from hulmo.core.topology.crossing import crossing
from hulmo.core.topology.cure import smooth_around
from hulmo.core.topology.mend import mend
from hulmo.core.topology.parts import part_of_triangles
from hulmo.core.topology.recast import evened
from hulmo.core.topology.winding import winding_grid

Places = NDArray[np.float64]
Points = NDArray[np.float32]

PASSES = 3
"""Rounds of evening out; what comes out of the grid is nearly even already."""

CELL = 1.35
"""Cell of the grid in wanted edge lengths: triangles of a cell have sides of about three quarters of it."""

CELL_BYTES = 16
"""Bytes that a point of the grid needs at the peak; 11 to 15 were measured."""

CRUMB = 3.5
"""Wanted edge lengths across, under which a loose part is a crumb."""

UNTANGLINGS = 8
"""How often triangles that cross are smoothed apart."""

OFFSET = np.array([0.3819660113, 0.2360679775, 0.1458980338])
"""Where in its cell the grid begins: away from the round numbers that vertices like to have."""


def recast_volume(body: Body, length: float, progress: Progress) -> tuple[VertexTable, CornerTable]:
    """Tables of an even mesh around what a closed body encloses.

    Parameters
    ----------
    body : Body
        Closed. Its parts may overlap and cross themselves; what is enclosed at least once is solid, parts turned inside out
        are hollow.
    length : float
        Wanted edge length, metres; what is thinner vanishes.

    Raises
    ------
    InvalidInput
        The body is open, encloses nothing, or the grid needs more memory than there is.

    Notes
    -----
    Winding numbers on a grid, signed distance to the surface beside it, marching cubes (Lewiner, Lopes, Vieira and Tavares,
    "Efficient implementation of marching cubes' cases with topological guarantees", 2003), then evening out along the
    surface (Botsch and Kobbelt 2004).
    """
    if body.corners.border_corners().size:
        raise InvalidInput(
            f"recast: {body.name!r} is open and encloses nothing; fill its border loops first, or recast along the surface"
        )
    cell = CELL * length
    bounds = body.bounds()
    low = bounds.low - (1.0 + OFFSET) * cell
    x, y, z = (int(count) + 2 for count in np.ceil((bounds.high - low) / cell))
    size = (x, z, y)
    points, there = math.prod(size), available_bytes()
    if there is not None and points * CELL_BYTES > there:
        raise InvalidInput(
            f"recast: edge {length:g} m needs a grid of {points / 1e6:,.0f} million points and about "
            f"{points * CELL_BYTES / 1e9:.1f} GB of memory, {there / 1e9:.1f} GB are free; choose a longer edge"
        )
    progress.step(0.05, "finding what is inside")
    position = body.vertices["position"].astype(np.float64)
    triangles = body.corners.live_triangles()
    winding = winding_grid(position, triangles, low, cell, size)
    tangled = bool(((winding > 1) | (winding < 0)).any())
    inside = winding > 0
    del winding
    if not inside.any():
        raise InvalidInput(
            f"recast: nothing of {body.name!r} is as thick as an edge of {length:g} m, or it is inside out; choose a shorter "
            "edge, or flip its faces"
        )
    progress.step(0.2, "measuring distances")
    field = _distances(body, inside, low, cell)
    progress.step(0.35, "tracing the surface")
    shape = _without_crumbs(_traced(field, low, cell), CRUMB * length)
    del field, inside
    traced = Body.from_shape("", shape)
    even, triangles = evened(traced, length, PASSES, 180.0, progress.part(0.4, 0.9), onto=body)
    result = even.astype(np.float32)
    if tangled:
        progress.step(0.9, "untangling")
        result = _untangled(result, triangles, progress)
    progress.step(0.95, "carrying grounds and layers")
    return carried(body, result, triangles)


def _without_crumbs(shape: Shape, size: float) -> Shape:
    # what is enclosed at a single point of the grid floats beside the rest, as a crumb or as a bubble in it
    corners = CornerTable.from_triangles(shape.triangles, shape.position.shape[0])
    count, part = part_of_triangles(corners)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    for i in range(3):
        np.minimum.at(low, part, shape.position[shape.triangles[:, i]])
        np.maximum.at(high, part, shape.position[shape.triangles[:, i]])
    keep = np.linalg.norm(high - low, axis=1) >= size
    keep[0] = True
    if keep.all():
        return shape
    triangles = shape.triangles[keep[part]]
    used, number = np.unique(triangles, return_inverse=True)
    return Shape(shape.position[used], number.reshape(-1, 3).astype(np.int32))


def _untangled(position: Points, triangles: NDArray[np.int32], progress: Progress) -> Points:
    # what is thinner than an edge can still run through itself after evening out
    body = Body.from_shape("", Shape(position, triangles))
    for _ in range(UNTANGLINGS):
        bad = crossing(body, progress.part(0.9, 0.95))
        if not bad.size:
            break
        smooth_around(body, bad)
    return body.vertices["position"]


def _distances(body: Body, inside: NDArray[np.bool_], low: Places, cell: float) -> NDArray[np.float32]:
    # signed distance in cells at the points next to the surface, one cell everywhere else
    near = np.zeros(inside.shape, np.bool_)
    for axis in range(3):
        ahead, behind = [slice(None)] * 3, [slice(None)] * 3
        ahead[axis], behind[axis] = slice(1, None), slice(None, -1)
        differ = inside[tuple(ahead)] != inside[tuple(behind)]
        near[tuple(ahead)] |= differ
        near[tuple(behind)] |= differ
    places = np.argwhere(near)
    points = (low + places[:, (0, 2, 1)] * cell).astype(np.float32)
    triangle, weight = body.index.nearest_many(body.corners.vertex, body.vertices["position"], points)
    on = np.einsum("ki,kij->kj", weight, body.vertices["position"][body.corners.triangles[triangle]])
    # a surface that lies hidden in the solid may be nearer than the outer one, never farther than a cell away
    away = np.clip(np.linalg.norm(points - on, axis=1) / cell, 1e-3, 1.0).astype(np.float32)
    field = np.where(inside, np.float32(1), np.float32(-1))
    field[near] *= away
    return field


def _traced(field: NDArray[np.float32], low: Places, cell: float) -> Shape:
    from skimage.measure import marching_cubes

    at, triangles, _, _ = marching_cubes(field, 0.0, allow_degenerate=False)
    position = (low + at[:, (0, 2, 1)].astype(np.float64) * cell).astype(np.float32)
    result = mend(position, triangles)
    return Shape(position[result.source], result.triangles)
