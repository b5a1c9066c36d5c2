"""What commands share that make other vertices, edges and faces of those that are chosen."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import Mask
from hulmo.core.edit import Edit, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import tidied
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.chosen_parts import FACES
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.topology.improve import improved
from hulmo.core.topology.local_remesh import LocalRemesh

Triple = tuple[float, float, float]
Vector = NDArray[np.float64]
Tables = tuple[VertexTable, CornerTable]

FARTHEST = 1e6

FAR = 1e30
"""A radius within which everything lies, metres."""

FAIR = 12.0
"""Degrees of the smallest angle from which on a triangle that an operation made is good enough."""


def begun(body: Body, *masks: tuple[Mask, str]) -> tuple[VertexTable, CornerTable, list[Mask]]:
    """Tables without freed slots, and masks of vertices, edges or faces as they lie in them."""
    live = body.corners.triangles[:, 0] >= 0
    rows = np.zeros(body.vertices.count, np.bool_)
    rows[body.corners.live_triangles().reshape(-1)] = True
    if body.vertices.live_count == body.vertices.count and body.corners.live_count == body.corners.count:
        rows[:] = True
    vertices, corners = compact(body.vertices, body.corners)
    return vertices, corners, [mask[rows] if domain == "vertex" else mask[live] for mask, domain in masks]


def tables_edit(label: str, body: Body, tables: Tables) -> Edit:
    """The edit that puts other tables into a body."""
    return Edit(label, (TablesDelta(body.ident, (body.vertices, body.corners), (tidied(tables[0]), tables[1])),))


def tidied_tables(tables: Tables, before: int, tidy: bool) -> Tables:
    """Tables in which the triangles at vertices that are new, and around them, are made better by turning edges.

    Parameters
    ----------
    before : int
        Rows that were there before.
    tidy : bool
        Otherwise the tables as they are.
    """
    vertices, corners = tables
    if not tidy or vertices.count <= before:
        return tables
    near = np.arange(vertices.count) >= before
    near[corners.triangles[any_of(near, corners.triangles)]] = True
    return vertices, improved(vertices, corners, any_of(near, corners.triangles), FAIR, joins=False)


def evened_tables(tables: Tables, before: int, tidy: bool) -> Tables:
    """Tables in which triangles that are new have edges about as long as those at their rim.

    Parameters
    ----------
    before : int
        Triangles that were there before; the new ones lie behind them.
    tidy : bool
        Otherwise the tables as they are.
    """
    vertices, corners = tables
    if not tidy or corners.count <= before + 1:
        return tables
    fresh = np.arange(before, corners.count, dtype=np.int32)
    rim = corners.opposite.reshape(-1, 3)[fresh]
    sides = side_lengths(vertices["position"], corners.triangles[fresh])
    across = np.stack((sides[:, 2], sides[:, 0], sides[:, 1]), axis=1)[(rim >= 0) & (rim // 3 < before)]
    if not across.size:
        return tables
    body = Body("", vertices, corners)
    LocalRemesh(body).run(fresh, np.zeros(3), FAR, float(np.median(across)), True, True, True)
    return compact(body.vertices, body.corners)


def unguarded(body: Body, vertices: Mask, where: str) -> None:
    """Refuse to change what is guarded.

    Raises
    ------
    InvalidInput
    """
    if GUARD in body.vertices and bool((body.vertices[GUARD][vertices, 0] > 0).any()):
        raise InvalidInput(f"{where}: part of what is chosen is guarded; clear the guard there, or choose less")


def finite(where: str, **values: float) -> None:
    """Refuse numbers that are none, or far too large.

    Raises
    ------
    InvalidInput
    """
    for name, value in values.items():
        if not np.isfinite(value) or abs(value) > FARTHEST:
            raise InvalidInput(f"{where}: {name} must be a finite number, {FARTHEST:,.0f} at the most")


def choosing(vertices: VertexTable, corners: CornerTable, faces: Mask) -> Tables:
    """Tables of which these faces are chosen."""
    corners.slots.set("face", FACES, faces.astype(np.float32)[:, None, None])
    return vertices, corners
