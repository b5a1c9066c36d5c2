"""A whole delivery by a profile, put into a folder."""

import json
import os
import pathlib
import shutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from hulmo.core.deliver.kept import MANIFEST, Kept, file_mark
from hulmo.core.deliver.manifest import NOTHING, manifest
from hulmo.core.deliver.parts import files_of, named, palette_of
from hulmo.core.deliver.pieces import Piece, check_names, pieces_of, solids_of
from hulmo.core.deliver.profile import Profile
from hulmo.core.deliver.smaller_images import with_smaller_images
from hulmo.core.deliver.splat import splat_images
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.file_name import safe_name
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.io.safe_folder import HELD, folder_inside
from hulmo.core.io.safe_write import safe_write
from hulmo.core.io.usd_assembly import Assembled, assembly
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.setting import complete

USD = ("usdc", "usda", "usdz")


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

    Pieces of an earlier delivery that are made of the same, and whose files are as they were written, stay.

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
    kept = Kept(folder, project, profile)
    had = kept if profile.files == "many" else None  # one file holds all
    try:
        pieces = pieces_of(project, profile, progress.part(0.0, 0.7), had, lean=not more)
    finally:
        kept.leave()
    if [ground.name for ground in palette_of(project, pieces)] != kept.grounds and any(piece.kept for piece in pieces):
        kept.forget()  # all files have other columns now
        pieces = pieces_of(project, profile, progress.part(0.0, 0.7), had)
    check_names(pieces, profile)
    try:
        with folder_inside(folder) as inside:
            _take_over(pieces, folder, inside)
            splats, own = _write(project, profile, pieces, inside, progress)
            made = sorted(str(path.relative_to(inside)) for path in inside.rglob("*") if path.is_file())
            written = [name for name in made if name != HELD]
            files = [*written, *more]
            told = manifest(project, profile, pieces, files, splats, own)
            (inside / MANIFEST).write_bytes(_json(told))
            for name, make in more.items():
                (inside / name).write_bytes(make(Delivered(inside, [*written, MANIFEST], pieces)))
            progress.step(0.97, "putting it in place")
            old = _files_before(folder)
            strange = [name for name in files if name not in old and (folder / name).exists()]
            if strange:
                raise _in_the_way(folder / strange[0])
            with safe_write(folder / MANIFEST) as file:
                file.write(_json({**told, "files": sorted(old | set(files)), "unfinished": True}, None))
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


def _take_over(pieces: list[Piece], folder: pathlib.Path, inside: pathlib.Path) -> None:
    # files of what is kept, and images that they share with others
    names = {str(name) for piece in pieces if piece.kept is not None for name in piece.kept["files"]}
    for name in sorted(names):
        (inside / name).parent.mkdir(parents=True, exist_ok=True)
        try:
            os.link(folder / name, inside / name)  # the very file, which is not written again
        except OSError:  # some file systems know no second names
            shutil.copyfile(folder / name, inside / name)


def _write(
    project: Project, profile: Profile, pieces: list[Piece], inside: pathlib.Path, progress: Progress
) -> tuple[dict[str, Any], dict[str, dict[str, str]]]:
    # what is told of images of shares, by the body's name in the files; and the files of each piece with their marks
    exporter, ending = EXPORTERS[profile.format], profile.format
    values = complete(exporter.settings, profile.settings, profile.name)
    if profile.files == "many":
        values |= {name: value for name, value in (("props", "none"), ("images", "shared")) if name in values}
    tasks, splats = files_of(project, pieces, profile), dict[str, Any]()
    finest = {named(piece.name, profile) for piece in pieces}
    own: dict[str, set[str]] = {}
    for done, (stem, part, piece) in enumerate(tasks):
        progress.step(0.7 + 0.25 * done / len(tasks), f"writing {stem}.{ending}")
        exporter.write(part, inside / f"{stem}.{ending}", values, silent())
        names = {f"{stem}.{ending}", f"{stem}.bin", *_within(inside, f"{stem}.textures"), *_within(inside, "textures")}
        for body in part.bodies if profile.splat else ():
            if body.name in finest:
                images, splats[body.name] = splat_images(body, safe_name(body.name), len(part.grounds), profile.splat)
                for name, data in images.items():
                    (inside / name).unlink(missing_ok=True)  # nothing is written into a file that stays
                    (inside / name).write_bytes(data)
                names |= images.keys()
        if piece is not None:
            own.setdefault(piece.name, set()).update(name for name in names if (inside / name).is_file())
    if ending in USD and profile.files == "many":
        whole = assembly([_assembled(piece, profile) for piece in pieces], values)
        (inside / f"{safe_name(project.name)}.assembly.usda").write_bytes(whole)
    marks: dict[str, str] = {}
    for names in own.values():
        marks |= {name: file_mark(inside / name) for name in sorted(names - marks.keys())}
    files = {name: {each: marks[each] for each in sorted(names)} for name, names in own.items()}
    return splats, files | {piece.name: piece.kept["files"] for piece in pieces if piece.kept is not None}


def _within(inside: pathlib.Path, folder: str) -> list[str]:
    return [f"{folder}/{path.name}" for path in (inside / folder).iterdir()] if (inside / folder).is_dir() else []


def _assembled(piece: Piece, profile: Profile) -> Assembled:
    files = [f"{safe_name(level.name)}.{profile.format}" for level in piece.told]
    solid = [f"{safe_name(name)}.{profile.format}" for name in solids_of(piece)]
    return Assembled(piece.name, files, [level.away for level in piece.told], solid)


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


def _json(told: dict[str, Any], indent: int | None = 1) -> bytes:
    return json.dumps(told, ensure_ascii=False, indent=indent, allow_nan=False).encode()
