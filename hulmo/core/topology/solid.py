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
from hulmo.core.mesh.vertex_table import VertexTable

Points = NDArray[np.float32]
Triangles = NDArray[np.int32]

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
    region : (M,) uint16
    """

    columns: tuple[tuple[str, int], ...]
    values: Points
    triangles: Triangles
    region: NDArray[np.uint16]


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
    return Solid(columns, np.ascontiguousarray(values), body.corners.triangles[live], body.corners.region[live])


def like(
    columns: tuple[tuple[str, int], ...], position: Points, triangles: Triangles, given: dict[str, Points]
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
    return Solid(columns, values, triangles, np.zeros(triangles.shape[0], np.uint16))


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
    return _tables(mesh, [run for name, run in runs if name == ident], one)


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


def _tables(mesh: Any, own: list[slice], one: Solid) -> tuple[VertexTable, CornerTable]:
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
    corners = CornerTable.from_triangles(number.astype(np.int32), used.size)
    for part in own:
        corners.region[part] = one.region[np.asarray(mesh.face_id, np.int64)[part]]
    return table, corners
