"""Solid bodies added, cut and intersected, with everything that is known at their vertices."""

from dataclasses import dataclass
from typing import Any

import manifold3d
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.vertex_table import VertexTable

Points = NDArray[np.float32]
Triangles = NDArray[np.int32]

ALONG = 1e-3
"""Share of a corner up to which a point lies on the edge across it."""

HOWS = ("add", "cut", "common")


@dataclass(frozen=True)
class Solid:
    """A closed mesh with one wide column of everything at its vertices.

    Attributes
    ----------
    columns : tuple of (name, width)
        What lies behind the three numbers of the position.
    values : (N, 3 + W) float32
    triangles : (M, 3) int32
    known : SlotTable
        (M,) what is known of faces, corners and edges.
    """

    columns: tuple[tuple[str, int], ...]
    values: Points
    triangles: Triangles
    known: SlotTable


def solid_of(body: Body, where: str) -> Solid:
    """A body as a solid.

    Raises
    ------
    InvalidInput
        An open body.
    """
    if body.corners.border_corners().size:
        raise InvalidInput(f"{where}: {body.name!r} is open and has no inside; fill its border loops first")
    names = [name for name in body.vertices.names if name not in ("position", "normal")]
    columns = tuple((name, body.vertices.width(name)) for name in names)
    values = np.concatenate([body.vertices["position"], *(body.vertices[name] for name in names)], axis=1)
    live = body.corners.triangles[:, 0] >= 0
    return Solid(columns, np.ascontiguousarray(values), body.corners.triangles[live], body.corners.slots.taken(live))


def like(
    columns: tuple[tuple[str, int], ...],
    position: Points,
    triangles: Triangles,
    given: dict[str, Points],
    known: SlotTable | None = None,
) -> Solid:
    """A solid with the columns of another one: what is given, the position for the form, and zeros for the rest."""
    parts = [position]
    for name, width in columns:
        if name in given:
            parts.append(given[name])
        elif name == REST:
            parts.append(position)
        else:
            parts.append(np.zeros((position.shape[0], width), np.float32))
    values = np.ascontiguousarray(np.concatenate(parts, axis=1), np.float32)
    return Solid(columns, values, triangles, SlotTable(triangles.shape[0]) if known is None else known)


def combine(one: Solid, other: Solid, how: str, where: str) -> tuple[VertexTable, CornerTable]:
    """One solid plus another, minus it, or what both share; columns are interpolated along the cut.

    Parameters
    ----------
    one, other : Solid
        With the same columns.
    how : str
        One of `HOWS`.

    Raises
    ------
    InvalidInput
        A mesh that encloses nothing, or a result without any volume, or the same as before.
    """
    ident = manifold3d.Manifold.reserve_ids(2)
    first, second = _manifold(one, ident, where), _manifold(other, ident + 1, where)
    result = {"add": lambda: first + second, "cut": lambda: first - second, "common": lambda: first ^ second}[how]()
    apart = f"{where}: the two do not meet, so there is nothing to {'cut' if how == 'cut' else 'keep'}"
    if result.is_empty():
        raise InvalidInput(
            apart if how == "common" else f"{where}: nothing would be left; move or shrink the other body first"
        )
    mesh = result.to_mesh()
    runs = _runs(mesh)
    if how == "cut" and not any(run.stop > run.start for name, run in runs if name == ident + 1):
        raise InvalidInput(apart)  # no wall of the cut was made: asking first would cost as much as cutting
    own, others = ([run for name, run in runs if name == each] for each in (ident, ident + 1))
    return _tables(mesh, ((own, one), (others, other)), one)


def _manifold(solid: Solid, ident: int, where: str) -> Any:
    count = solid.triangles.shape[0]
    mesh = manifold3d.Mesh(
        solid.values,
        np.ascontiguousarray(solid.triangles, np.uint32),
        run_index=np.array([0, 3 * count], np.uint32),
        run_original_id=np.array([ident], np.uint32),
        face_id=np.arange(count, dtype=np.uint32),
    )
    made = manifold3d.Manifold(mesh)
    if made.status() != manifold3d.Error.NoError:
        raise InvalidInput(f"{where}: the mesh is no closed surface ({made.status().name}); mend it first")
    return made


def _runs(mesh: Any) -> list[tuple[int, slice]]:
    # which triangles of a result came from which solid
    ends = np.asarray(mesh.run_index, np.int64) // 3
    return [(int(name), slice(int(ends[i]), int(ends[i + 1]))) for i, name in enumerate(mesh.run_original_id)]


def _tables(mesh: Any, parts: tuple[tuple[list[slice], Solid], ...], one: Solid) -> tuple[VertexTable, CornerTable]:
    values = np.asarray(mesh.vert_properties, np.float32)
    triangles = np.asarray(mesh.tri_verts, np.int32)
    # vertices of the cut come once from each side; they become one, as the first side has them
    stands_for = np.arange(values.shape[0])
    stands_for[np.asarray(mesh.merge_from_vert, np.int64)] = np.asarray(mesh.merge_to_vert, np.int64)
    for _ in range(8):
        stands_for = stands_for[stands_for]
    there = np.zeros(values.shape[0], np.bool_)
    there[stands_for[triangles]] = True
    used, number = np.flatnonzero(there), (np.cumsum(there) - 1)[stands_for[triangles]]
    table = VertexTable(used.size)
    table.set_column("position", values[used, :3])
    begin = 3
    for name, width in one.columns:
        table.set_column(name, np.ascontiguousarray(values[used, begin : begin + width]))
        begin += width
    known = _known(values[:, :3][triangles], np.asarray(mesh.face_id, np.int64), parts, one)
    return table, CornerTable.from_triangles(number.astype(np.int32), used.size, known)


def _known(
    corner: Points, face: NDArray[np.int64], parts: tuple[tuple[list[slice], Solid], ...], one: Solid
) -> SlotTable:
    # of triangles (M, 3, 3) that lie in triangles `face` of the solids they come from; a solid that has no such column
    # gives zeros
    slots = SlotTable(corner.shape[0])
    for domain, name, width in one.known.layout():
        slots.add(domain, name, width)
        for runs, solid in parts:
            if name not in solid.known or solid.known.width(name) != width or solid.known.domain(name) != domain:
                continue
            given = solid.known[name]
            for run in runs:
                if domain == "face":
                    slots[name][run] = given[face[run]]
                    continue
                share = within(corner[run].astype(np.float64), solid.values[:, :3][solid.triangles[face[run]]])
                if domain == "corner":
                    slots[name][run] = np.einsum("mij,mjw->miw", share, given[face[run]])
                    continue
                for side in range(
                    3
                ):  # an edge lies along an old one where both its ends have no share of the corner across
                    ends = np.abs(share[:, ((side + 1) % 3, (side + 2) % 3)]).max(axis=1)
                    along = ends < ALONG
                    old = ends.argmin(axis=1)
                    there = np.flatnonzero(along.any(axis=1))
                    slots[name][run][there, side] = given[face[run][there], old[there]]
    return slots


def within(points: NDArray[np.float64], triangle: NDArray[np.floating]) -> NDArray[np.float64]:
    """(M, K, 3) shares of the corners of (M, 3, 3) triangles in (M, K, 3) points in their planes."""
    a = triangle[:, 0].astype(np.float64)
    u, v = triangle[:, 1] - a, triangle[:, 2] - a
    way = points - a[:, None]
    uu, uv, vv = (np.einsum("ij,ij->i", p, q)[:, None] for p, q in ((u, u), (u, v), (v, v)))
    pu, pv = np.einsum("mkj,mj->mk", way, u), np.einsum("mkj,mj->mk", way, v)
    wide = uu * vv - uv * uv
    with np.errstate(divide="ignore", invalid="ignore"):
        second, third = (vv * pu - uv * pv) / wide, (uu * pv - uv * pu) / wide
    flat = np.isfinite(second) & np.isfinite(third)
    second, third = np.where(flat, second, 0.0), np.where(flat, third, 0.0)
    return np.stack((1 - second - third, second, third), axis=2)
