"""What of an earlier delivery can stay: pieces made of the very same, whose files are there as they were written."""

import hashlib
import json
import pathlib
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import msgspec
import numpy as np

import hulmo
from hulmo.core.deliver.profile import Profile
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project
from hulmo.core.workers import WORKERS

MANIFEST = "manifest.json"


class _ToldLevel(msgspec.Struct):
    level: int
    name: str
    triangles: int
    vertices: int
    error: float
    away: float = msgspec.field(name="from")


class _ToldSolid(msgspec.Struct):
    name: str
    triangles: int


class _ToldPiece(msgspec.Struct):
    # what is read again of a piece, as `manifest` tells it
    name: str
    bounds: list[list[float]]
    neighbours: list[str]
    grounds: list[str]
    grounds_changed: float
    levels: list[_ToldLevel]
    collision: list[_ToldSolid]
    mark: str
    seal: str
    files: dict[str, str]


class Kept:
    """The pieces of the delivery that lies in a folder.

    Parameters
    ----------
    folder : Path
    project : Project
        What is delivered now.
    profile : Profile
    """

    def __init__(self, folder: pathlib.Path, project: Project, profile: Profile) -> None:
        self._common = _common(project, profile)
        self._told = _told(folder) if profile.files == "many" else {}
        pieces = self._told.get("pieces", [])
        known = [piece for piece in pieces if _is_told(piece)]
        self._pieces = {str(piece.get("name")): piece for piece in known}
        files = {file for piece in known if piece.get("seal") == seal_of(piece) for file in piece["files"]}
        self._reader = ThreadPoolExecutor(WORKERS)  # files are read while bodies are looked through
        self._marks = {file: self._reader.submit(file_mark, folder / file) for file in sorted(files)}

    @property
    def grounds(self) -> list[Any]:
        """Names of the grounds that its files have, in order."""
        found = self._told.get("grounds")
        return found if isinstance(found, list) else []

    def leave(self) -> None:
        """Read no more files."""
        self._reader.shutdown(wait=False, cancel_futures=True)

    def forget(self) -> None:
        """Find nothing from now on."""
        self._pieces = {}

    def mark(self, body: Body, whole: int, before: Body | None = None) -> str:
        """Changes where anything does that the files of a piece are made of.

        Parameters
        ----------
        body : Body
            The piece, brought within limits.
        whole : int
            Triangles of the body that it is of, where levels are counts of them; otherwise 0.
        before : Body, optional
            As it was with all of its borders: errors are told from it.
        """
        out = hashlib.sha256(self._common + str(whole).encode())
        for part in (body,) if before is None else (body, before):
            out.update(_told_of(part, part.name))
            for name in sorted(part.vertices.names):
                out.update(name.encode())
                out.update(np.ascontiguousarray(part.vertices[name]).data)
            out.update(part.corners.vertex.data)
            for name in sorted(part.corners.slots.names()):
                out.update(name.encode())
                out.update(np.ascontiguousarray(part.corners.slots[name]).data)
        return out.hexdigest()

    def source(self, name: str, body: Body, whole: int, cut_from: bytes) -> str:
        """As `mark`, of what a piece of a plain body is cut from (`CellSources`): it changes where `mark` may."""
        columns = [[name, body.vertices.width(name)] for name in sorted(body.vertices.names)]
        slots = [
            [name, body.corners.slots.domain(name), body.corners.slots.width(name)]
            for name in body.corners.slots.names()
        ]
        told = json.dumps([columns, sorted(slots)]).encode()
        return hashlib.sha256(self._common + str(whole).encode() + _told_of(body, name) + told + cut_from).hexdigest()

    def find(self, name: str, mark: str, by: str = "mark") -> dict[str, Any] | None:
        """What was told of a piece, if it is made of the same and all of its files are there; `by` "mark" or "source"."""
        piece = self._pieces.get(name)
        if piece is None or piece.get(by) != mark or piece.get("seal") != seal_of(piece):
            return None
        try:
            same = all(self._marks[file].result() == known for file, known in piece["files"].items())
        except OSError:
            return None
        return piece if same else None


def _is_told(piece: object) -> bool:
    try:
        msgspec.convert(piece, _ToldPiece)
    except msgspec.ValidationError:
        return False
    return True


def _told_of(body: Body, name: str) -> bytes:
    return json.dumps([name, body.origin, body.border_lock, str(body.down)]).encode()


def seal_of(piece: dict[str, Any]) -> str:
    """Of all that is told of a piece: what was altered keeps nothing."""
    told = {name: value for name, value in piece.items() if name != "seal"}
    return hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()


def file_mark(path: pathlib.Path) -> str:
    """Of what a file holds."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _told(folder: pathlib.Path) -> dict[str, Any]:
    try:
        told = json.loads((folder / MANIFEST).read_bytes())
    except (OSError, ValueError, RecursionError):
        return {}
    whole = isinstance(told, dict) and not told.get("unfinished") and isinstance(told.get("pieces"), list)
    return told if whole else {}


def _common(project: Project, profile: Profile) -> bytes:
    out = hashlib.sha256(f"{hulmo.__version__} {project.name}".encode())
    for what in (profile, project.grounds, project.blend, project.light):
        out.update(msgspec.json.encode(what))
    if project.sky is not None:
        out.update(project.sky.name.encode() + project.sky.light.tobytes())
    used = {ground.texture for ground in project.grounds}
    for name, parts in sorted(project.textures.items()):
        for part, data in sorted(parts.items()) if name in used else ():
            out.update(f"{name} {part}".encode() + hashlib.sha256(data).digest())
    return out.digest()
