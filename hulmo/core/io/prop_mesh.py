"""Meshes of props made of files and of bodies."""

import pathlib

import numpy as np

from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.weights import WEIGHT, weights_of
from hulmo.core.io.delivery import mean_colours
from hulmo.core.io.importer import read_file
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.prop import PropMesh, check_mesh, coloured_mesh

PLAIN = (0.35, 0.33, 0.30)
"""Linear colour of what has none."""


def mesh_from_file(path: pathlib.Path, scale: float, progress: Progress) -> PropMesh:
    """The mesh of a file, on its lowest point in its middle, in the colours of its materials and vertices.

    Raises
    ------
    FileProblem
    """
    read = read_file(path, progress, painted=True)
    position, triangles, colour, count = [], [], [], 0
    for part in read.parts:
        places = part.position * scale
        faces = part.triangles
        whole = (faces >= 0).all(axis=1) & (faces < len(places)).all(axis=1) if faces.size else np.zeros(0, np.bool_)
        position.append(places)
        triangles.append(faces[whole] + count)
        paint = part.paint if part.paint is not None else None if part.colour is None else part.colour[:, :3]
        colour.append(np.full((len(places), 3), PLAIN) if paint is None else paint)
        count += len(places)
    if not count or not sum(len(part) for part in triangles):
        raise FileProblem(f"{path}: holds no triangles")
    places, faces, paint = (np.concatenate(parts) for parts in (position, triangles, colour))
    used = np.unique(faces)
    if not np.isfinite(places[used]).all():
        raise FileProblem(f"{path}: some of its vertices lie nowhere; their numbers are not finite")
    number_ = np.zeros(count, np.int64)
    number_[used] = np.arange(used.size)
    paint = np.clip(np.nan_to_num(paint[used].astype(np.float64)), 0.0, 1.0)
    return _stood(places[used], number_[faces], paint, str(path))


def mesh_from_body(body: Body, project: Project) -> PropMesh:
    """The mesh of a body, on its lowest point in its middle, in the mean colours of its grounds.

    Raises
    ------
    InvalidInput
    """
    weights_of(body, len(project.grounds))
    vertices, corners = compact(body.vertices, body.corners)
    colour = vertices[WEIGHT] @ mean_colours(project.grounds, project.textures)
    if TINT in vertices:
        colour = colour * (1.0 - vertices[TINT][:, 3:]) + vertices[TINT][:, :3] * colour
    return _stood(
        vertices["position"].astype(np.float64), corners.triangles, np.clip(colour, 0, 1), f"body {body.name!r}"
    )


def _stood(position, triangles, colour, where: str) -> PropMesh:  # type: ignore[no-untyped-def]
    low, high = low_high(position)
    if not np.abs(position).max() < 1e9:
        raise InvalidInput(f"{where}: reaches too far; choose a smaller scale")
    middle = (low + high) / 2
    middle[1] = low[1]
    made = coloured_mesh((position - middle).astype(np.float32), triangles.astype(np.int32), colour.astype(np.float32))
    check_mesh(made, where)
    return made
