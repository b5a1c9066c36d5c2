"""Loop subdivision: four triangles for each, and a smoother shape."""

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import GUARD
from hulmo.core.mesh.chosen_parts import CREASE
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.subdivide import subdivide

Rows = NDArray[np.int64]

if TYPE_CHECKING:
    from scipy.sparse import csr_array


def subdivide_loop(
    vertices: VertexTable, corners: CornerTable, border_lock: bool = False
) -> tuple[VertexTable, CornerTable]:
    """New tables with four triangles for each old one, drawn toward the smooth limit surface.

    All columns get the weights that positions get, so layers still add up to the position. What is guarded, and a locked
    border, are only split.

    Notes
    -----
    Loop, "Smooth subdivision surfaces based on triangles" (1987): 3/8, 3/8, 1/8, 1/8 for a new vertex of an inner edge;
    (5/8 - (3/8 + cos(2 pi / n) / 4)²) / n for each neighbour of an old one; on borders 1/2, 1/2 and 1/8, 3/4, 1/8. Creases as
    borders, after Hoppe et al., "Piecewise smooth surface reconstruction" (1994).
    """
    vertices, corners = compact(vertices, corners)
    table, result = subdivide(vertices, corners)
    matrix = loop_matrix(corners, vertices.count)
    out = VertexTable(matrix.shape[0])
    free = None if GUARD not in table else 1.0 - table[GUARD]
    held = np.zeros(0, np.int32)
    if border_lock:
        held = np.unique(result.triangles.reshape(-1, 3)[_border_ends(result)])
    for name in table.names:
        smooth = matrix @ vertices[name].astype(np.float64)
        if free is not None:  # the guard keeps its share of where a plain split would leave it, and of what lies there
            smooth = table[name] + free * (smooth - table[name])
        smooth[held] = table[name][held]
        out.set_column(name, np.asarray(smooth, np.float32))
    return out, result


def _border_ends(corners: CornerTable) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    # triangle and corner of both ends of every border edge
    border = corners.border_corners().astype(np.int64)
    triangle, corner = border // 3, border % 3
    return np.concatenate((triangle, triangle)), np.concatenate(((corner + 1) % 3, (corner + 2) % 3))


def loop_matrix(corners: CornerTable, count: int) -> "csr_array":
    """(V + E, V) weights of the old vertices in the new ones; edges in the order of `subdivide`."""
    from scipy.sparse import coo_array, csr_array  # see `mesh.graph`

    triangles = corners.live_triangles()
    tail, tip = triangles[:, (1, 2, 0)].astype(np.int64), triangles[:, (2, 0, 1)].astype(np.int64)
    low, high = np.minimum(tail, tip), np.maximum(tail, tip)
    edges, edge_of = np.unique((low * count + high).reshape(-1), return_inverse=True)
    a, b = edges // count, edges % count
    sides = np.bincount(edge_of, minlength=edges.size)
    border = sides == 1
    if CREASE in corners.slots:  # a crease is divided as a border is
        creased = corners.slots[CREASE][corners.triangles[:, 0] >= 0, :, 0].reshape(-1) >= 0.5
        border |= np.bincount(edge_of, creased, edges.size) > 0
    facing = triangles.reshape(-1).astype(np.int64)  # the corner across each edge
    edge_row = count + np.arange(edges.size)
    rows = [edge_row, edge_row, count + edge_of]
    columns = [a, b, facing]
    ends = np.where(border, 0.5, 0.375)
    values = [ends, ends, np.where(border[edge_of], 0.0, 0.125)]
    lines = np.bincount(np.concatenate((a[border], b[border])), minlength=count)
    on_border, corner = (
        lines == 2,
        lines > 2,
    )  # where more than two lines meet a vertex stays; where one ends it is as any
    valence = np.bincount(np.concatenate((a, b)), minlength=count)
    n = np.maximum(valence, 1)
    beta = (0.625 - (0.375 + np.cos(2 * np.pi / n) / 4) ** 2) / n
    for start, end in ((a, b), (b, a)):
        inner = ~on_border[start] & ~corner[start]
        rows.append(start[inner])
        columns.append(end[inner])
        values.append(beta[start[inner]])
        along = border & on_border[start]
        rows.append(start[along])
        columns.append(end[along])
        values.append(np.full(int(along.sum()), 0.125))
    every = np.arange(count)
    rows.append(every)
    columns.append(every)
    values.append(np.where(on_border, 0.75, np.where(corner, 1.0, 1.0 - beta * valence)))
    data = (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns)))
    return csr_array(coo_array(data, shape=(count + edges.size, count)))
