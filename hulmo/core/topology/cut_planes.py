"""Edges along parallel planes through the whole of a mesh."""

from collections.abc import Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.split_edges import split_edges
from hulmo.core.workers import by_pieces, side_by_side

CLOSE = 1e-3
"""Share of an edge within which a vertex counts as on the plane."""

CORNERS = 600_000
"""Corners, those of whole triangles, that one thread looks at."""


def cut_planes(
    vertices: VertexTable,
    corners: CornerTable,
    normal: NDArray[np.float64],
    places: Sequence[float],
    progress: Progress | None = None,
) -> tuple[VertexTable, CornerTable]:
    """Put edges where parallel planes meet the mesh; the shape stays as it is.

    Planes so far apart that no edge reaches from one to the next are cut at once.

    Parameters
    ----------
    vertices, corners
        Without freed slots.
    normal : (3,) float64
        Of length 1.
    places : sequence of float
        Metres of the planes from the origin of the body, along the normal.
    progress : Progress, optional

    Returns
    -------
    tuple
        Both tables, of their own; new vertices come after those that were there. Vertices very near a plane are not split
        beside; they stay where they are, and the cut runs through them.
    """
    height = vertices["position"].astype(np.float64) @ normal
    groups = _at_once(np.unique(np.asarray(places, np.float64)), _reach(corners.vertex, height))
    whole = corners
    for done, planes in enumerate(groups):
        if progress is not None:
            progress.step(done / len(groups), "cutting")
        height = vertices["position"].astype(np.float64) @ normal
        edges, share = np.zeros(3 * corners.count, np.bool_), np.empty(3 * corners.count)
        by_pieces(partial(_look, corners.vertex, height, planes, edges, share), edges.size, CORNERS)
        if edges.any():
            vertices, corners, _ = split_edges(vertices, corners, edges.reshape(-1, 3), share.reshape(-1, 3))
    return (vertices, corners) if corners is not whole else (vertices.copy(), corners.copy())


def _reach(vertex: NDArray[np.int32], height: NDArray[np.float64]) -> float:
    starts = range(0, vertex.size, CORNERS)
    return max(side_by_side(lambda start: _longest(vertex[start : start + CORNERS], height), starts), default=0.0)


def _look(
    vertex: NDArray[np.int32], height: NDArray[np.float64], planes: NDArray[np.float64], edges: NDArray[np.bool_],
    share: NDArray[np.float64], part: slice,
) -> None:  # fmt: skip
    _crossed(vertex[part], height, planes, edges[part], share[part])


def _at_once(planes: NDArray[np.float64], reach: float) -> list[NDArray[np.float64]]:
    # planes in as few groups as it takes for those of each to lie further apart than any edge reaches
    groups: list[list[float]] = []
    for place in planes.tolist():
        group = next((group for group in groups if place - group[-1] > reach), None)
        if group is None:
            groups.append([place])
        else:
            group.append(place)
    return [np.array(group) for group in groups]


@kernel("float64(int32[::1], float64[::1])")
def _longest(vertex: NDArray[np.int32], height: NDArray[np.float64]) -> float:
    # how far an edge reaches along the normal at the most
    out = 0.0
    for corner in range(vertex.size):
        out = max(out, abs(height[vertex[next_corner(corner)]] - height[vertex[corner]]))
    return out


@kernel("void(int32[::1], float64[::1], float64[::1], boolean[::1], float64[::1])")
def _crossed(
    vertex: NDArray[np.int32], height: NDArray[np.float64], planes: NDArray[np.float64], edges: NDArray[np.bool_],
    share: NDArray[np.float64],
) -> None:  # fmt: skip
    # edges whose ends lie on both sides of a plane, neither of them very near, and where, from the end of the lower number
    for corner in range(vertex.size):
        tail, tip = vertex[next_corner(corner)], vertex[previous_corner(corner)]
        low, high = height[min(tail, tip)], height[max(tail, tip)]
        at = np.searchsorted(planes, min(low, high))
        if at == planes.size:
            continue
        low, high = low - planes[at], high - planes[at]
        if low * high < 0 and not min(abs(low), abs(high)) < CLOSE * abs(low - high):
            edges[corner] = True
            share[corner] = low / (low - high)
