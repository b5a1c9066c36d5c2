"""Props and their meshes as tables of a project file."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.io.archive import Archive, table_names
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import LAYOUT, MOST_STREWN, Strewn, compacted
from hulmo.core.props.prop import MOST_PROPS, MOST_TRIANGLES, PropMesh

Array = NDArray[Any]

PROPS = "props "
"""How names of the tables of props on a body begin."""


def props_written(body: Body) -> dict[str, Array]:
    """Tables of the props of a body; slots are counted without freed ones, as triangles are written."""
    strewn = body.strewn
    assert isinstance(strewn, Strewn)
    written = compacted(strewn, body.corners)
    return {f"{PROPS}{name}": getattr(written, name) for name in LAYOUT}


def read_props(archive: Archive, ident: int, count: int, where: str) -> Strewn | None:
    """The props of a body.

    Raises
    ------
    FileProblem
    """
    if not 0 <= count <= MOST_STREWN:
        raise FileProblem(f"{archive.path}: {where} says that {count:,} props stand on it; damaged")
    if not count:
        return None
    columns = {}
    for name, (kind, width) in LAYOUT.items():
        shape = (count,) if width == 1 else (count, width)
        columns[name] = archive.array(table_names(ident, f"{PROPS}{name}"), kind, shape)
    return Strewn(**columns)


def meshes_written(meshes: Mapping[str, PropMesh]) -> dict[str, Array]:
    """Tables of the meshes of props, in their order."""
    out: dict[str, Array] = {}
    for number, mesh in enumerate(meshes.values()):
        for part in ("position", "normal", "colour", "triangles"):
            out[f"props/{number}/{part}.npy"] = getattr(mesh, part)
    return out


def read_meshes(archive: Archive, counts: Mapping[str, tuple[int, int]]) -> Mapping[str, PropMesh]:
    """Meshes of props.

    Raises
    ------
    FileProblem
    """
    if len(counts) > MOST_PROPS:
        raise FileProblem(f"{archive.path}: holds {len(counts)} meshes of props; {MOST_PROPS} are the most; damaged")
    out = {}
    for number, (name, (vertices, triangles)) in enumerate(counts.items()):
        if not (0 < vertices <= 3 * MOST_TRIANGLES and 0 < triangles <= MOST_TRIANGLES):
            raise FileProblem(f"{archive.path}: the mesh of prop {name!r} has counts that cannot be; damaged")
        points = [
            archive.array((f"props/{number}/{part}.npy",), np.float32, (vertices, 3))
            for part in ("position", "normal", "colour")
        ]
        faces = archive.array((f"props/{number}/triangles.npy",), np.int32, (triangles, 3))
        out[name] = PropMesh(points[0], points[1], points[2], faces)
    return MappingProxyType(out)
