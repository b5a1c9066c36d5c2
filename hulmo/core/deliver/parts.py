"""The projects that the files of a delivery are written from."""

import numpy as np

from hulmo.core.deliver.levels import KEPT
from hulmo.core.deliver.limits import limited
from hulmo.core.deliver.pieces import Piece, distance_of, level_name
from hulmo.core.deliver.profile import Profile
from hulmo.core.file_name import safe_name
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.io.delivery import used_grounds
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import ONE_GROUND
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.project import Project


def files_of(project: Project, pieces: list[Piece], profile: Profile) -> list[tuple[str, Project, Piece | None]]:
    """Stems of files, the project that each of them is written from, and the piece that it is of; of what is kept, none."""
    every: list[tuple[str, Body, Body | None]] = []
    of: list[Piece] = []
    for piece in pieces:
        source = project.body_named(piece.of, "deliver") if piece.whole else None
        for number, level in enumerate(piece.levels if piece.kept is None else ()):
            every.append((level_name(piece.name, number), level.body, source if number == 0 else None))
            of.append(piece)
    palette = palette_of(project, pieces)
    if profile.files == "one":
        whole = _project(project, palette, every, profile, True)
        levels = [(number, level) for piece in pieces for number, level in enumerate(piece.levels)]
        coarser, finest = {}, 0
        for body, (number, level) in zip(whole.bodies, levels, strict=True):
            finest = finest if number else body.ident
            if number:
                coarser[body.ident] = finest, distance_of(level, profile)
        whole.coarser = coarser
        return [(safe_name(project.name), whole, None)]
    out: list[tuple[str, Project, Piece | None]] = [
        (safe_name(entry[0]), _project(project, palette, [entry], profile, False), piece)
        for entry, piece in zip(every, of, strict=True)
    ]
    solid = [(part, piece) for piece in pieces for part in piece.collision]
    return out + [(safe_name(part.name), _bare(part, profile), piece) for part, piece in solid]


def finest_of(project: Project, pieces: list[Piece], profile: Profile) -> Project:
    """What is delivered at the finest level, as a project of its own."""
    finest: list[tuple[str, Body, Body | None]] = [(piece.name, piece.levels[0].body, None) for piece in pieces]
    return _project(project, palette_of(project, pieces), finest, profile, False)


def palette_of(project: Project, pieces: list[Piece]) -> tuple[Ground, ...]:
    """Grounds that lie anywhere on what is delivered: all files have them in the same columns."""
    there = {name for piece in pieces if piece.kept is not None for name in piece.kept["grounds"]}
    bodies = [level.body for piece in pieces if piece.levels for level in piece.levels]
    if bodies:
        there |= {project.grounds[column].name for column in used_grounds(bodies, len(project.grounds))}
    return tuple(ground for ground in project.grounds if ground.name in there)


def grounds_on(project: Project, piece: Piece) -> list[str]:
    """Names of the grounds that lie on a piece, those of what was kept as they were told."""
    if piece.kept is not None:
        return list(piece.kept["grounds"])
    return [ground.name for ground in palette_of(project, [piece])]


def named(name: str, profile: Profile) -> str:
    """The name of a body as files have it."""
    return safe_name(name) if profile.names == "plain" else name


def _project(
    project: Project, palette: tuple[Ground, ...], bodies: list[tuple[str, Body, Body | None]], profile: Profile,
    dressed: bool,
) -> Project:  # fmt: skip
    # all files have the same grounds in the same columns, so that one material does for all of them
    columns = [project.grounds.index(ground) for ground in palette]
    out = Project(project.name)
    out.grounds, out.blend, out.light, out.sky = palette, project.blend, project.light, project.sky
    out.textures, out.props, out.prop_meshes = project.textures, project.props, project.prop_meshes
    out.delivers_all = True
    made = []
    first = 1 + max(body.ident for body in project.bodies)
    for number, (name, body, source) in enumerate(bodies):
        vertices, corners, ident = body.vertices.copy(), body.corners, first + number
        if dressed and source is not None:  # with the slots that its props stand on
            vertices, corners, ident = source.vertices.copy(), source.corners, source.ident
            for column in [column for column in vertices.names if column not in KEPT]:
                vertices.drop_column(column)
        vertices.set_column(WEIGHT, np.ascontiguousarray(vertices[WEIGHT][:, columns]))
        copy = Body(named(name, profile), vertices, _with_columns(corners, columns), ident)
        copy.origin, copy.down = body.origin, body.down
        if dressed and source is not None:
            limited(copy, profile.most_at_vertex, profile.most_grounds)
            copy.strewn = source.strewn
        made.append(copy)
    out.bodies = tuple(made)
    if dressed:
        out.objects = project.objects
    return out


def _bare(body: Body, profile: Profile) -> Project:
    # a mesh alone: what is never seen needs no grounds
    out = Project(body.name)
    out.grounds = (Ground("Collision", "", 1.0, colour="#808080"),)
    vertices = body.vertices.copy()
    vertices.set_column(WEIGHT, np.ones((vertices.count, 1), np.float32))
    copy = Body(named(body.name, profile), vertices, body.corners, body.ident)
    copy.origin, copy.down = body.origin, body.down
    out.bodies = (copy,)
    return out


def _with_columns(corners: CornerTable, columns: list[int]) -> CornerTable:
    # faces on which one ground alone lies name it by its column
    one = corners.slots.get(ONE_GROUND)
    if one is None or columns == list(range(len(columns))):
        return corners
    number = np.zeros(max(columns) + 2, np.float32)
    number[np.array(columns) + 1] = np.arange(1, len(columns) + 1)
    out = corners.copy()
    out.slots.set("face", ONE_GROUND, number[one.astype(np.int64)])
    return out
