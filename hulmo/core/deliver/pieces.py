"""Bodies as they are delivered: cut into patches, brought within limits, with levels, skirts and collision bodies."""

from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.deliver.cell_sources import cell_sources
from hulmo.core.deliver.convex import convex_parts
from hulmo.core.deliver.kept import Kept
from hulmo.core.deliver.levels import Level, allowed, levels_of, plain, reduced
from hulmo.core.deliver.limits import limited
from hulmo.core.deliver.patches import (
    Patch,
    cell_name,
    grid_division,
    outlines_of,
    rim_of,
    side_for,
    six_sides_of,
    taken_apart,
    ways_of,
)
from hulmo.core.deliver.profile import Profile
from hulmo.core.deliver.skirt import skirted
from hulmo.core.errors import InvalidInput
from hulmo.core.file_name import safe_name
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.topology.reduce import FEWEST
from hulmo.core.topology.two_sided import two_sided
from hulmo.core.workers import side_by_side

NO_RIM = np.empty((0, 3), np.float32)


@dataclass(frozen=True)
class Told:
    """What is told of a level.

    Attributes
    ----------
    name : str
    triangles, vertices : int
    error, away : float
        Metres off the full body at the most, and from which on it does; to whole millionths, up.
    """

    name: str
    triangles: int
    vertices: int
    error: float
    away: float


@dataclass
class Piece:
    """One body or patch of a delivery, with its levels.

    Attributes
    ----------
    name : str
    of : str
        Body that it is of.
    cell : tuple of int or None
        Of a grid.
    levels : list of Level
    changed : float
        Share of its vertices whose grounds were brought within limits.
    collision : list of Body
        Plain meshes for what falls and walks on it, named as they are delivered.
    rim : (K, 3) float32
        Places on its border, where it is a patch; see `rim_of`.
    whole : bool
        Whether it is a body as it is, and no patch.
    told : list of Told
        Of all levels.
    mark, source : str
        Of what it is made of, and of what that is cut from in a grid; see `Kept`.
    kept : dict or None
        What the delivery that was there tells of it, where its files stay: then only the finest level is made, or none where
        the body was not divided there.
    beside : list of str or None
        Neighbours that it was told to have, where it was not divided: `rim` is known only beside others that were.
    """

    name: str
    of: str
    cell: tuple[int, ...] | None
    levels: list[Level]
    changed: float = 0.0
    collision: list[Body] = field(default_factory=list)
    rim: NDArray[np.float32] = field(default_factory=lambda: NO_RIM)
    whole: bool = True
    told: list[Told] = field(default_factory=list)
    mark: str = ""
    source: str = ""
    kept: dict[str, Any] | None = None
    beside: list[str] | None = None


def pieces_of(
    project: Project, profile: Profile, progress: Progress, kept: Kept | None = None, lean: bool = False
) -> list[Piece]:
    """Bodies that are shown, as they are delivered: cut into patches, brought within limits, with their levels.

    Parameters
    ----------
    kept : Kept, optional
        A delivery that is there already; what is made of the same is not made again.
    lean : bool
        Whether nobody asks for bodies of what is not made again.

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
        parts, standing, sources = _parts(project, body, profile, share.part(0.0, 0.2), kept, lean)
        if len(parts) == 1 and not standing:
            made = [_piece(parts[0], body, profile, share.part(0.2, 1.0), kept)]
        else:
            make = partial(_piece, body=body, profile=profile, progress=silent(), kept=kept)
            told = partial(_told, share.part(0.2, 1.0), len(parts))
            made = side_by_side(make, parts, told=told)  # each by itself, in the order of their places
        for piece in made:
            piece.source = sources.get(piece.name, "")
        out += sorted(standing + made, key=lambda piece: piece.cell or ()) if standing else made
    return out


def _told(progress: Progress, whole: int, done: int) -> None:
    progress.step(done / whole, f"made {done} of {whole} patches")


def _piece(patch: Patch, body: Body, profile: Profile, progress: Progress, kept: Kept | None) -> Piece:
    part = patch.body
    rim = rim_of(part) if profile.cuts else NO_RIM
    changed = limited(part, profile.most_at_vertex, profile.most_grounds)
    part.name = patch.name
    mark = "" if kept is None else kept.mark(part, _counted(body, profile), patch.before)
    found = None if kept is None else kept.find(patch.name, mark)
    if found is not None:
        levels = [Level(skirted(part, profile.skirt) if profile.skirt else part, 0.0)]
        told = _levels_told(found)
        return Piece(
            patch.name, body.name, patch.cell, levels, changed, [], rim, not profile.cuts, told, mark, kept=found
        )
    levels = _levels(part, body, profile, progress, 0.0 if patch.before is None else two_sided(patch.before, part))
    for level in levels[1:]:
        limited(level.body, profile.most_at_vertex, profile.most_grounds)
    if profile.skirt:
        levels = [Level(skirted(level.body, profile.skirt), level.error) for level in levels]
    solid = _collision(part, profile, progress)
    told = [
        Told(
            level_name(patch.name, number), level.body.corners.live_count, level.body.vertices.live_count,
            round_up(level.error), distance_of(level, profile) if number else 0.0,
        )
        for number, level in enumerate(levels)
    ]  # fmt: skip
    return Piece(patch.name, body.name, patch.cell, levels, changed, solid, rim, not profile.cuts, told, mark)


def _counted(body: Body, profile: Profile) -> int:
    return body.corners.live_count if profile.levels_by == "triangles" else 0


def _parts(
    project: Project, body: Body, profile: Profile, progress: Progress, kept: Kept | None, lean: bool
) -> tuple[list[Patch], list[Piece], dict[str, str]]:
    # patches to be made; pieces that stay as they are; and marks of what patches are cut from, by name
    if not profile.cuts:
        return [Patch(body.name, plain(body))], [], {}
    if profile.six_sides or profile.along_outlines:
        division = six_sides_of(body, progress) if profile.six_sides else outlines_of(body, project.objects)
        return taken_apart(division, profile.borders, not body.border_lock, progress.part(0.6, 1.0)), [], {}
    side = profile.patch or side_for(body, profile.patch_triangles, profile.volume)
    whole = plain(body)
    sources = None if kept is None or profile.borders > 0 else cell_sources(whole, side, ways_of(profile.volume))
    marks: dict[str, str] = {}
    if kept is not None and sources is not None:
        names = [f"{body.name}.{cell_name(cell)}" for cell in sources.cells]
        whole.border_lock = body.border_lock
        counted = _counted(body, profile)
        marks = {name: kept.source(name, whole, counted, mark) for name, mark in zip(names, sources.marks, strict=True)}
        found = {name: kept.find(name, mark, "source") for name, mark in marks.items()} if lean else {}
        stays = {name for name, told in found.items() if told is not None}
        slots = sources.of(whole.corners, [i for i, name in enumerate(names) if name not in stays]) if stays else None
        if slots is not None:
            patches = []
            if slots.size:
                division = grid_division(whole, side, profile.volume, progress, slots)
                patches = taken_apart(division, 0.0, True, progress.part(0.6, 1.0))
            rims = {patch.name: rim_of(patch.body) for patch in patches if patch.name in stays}
            standing = [
                _standing(name, body, cell, found[name], marks[name], rims.get(name, NO_RIM))
                for name, cell in zip(names, sources.cells, strict=True)
                if name in stays
            ]
            return [patch for patch in patches if patch.name not in stays], standing, marks
    division = grid_division(whole, side, profile.volume, progress)
    return taken_apart(division, profile.borders, not body.border_lock, progress.part(0.6, 1.0)), [], marks


def _standing(
    name: str, body: Body, cell: tuple[int, ...], told: dict[str, Any] | None, source: str, rim: NDArray[np.float32]
) -> Piece:
    # a piece whose files stay, and of which no more is known than what was told
    assert told is not None
    changed, levels, mark = float(told["grounds_changed"]), _levels_told(told), str(told["mark"])
    beside = [str(other) for other in told["neighbours"]]
    return Piece(name, body.name, cell, [], changed, [], rim, False, levels, mark, source, told, beside)


def _levels_told(told: dict[str, Any]) -> list[Told]:
    return [
        Told(str(e["name"]), int(e["triangles"]), int(e["vertices"]), float(e["error"]), float(e["from"]))
        for e in told["levels"]
    ]


def _levels(part: Body, body: Body, profile: Profile, progress: Progress, off: float) -> list[Level]:
    # of a body or a patch of it, which lies so many metres off already
    levels = _reduced(part, body, profile, progress, off)
    return [Level(level.body, level.error + off) for level in levels] if off else levels


def _reduced(part: Body, body: Body, profile: Profile, progress: Progress, off: float) -> list[Level]:
    borders = profile.cuts or body.border_lock
    if profile.levels_by == "distance":
        lens = round(profile.picture), profile.field, profile.pixels
        errors = tuple(allowed(distance, *lens) - off for distance in profile.levels)
        errors = tuple(error for error in errors if error > 0)
        return levels_of(part, (), borders, progress, errors)
    whole = body.corners.live_count if profile.levels_by == "triangles" else 1.0
    return levels_of(part, tuple(v / whole for v in profile.levels if v < whole), borders, progress)


def distance_of(level: Level, profile: Profile) -> float:
    """Metres from which on a level does."""
    return round_up(level.switch(round(profile.picture), profile.field, profile.pixels))


def round_up(value: float) -> float:
    """To whole millionths."""
    return float(np.ceil(value * 1e6) / 1e6)


def level_name(name: str, number: int) -> str:
    """Name of a level; that of the finest is the body's own."""
    return name if number == 0 else f"{name}.level{number}"


def check_names(pieces: list[Piece], profile: Profile) -> None:
    """Raises InvalidInput where two files would have one name."""
    taken: dict[str, str] = {}
    for piece in pieces:
        for name in (*(level.name for level in piece.told), *solids_of(piece)):
            word = safe_name(name).lower()
            if word in taken and profile.files == "many":
                raise InvalidInput(
                    f"{name!r} and {taken[word]!r} would be files of one name; rename one of them, or deliver into one file"
                )
            taken[word] = name


def solids_of(piece: Piece) -> list[str]:
    """Names of the collision bodies of a piece."""
    if piece.kept is not None:
        return [str(part["name"]) for part in piece.kept.get("collision", [])]
    return [part.name for part in piece.collision]


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
