"""The project file, `.hulmo`: a ZIP of project.json, tables as .npy, textures as PNG or JPEG. See docs/file-format.md."""

import io
import math
import pathlib
import zipfile
from types import MappingProxyType
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

import hulmo
from hulmo.core.dress.light import Light
from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground.check_ground import check_ground
from hulmo.core.ground.ground import MOST_GROUNDS, Blend, Ground
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.rules import Rule, checked
from hulmo.core.ground.textures import extension_of
from hulmo.core.ground.weights import HAND, RULED, WEIGHT, weights_of
from hulmo.core.io.safe_write import safe_write
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST, STRONGEST, Layer
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project

FORMAT = "hulmo-project"
VERSION = (1, 2)

DERIVED = ("normal",)
"""Vertex columns that are made anew on opening."""

LARGEST_TEXTURE = 256 * 1024 * 1024


class _BodyRecord(msgspec.Struct):
    id: int
    name: str
    vertices: int
    triangles: int
    columns: dict[str, int]
    has_uv: bool = False
    has_region: bool = False
    coat_owner: str = ""
    border_lock: bool = False
    layers: list[Layer] = []
    shown: bool = True
    locked: bool = False
    base: int = 0
    rules: list[Rule] = []


class _Record(msgspec.Struct):
    format: str
    version: tuple[int, int]
    name: str
    bodies: list[_BodyRecord]
    grounds: list[Ground]
    blend: Blend
    light: Light
    viewpoints: list[Viewpoint]
    textures: dict[str, dict[str, str]] = {}
    written_by: str = ""
    sources: dict[str, dict[str, str]] = {}
    figure: tuple[float, float, float] | None = None


def save_project(project: Project, path: pathlib.Path, progress: Progress | None = None, small: bool = False) -> None:
    """Write a project.

    Parameters
    ----------
    project : Project
    path : Path
        Replaced only when the new file is complete.
    small : bool
        Compress the tables: much smaller, several times slower.

    Raises
    ------
    FileProblem
        The file cannot be written; an old one is untouched.
    """
    progress = progress or silent()
    textures = {
        name: {part: f"textures/{i}/{part}.{extension_of(data) or 'png'}" for part, data in parts.items()}
        for i, (name, parts) in enumerate(project.textures.items())
    }
    tables = {body.ident: compact(body.vertices, body.corners) for body in project.bodies}
    records = []
    for body in project.bodies:
        vertices, corners = tables[body.ident]
        if WEIGHT not in vertices:
            weights_of(body, len(project.grounds))
        records.append(
            _BodyRecord(
                body.ident,
                body.name,
                vertices.count,
                corners.count,
                {name: vertices.width(name) for name in _written(vertices)},
                corners.uv is not None,
                bool(corners.region.any()),
                body.coat_owner,
                body.border_lock,
                list(body.layers),
                body.shown,
                body.locked,
                body.base,
                list(body.rules),
            )
        )
    record = _Record(
        FORMAT,
        VERSION,
        project.name,
        records,
        list(project.grounds),
        project.blend,
        project.light,
        list(project.viewpoints),
        textures,
        f"Hulmo {hulmo.__version__}",
        {name: dict(files) for name, files in project.sources.items()},
        project.figure,
    )
    method = zipfile.ZIP_DEFLATED if small else zipfile.ZIP_STORED
    with safe_write(path) as file, zipfile.ZipFile(file, "w", method, compresslevel=9 if small else None) as archive:
        text = msgspec.json.format(msgspec.json.encode(record), indent=1)
        archive.writestr(_entry("project.json", method), text)
        for i, body in enumerate(project.bodies):
            vertices, corners = tables[body.ident]
            progress.step((i + 0.1) / len(project.bodies), f"writing {body.name}")
            arrays: dict[str, NDArray[Any]] = {name: vertices[name] for name in _written(vertices)}
            arrays["triangles"] = corners.triangles
            if corners.uv is not None:
                arrays["uv"] = corners.uv
            if corners.region.any():
                arrays["region"] = corners.region
            for name, array in arrays.items():
                with archive.open(_entry(_table_name(body.ident, name), method), "w", force_zip64=True) as target:
                    _write_array(target, array)
        for name, files in textures.items():
            for part, entry in files.items():
                archive.writestr(_entry(entry, zipfile.ZIP_STORED), project.textures[name][part])
    progress.step(1.0, "saved")


def _written(vertices: VertexTable) -> list[str]:
    # names of the columns that a file holds; no hand paint at all goes without a table
    names = [name for name in vertices.names if name not in DERIVED]
    return [name for name in names if name != HAND or vertices[HAND].any()]


def open_project(path: pathlib.Path, progress: Progress | None = None) -> Project:
    """Read a project.

    Raises
    ------
    FileProblem
        No project file, damaged, of a newer major version, or not readable. The message says which part.
    """
    progress = progress or silent()
    try:
        with zipfile.ZipFile(path) as archive:
            return _read(archive, path, progress)
    except zipfile.BadZipFile as error:
        raise FileProblem(f"{path}: no Hulmo project, or damaged ({error}); open a backup of it") from error
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror or error})") from error


def _read(archive: zipfile.ZipFile, path: pathlib.Path, progress: Progress) -> Project:
    for info in archive.infolist():
        parts = pathlib.PurePosixPath(info.filename)
        if parts.is_absolute() or ".." in parts.parts or "\\" in info.filename:
            raise FileProblem(f"{path}: the entry {info.filename!r} points outside the file; it will not be opened")
    record = _read_record(archive, path)
    project = Project(record.name)
    project.grounds = tuple(record.grounds)
    project.blend = record.blend
    project.light = record.light
    project.viewpoints = tuple(record.viewpoints)
    project.figure = record.figure
    project.sources = MappingProxyType(
        {name: MappingProxyType(files) for name, files in record.sources.items() if name in record.textures}
    )
    project.textures = MappingProxyType(
        {name: MappingProxyType(_read_textures(archive, path, files)) for name, files in record.textures.items()}
    )
    bodies = []
    for i, entry in enumerate(record.bodies):
        progress.step(i / max(1, len(record.bodies)), f"reading {entry.name}")
        bodies.append(_read_body(archive, path, entry, len(record.grounds)))
        if record.version < (1, 2):
            _all_by_hand(bodies[-1], len(record.grounds))
    project.bodies = tuple(bodies)
    progress.step(1.0, "opened")
    return project


def _read_record(archive: zipfile.ZipFile, path: pathlib.Path) -> _Record:
    data = _bytes(archive, path, "project.json", 64 * 1024 * 1024)
    try:
        head = msgspec.json.decode(data)
        if not isinstance(head, dict) or head.get("format") != FORMAT:
            raise FileProblem(f"{path}: not a Hulmo project (project.json names no such format)")
        version = head.get("version")
        if not isinstance(version, list) or len(version) != 2 or not isinstance(version[0], int):
            raise FileProblem(f"{path}: project.json has no readable version")
        if version[0] > VERSION[0]:
            raise FileProblem(
                f"{path}: written by a newer Hulmo (format {version[0]}; this one reads up to {VERSION[0]}); "
                "update Hulmo to open it"
            )
        record = msgspec.json.decode(data, type=_Record)
    except msgspec.DecodeError as error:
        raise FileProblem(f"{path}: project.json is damaged ({error})") from error
    if not 1 <= len(record.grounds) <= MOST_GROUNDS:
        raise FileProblem(f"{path}: {len(record.grounds)} grounds; a project has 1 to {MOST_GROUNDS}")
    for names in ([ground.name for ground in record.grounds], [body.name for body in record.bodies]):
        if len(set(names)) != len(names):
            raise FileProblem(f"{path}: two grounds or bodies share a name in project.json")
    for ground in record.grounds:
        try:
            check_ground(ground, (), f"{path}: ground {ground.name!r} in project.json")
        except InvalidInput as error:
            raise FileProblem(str(error)) from error
    if len({body.id for body in record.bodies}) != len(record.bodies):
        raise FileProblem(f"{path}: two bodies share a number in project.json")
    return record


def _read_body(archive: zipfile.ZipFile, path: pathlib.Path, record: _BodyRecord, grounds: int) -> Body:
    if record.vertices < 0 or record.triangles < 0:
        raise FileProblem(f"{path}: {record.name!r} has a negative count in project.json")
    for name, width in (("position", 3), (WEIGHT, grounds), (HAND, grounds), (RULED, grounds)):
        there = record.columns.get(name, width if name == HAND or (name == RULED and not record.rules) else 0)
        if there != width:
            raise FileProblem(f"{path}: {record.name!r} needs a column {name!r} of width {width}")
    if not 0 <= record.base < grounds:
        raise FileProblem(f"{path}: {record.name!r} stands on ground {record.base}, which is not in project.json")
    columns = [layer.column for layer in record.layers]
    if len({layer.name for layer in record.layers}) < len(columns) or len(set(columns)) < len(columns):
        raise FileProblem(f"{path}: two relief layers of {record.name!r} share a name or number in project.json")
    for name in [REST, *columns] if columns else []:
        if record.columns.get(name) != 3:
            raise FileProblem(f"{path}: {record.name!r} has relief layers and needs a column {name!r} of width 3")
    if not all(-STRONGEST <= layer.strength <= STRONGEST for layer in record.layers):
        raise FileProblem(f"{path}: a relief layer of {record.name!r} has a strength beyond -2 to 2 in project.json")
    vertices = VertexTable(record.vertices)
    for name, width in record.columns.items():
        values = _array(archive, path, record, name, np.float32, (record.vertices, width))
        if not np.isfinite(values).all():
            raise FileProblem(f"{path}: {_table_name(record.id, name)} holds numbers that are not finite")
        vertices.set_column(name, values)
    triangles = _array(archive, path, record, "triangles", np.int32, (record.triangles, 3))
    uv = _array(archive, path, record, "uv", np.float32, (record.triangles, 3, 2)) if record.has_uv else None
    try:
        corners = CornerTable.from_triangles(triangles, record.vertices, uv)
    except InvalidInput as error:
        raise FileProblem(f"{path}: {record.name!r}: {error}") from error
    if record.has_region:
        corners.region[:] = _array(archive, path, record, "region", np.uint16, (record.triangles,))
    total = vertices[WEIGHT].sum(axis=1)
    if record.vertices and (float(vertices[WEIGHT].min()) < 0 or float(np.abs(total - 1).max()) > 1e-3):
        raise FileProblem(f"{path}: {_table_name(record.id, WEIGHT)}: ground weights of a vertex do not sum to 1")
    body = Body(record.name, vertices, corners, record.id)
    body.coat_owner = record.coat_owner
    body.border_lock = record.border_lock
    body.layers = tuple(record.layers)
    body.shown, body.locked, body.base = record.shown, record.locked, record.base
    weights_of(body, grounds)
    try:
        body.rules = checked(record.rules, f"{path}: {record.name!r}")
    except InvalidInput as error:
        raise FileProblem(str(error)) from error
    return body


def _all_by_hand(body: Body, grounds: int) -> None:
    # files from before there were rules: what is not plain first ground was painted
    weight = body.vertices[WEIGHT]
    painted = weight[:, 0] < 1.0
    if painted.any():
        body.vertices.set_column(HAND, np.where(painted[:, None], weight, np.float32(0.0)))


def _read_textures(archive: zipfile.ZipFile, path: pathlib.Path, files: dict[str, str]) -> dict[str, bytes]:
    for part in files:
        if part not in PARTS:
            raise FileProblem(f"{path}: a texture set has an unknown part {part!r}")
    return {part: _bytes(archive, path, entry, LARGEST_TEXTURE) for part, entry in files.items()}


def _table_name(ident: int, name: str) -> str:
    return f"bodies/{ident}/{name.replace('/', '_')}.npy"


def _entry(name: str, method: int) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name)  # a fixed date, so that the same project gives the same bytes
    info.compress_type = method
    return info


def _write_array(target: Any, array: NDArray[Any]) -> None:
    data = np.ascontiguousarray(array)
    np.lib.format.write_array_header_1_0(target, np.lib.format.header_data_from_array_1_0(data))
    view = memoryview(data.reshape(-1).view(np.uint8).data)
    for start in range(0, len(view), 1 << 24):
        target.write(view[start : start + (1 << 24)])


def _bytes(archive: zipfile.ZipFile, path: pathlib.Path, name: str, most: int) -> bytes:
    try:
        info = archive.getinfo(name)
    except KeyError as error:
        raise FileProblem(f"{path}: {name} is missing; the file is no Hulmo project or damaged") from error
    if info.file_size > most:
        raise FileProblem(f"{path}: {name} claims {info.file_size:,} bytes, more than it can have; damaged")
    try:
        with archive.open(info) as source:
            data = source.read(most + 1)
    except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError, ValueError) as error:
        raise FileProblem(f"{path}: {name} is damaged ({error}); open a backup of it") from error
    except Exception as error:  # zlib.error has no common base
        raise FileProblem(f"{path}: {name} is damaged ({error}); open a backup of it") from error
    if len(data) > most:
        raise FileProblem(f"{path}: {name} is larger than it claims; it will not be opened")
    return data


def _array(
    archive: zipfile.ZipFile,
    path: pathlib.Path,
    record: _BodyRecord,
    name: str,
    kind: type[np.generic],
    shape: tuple[int, ...],
) -> NDArray[Any]:
    entry = _table_name(record.id, name)
    wanted = math.prod(shape) * np.dtype(kind).itemsize
    data = _bytes(archive, path, entry, wanted + 4096)
    stream = io.BytesIO(data)
    try:
        version = np.lib.format.read_magic(stream)
        if version != (1, 0):
            raise ValueError(f"npy version {version}")
        found_shape, fortran, dtype = np.lib.format.read_array_header_1_0(stream)
    except (ValueError, EOFError, SyntaxError) as error:
        raise FileProblem(f"{path}: {entry} is damaged ({error})") from error
    if found_shape != shape or fortran or dtype != np.dtype(kind):
        raise FileProblem(
            f"{path}: {entry} is {dtype} {found_shape}, but project.json says {np.dtype(kind)} {shape}; damaged"
        )
    start = stream.tell()
    if len(data) - start != wanted:
        raise FileProblem(f"{path}: {entry} ends in the middle; open a backup of the project")
    return np.frombuffer(data, kind, offset=start).reshape(shape).copy()
