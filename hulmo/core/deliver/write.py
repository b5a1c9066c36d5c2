"""A whole delivery by a profile: bodies, patches, levels and collision bodies, and a manifest that tells of them."""

import json
import pathlib
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any

import msgspec
import numpy as np

import hulmo
from hulmo.core.deliver.convex import convex_parts
from hulmo.core.deliver.levels import KEPT, Level, levels_of, plain, reduced
from hulmo.core.deliver.limits import limited
from hulmo.core.deliver.patches import neighbours, patches_of
from hulmo.core.deliver.profile import Profile
from hulmo.core.deliver.skirt import skirted
from hulmo.core.deliver.smaller_images import with_smaller_images
from hulmo.core.deliver.splat import splat_images
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.weights import WEIGHT, weights_of
from hulmo.core.io.delivery import used_grounds
from hulmo.core.io.dress_note import dress_of
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.io.safe_folder import HELD, folder_inside
from hulmo.core.io.safe_write import safe_write
from hulmo.core.io.usd_assembly import Assembled, assembly
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import ONE_GROUND
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.setting import complete
from hulmo.core.topology.reduce import FEWEST

MANIFEST = "manifest.json"

USD = ("usdc", "usda", "usdz")


NOTHING: Mapping[str, Any] = MappingProxyType({})


@dataclass
class Piece:
    """One body or patch of a delivery, with its levels.

    Attributes
    ----------
    name : str
    of : str
        Body that it is of.
    cell : tuple of int or None
    levels : list of Level
    changed : float
        Share of its vertices whose grounds were brought within limits.
    collision : list of Body
        Plain meshes for what falls and walks on it, named as they are delivered.
    """

    name: str
    of: str
    cell: tuple[int, ...] | None
    levels: list[Level]
    changed: float = 0.0
    collision: list[Body] = field(default_factory=list)


@dataclass(frozen=True)
class Delivered:
    """What was written.

    Attributes
    ----------
    folder : Path
    files : list of str
        Names in the folder, the manifest last.
    pieces : list of Piece
    """

    folder: pathlib.Path
    files: list[str]
    pieces: list[Piece]


def deliver_to(
    project: Project, profile: Profile, folder: pathlib.Path, progress: Progress,
    more: Mapping[str, Callable[[Delivered], bytes]] = NOTHING,
) -> Delivered:  # fmt: skip
    """Write a project into a folder as a profile says.

    Everything is written in a folder of its own first and then put in place. Files of an older delivery that this one does
    not have are taken away; others are left alone, and are in the way where they have the name of one of this. All along
    the manifest names every file that is a delivery's, so that one that was killed is gone on with by the next.

    Parameters
    ----------
    more : mapping
        Further files by name, made of what has been written by then.

    Raises
    ------
    InvalidInput, FileProblem
        The folder is as it was.
    """
    if not folder.is_dir():
        raise FileProblem(f"{folder}: there is no such folder; make it first")
    project = with_smaller_images(project, profile.texture)
    pieces = pieces_of(project, profile, progress.part(0.0, 0.7))
    _check_names(pieces, profile)
    try:
        with folder_inside(folder) as inside:
            splats = _write(project, profile, pieces, inside, progress)
            made = sorted(str(path.relative_to(inside)) for path in inside.rglob("*") if path.is_file())
            written = [name for name in made if name != HELD]
            files = [*written, *more]
            told = manifest(project, profile, pieces, files, splats)
            (inside / MANIFEST).write_bytes(_json(told))
            for name, make in more.items():
                (inside / name).write_bytes(make(Delivered(inside, [*written, MANIFEST], pieces)))
            progress.step(0.97, "putting it in place")
            old = _files_before(folder)
            strange = [name for name in files if name not in old and (folder / name).exists()]
            if strange:
                raise _in_the_way(folder / strange[0])
            with safe_write(folder / MANIFEST) as file:
                file.write(_json({**told, "files": sorted(old | set(files)), "unfinished": True}))
            for name in [*files, MANIFEST]:
                (folder / name).parent.mkdir(parents=True, exist_ok=True)
                (inside / name).replace(folder / name)
            for name in sorted(old - set(files)):
                (folder / name).unlink(missing_ok=True)
    except OSError as error:
        reason = error.strerror or error
        raise FileProblem(f"{folder}: not delivered ({reason}); make room, or choose another folder") from error
    progress.step(1.0, "delivered")
    return Delivered(folder, [*files, MANIFEST], pieces)


def _write(
    project: Project, profile: Profile, pieces: list[Piece], inside: pathlib.Path, progress: Progress
) -> dict[str, Any]:
    # what is told of images of shares, by the body's name in the files
    exporter, ending = EXPORTERS[profile.format], profile.format
    values = complete(exporter.settings, profile.settings, profile.name)
    if profile.files == "many":
        values |= {name: value for name, value in (("props", "none"), ("images", "shared")) if name in values}
    tasks, splats = _files_of(project, pieces, profile), dict[str, Any]()
    finest = {_named(piece.name, profile) for piece in pieces}
    for done, (stem, part) in enumerate(tasks):
        progress.step(0.7 + 0.25 * done / len(tasks), f"writing {stem}.{ending}")
        exporter.write(part, inside / f"{stem}.{ending}", values, silent())
        for body in part.bodies if profile.splat else ():
            if body.name in finest:
                images, splats[body.name] = splat_images(body, safe_name(body.name), len(part.grounds), profile.splat)
                for name, data in images.items():
                    (inside / name).write_bytes(data)
    if ending in USD and profile.files == "many":
        whole = assembly([_assembled(piece, profile) for piece in pieces], values)
        (inside / f"{safe_name(project.name)}.assembly.usda").write_bytes(whole)
    return splats


def _assembled(piece: Piece, profile: Profile) -> Assembled:
    files = [f"{safe_name(level_name(piece.name, number))}.{profile.format}" for number in range(len(piece.levels))]
    solid = [f"{safe_name(part.name)}.{profile.format}" for part in piece.collision]
    return Assembled(piece.name, files, [_distance(level, profile) for level in piece.levels], solid)


def _distance(level: Level, profile: Profile) -> float:
    return _round_up(level.switch(round(profile.picture), profile.field, profile.pixels))


def pieces_of(project: Project, profile: Profile, progress: Progress) -> list[Piece]:
    """Bodies that are shown, as they are delivered: cut into patches, brought within limits, with their levels.

    Raises
    ------
    InvalidInput
        Nothing is shown, or too many patches.
    """
    bodies = [body for body in project.bodies if body.shown]
    if not bodies:
        raise InvalidInput("nothing is shown, so there is nothing to deliver; show a body first")
    out: list[Piece] = []
    for number, body in enumerate(bodies):
        weights_of(body, len(project.grounds))
        share = progress.part(number / len(bodies), (number + 1) / len(bodies))
        parts: list[tuple[str, tuple[int, ...] | None, Body]] = [(body.name, None, plain(body))]
        if profile.patch:
            patches = patches_of(body, profile.patch, profile.volume, share.part(0.0, 0.2))
            parts = [(patch.name, patch.cell, patch.body) for patch in patches]
        for done, (name, cell, part) in enumerate(parts):
            changed = limited(part, profile.most_at_vertex, profile.most_grounds)
            part.name = name
            step = share.part(0.2 + 0.8 * done / len(parts), 0.2 + 0.8 * (done + 1) / len(parts))
            levels = levels_of(part, profile.levels, bool(profile.patch) or body.border_lock, step)
            for level in levels[1:]:
                limited(level.body, profile.most_at_vertex, profile.most_grounds)
            if profile.skirt:
                levels = [Level(skirted(level.body, profile.skirt), level.error) for level in levels]
            out.append(Piece(name, body.name, cell, levels, changed, _collision(part, profile, step)))
    return out


def manifest(
    project: Project, profile: Profile, pieces: list[Piece], files: list[str], splats: Mapping[str, Any] = NOTHING
) -> dict[str, Any]:
    """What a receiver needs to know of a delivery, as plain values; `splats` is what is told of images of shares."""
    cells: dict[str, list[tuple[int, ...]]] = {piece.of: [] for piece in pieces}
    for piece in pieces:
        if piece.cell is not None:
            cells[piece.of].append(piece.cell)
    near = {of: neighbours(known) for of, known in cells.items()}
    named = {(piece.of, piece.cell): piece.name for piece in pieces}
    return {
        "written_by": f"Hulmo {hulmo.__version__}",
        "project": project.name,
        "profile": msgspec.to_builtins(profile),
        "units": "metres, +Y up, right-handed; distances for the lens and picture of the profile",
        "grounds": [ground.name for ground in _palette(project, pieces)],
        **({"dress": dress_of(project, silent())} if profile.files == "many" else {}),
        "files": files,
        "pieces": [
            {
                "name": piece.name,
                "body": piece.of,
                **({"cell": list(piece.cell)} if piece.cell is not None else {}),
                "bounds": _bounds(piece.levels[0].body),
                "neighbours": [named[piece.of, cell] for cell in near[piece.of].get(piece.cell, [])]
                if piece.cell
                else [],
                "grounds_changed": round(piece.changed, 6),
                **({"shares": splats[own]} if (own := _named(piece.name, profile)) in splats else {}),
                "levels": [
                    {
                        "level": number,
                        "name": level_name(piece.name, number),
                        "triangles": level.body.corners.live_count,
                        "vertices": level.body.vertices.live_count,
                        "error": _round_up(level.error),
                        "from": _distance(level, profile),
                    }
                    for number, level in enumerate(piece.levels)
                ],
                "collision": [{"name": part.name, "triangles": part.corners.live_count} for part in piece.collision],
            }
            for piece in pieces
        ],
    }


def _named(name: str, profile: Profile) -> str:
    # as files have it
    return safe_name(name) if profile.names == "plain" else name


def level_name(name: str, number: int) -> str:
    """Name of a level; that of the finest is the body's own."""
    return name if number == 0 else f"{name}.level{number}"


def safe_name(name: str) -> str:
    """A name that every file system and reader takes."""
    return re.sub(r"[^A-Za-z0-9_.-]", "_", name).strip(".") or "body"


def _files_of(project: Project, pieces: list[Piece], profile: Profile) -> list[tuple[str, Project]]:
    # stems of files, and the project that each of them is written from
    every: list[tuple[str, Body, Body | None]] = []
    for piece in pieces:
        source = project.body_named(piece.of, "deliver") if piece.cell is None else None
        for number, level in enumerate(piece.levels):
            every.append((level_name(piece.name, number), level.body, source if number == 0 else None))
    if profile.files == "one":
        return [(safe_name(project.name), _project(project, pieces, every, profile, True))]
    out = [(safe_name(entry[0]), _project(project, pieces, [entry], profile, False)) for entry in every]
    solid = [part for piece in pieces for part in piece.collision]
    return out + [(safe_name(part.name), _bare(part, profile)) for part in solid]


def _bare(body: Body, profile: Profile) -> Project:
    # a mesh alone: what is never seen needs no grounds
    out = Project(body.name)
    out.grounds = (Ground("Collision", "", 1.0, colour="#808080"),)
    vertices = body.vertices.copy()
    vertices.set_column(WEIGHT, np.ones((vertices.count, 1), np.float32))
    copy = Body(_named(body.name, profile), vertices, body.corners, body.ident)
    copy.origin, copy.down = body.origin, body.down
    out.bodies = (copy,)
    return out


def finest_of(project: Project, pieces: list[Piece], profile: Profile) -> Project:
    """What is delivered at the finest level, as a project of its own."""
    return _project(project, pieces, [(piece.name, piece.levels[0].body, None) for piece in pieces], profile, False)


def _project(
    project: Project, pieces: list[Piece], bodies: list[tuple[str, Body, Body | None]], profile: Profile, dressed: bool
) -> Project:
    # all files have the same grounds in the same columns, so that one material does for all of them
    palette = _palette(project, pieces)
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
        copy = Body(_named(name, profile), vertices, _with_columns(corners, columns), ident)
        copy.origin, copy.down = body.origin, body.down
        if dressed and source is not None:
            limited(copy, profile.most_at_vertex, profile.most_grounds)
            copy.strewn = source.strewn
        made.append(copy)
    out.bodies = tuple(made)
    if dressed:
        out.objects = project.objects
    return out


def _palette(project: Project, pieces: list[Piece]) -> tuple[Ground, ...]:
    used = used_grounds([level.body for piece in pieces for level in piece.levels], len(project.grounds))
    return tuple(project.grounds[column] for column in used)


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


def _collision(body: Body, profile: Profile, progress: Progress) -> list[Body]:
    if not profile.collision:
        return []
    out = plain(body)
    if out.corners.live_count > max(profile.collision, FEWEST):
        out = reduced(out, max(profile.collision, FEWEST), False, progress) or out
    if profile.convex:
        return convex_parts(out, profile.convex)
    out.name = f"{body.name}.collision"
    return [out]


def _check_names(pieces: list[Piece], profile: Profile) -> None:
    taken: dict[str, str] = {}
    for piece in pieces:
        names = [level_name(piece.name, number) for number in range(len(piece.levels))]
        for name in (*names, *(part.name for part in piece.collision)):
            word = safe_name(name).lower()
            if word in taken and profile.files == "many":
                raise InvalidInput(
                    f"{name!r} and {taken[word]!r} would be files of one name; rename one of them, or deliver into one file"
                )
            taken[word] = name


def _files_before(folder: pathlib.Path) -> set[str]:
    # of the delivery that lies there
    path = folder / MANIFEST
    try:
        told = json.loads(path.read_bytes())
        if not str(told["written_by"]).startswith("Hulmo"):
            raise _in_the_way(path)
        names = [str(name) for name in told["files"]]
    except FileNotFoundError:
        return set()
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise _in_the_way(path) from error
    return {name for name in names if not name.startswith("/") and ".." not in pathlib.PurePosixPath(name).parts}


def _in_the_way(path: pathlib.Path) -> InvalidInput:
    return InvalidInput(f"{path}: is in the way and not of an earlier delivery; move it, or deliver elsewhere")


def _json(told: dict[str, Any]) -> bytes:
    return json.dumps(told, ensure_ascii=False, indent=1, allow_nan=False).encode()


def _bounds(body: Body) -> list[list[float]]:
    rows = np.unique(body.corners.live_triangles())
    place = body.placed(body.vertices["position"][rows].astype(np.float64))
    return [place.min(axis=0).round(6).tolist(), place.max(axis=0).round(6).tolist()]


def _round_up(value: float) -> float:
    return float(np.ceil(value * 1e6) / 1e6)
