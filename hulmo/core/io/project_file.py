"""The project file, `.hulmo`: a ZIP of project.json, tables as .npy, textures as PNG or JPEG. See docs/file-format.md."""

import contextlib
import pathlib
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from types import MappingProxyType
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

import hulmo
from hulmo.core.attributes import attribute_of
from hulmo.core.dress.light import Light
from hulmo.core.dress.sky_picture import SMALLEST, TALLEST, SkyPicture
from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.errors import FileProblem, HulmoError, InvalidInput, shown
from hulmo.core.ground.ground import Blend, Ground
from hulmo.core.ground.rules import Rule, checked
from hulmo.core.ground.textures import check_images, extension_of
from hulmo.core.ground.weights import HAND, WEIGHT, weights_of
from hulmo.core.io.archive import Archive, Wanted, slot_column, table_name, table_names
from hulmo.core.io.prop_tables import meshes_written, props_written, read_meshes, read_props
from hulmo.core.io.safe_write import safe_write
from hulmo.core.json_text import typed_json
from hulmo.core.mesh.body import Body, Place
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import REGION, UV, CornerTable
from hulmo.core.mesh.down import LEVEL, Down
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.origin import recentre
from hulmo.core.mesh.slot_table import SIDES, SlotTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects.figure import FIGURE
from hulmo.core.objects.scene_object import SceneObject, from_record, to_record
from hulmo.core.objects.viewpoint import VIEWPOINT, viewpoint_values
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project, free_name
from hulmo.core.props.prop import Prop
from hulmo.core.props.strew_rules import StrewRule, check_strew_rules
from hulmo.core.sound import check_body, check_build, check_project, check_scene, check_values, check_width
from hulmo.core.waiver import Waiver
from hulmo.core.workers import WORKERS

FORMAT = "hulmo-project"
VERSION = (1, 6)

LARGEST_TEXTURE = 256 << 20

LARGEST_RECORD = 64 << 20


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
    origin: Place = (0.0, 0.0, 0.0)
    known: dict[str, dict[str, int]] = {}
    down: Down = LEVEL
    props: int = 0
    strew_rules: list[StrewRule] = []


class _Record(msgspec.Struct):
    format: str
    version: tuple[int, int]
    name: str
    bodies: list[_BodyRecord]
    grounds: list[Ground]
    blend: Blend
    light: Light
    viewpoints: list[Viewpoint] = []
    textures: dict[str, dict[str, str]] = {}
    written_by: str = ""
    sources: dict[str, dict[str, str]] = {}
    figure: tuple[float, float, float] | None = None
    objects: list[dict[str, Any]] = []
    props: list[Prop] | None = None
    prop_meshes: dict[str, tuple[int, int]] = {}
    sky: tuple[str, int] | None = None
    waivers: list[Waiver] = []


def save_project(
    project: Project,
    path: pathlib.Path,
    progress: Progress | None = None,
    small: bool = False,
    checks: bool = True,
) -> None:
    """Write a project.

    Parameters
    ----------
    project : Project
    path : Path
        Replaced only when the new file is complete.
    small : bool
        Compress the tables: much smaller, several times slower.
    checks : bool
        Whether it is made sure that the file can be opened again.

    Raises
    ------
    FileProblem
        The file cannot be written, or could not be opened again; an old one is untouched.
    """
    progress = progress or silent()
    if checks:
        try:
            check_build(project)
        except InvalidInput as error:
            raise _unsavable(path, error) from error
    for body in project.bodies:
        weights_of(body, len(project.grounds))
    textures, images = _texture_entries(project)
    tables = {body.ident: compact(body.vertices, body.corners) for body in project.bodies}
    records = []
    for body in project.bodies:
        vertices, corners = tables[body.ident]
        records.append(
            _BodyRecord(
                body.ident,
                body.name,
                vertices.count,
                corners.count,
                {name: vertices.width(name) for name in _written(vertices)},
                coat_owner=body.coat_owner,
                border_lock=body.border_lock,
                layers=list(body.layers),
                shown=body.shown,
                locked=body.locked,
                base=body.base,
                rules=list(body.rules),
                origin=body.origin,
                known=_known(corners.slots),
                down=body.down,
                props=0 if body.strewn is None else body.strewn.count,
                strew_rules=list(body.strew_rules),
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
        textures=textures,
        written_by=f"Hulmo {hulmo.__version__}",
        sources={name: dict(files) for name, files in project.sources.items()},
        objects=[to_record(entry) for entry in project.objects],
        props=list(project.props),
        prop_meshes={
            name: (mesh.position.shape[0], mesh.triangles.shape[0]) for name, mesh in project.prop_meshes.items()
        },
        sky=None if project.sky is None else (project.sky.name, project.sky.light.shape[0]),
        waivers=list(project.waivers),
    )
    method = zipfile.ZIP_DEFLATED if small else zipfile.ZIP_STORED
    with (
        ThreadPoolExecutor(1) as beside,
        # looked through while it is written and flushed; the old file stays where it is until this has passed
        _checked(project, path, beside if checks else None) as passed,
        safe_write(path, passed) as file,
        zipfile.ZipFile(file, "w", method, compresslevel=9 if small else None) as archive,
    ):
        text = msgspec.json.format(msgspec.json.encode(record), indent=1)
        archive.writestr(_entry("project.json", method), text)
        for i, body in enumerate(project.bodies):
            vertices, corners = tables[body.ident]
            progress.step((i + 0.1) / len(project.bodies), f"writing {body.name}")
            arrays: dict[str, NDArray[Any]] = {name: vertices[name] for name in _written(vertices)}
            arrays["triangles"] = corners.triangles
            for domain, names in _known(corners.slots).items():
                arrays |= {slot_column(domain, name): corners.slots[name] for name in names}
            if body.strewn is not None:
                arrays |= props_written(body)
            for name, array in arrays.items():
                with archive.open(_entry(table_name(body.ident, name), method), "w", force_zip64=True) as target:
                    _write_array(target, array)
        for name, array in meshes_written(project.prop_meshes).items():
            with archive.open(_entry(name, method), "w", force_zip64=True) as target:
                _write_array(target, array)
        if project.sky is not None:
            with archive.open(_entry("sky.npy", method), "w", force_zip64=True) as target:
                _write_array(target, project.sky.light)
        for entry, data in images.items():
            archive.writestr(_entry(entry, zipfile.ZIP_STORED), data)
        progress.step(0.97, "checking")
    progress.step(1.0, "saved")


@contextlib.contextmanager
def _checked(project: Project, path: pathlib.Path, beside: ThreadPoolExecutor | None) -> Iterator[Callable[[], None]]:
    # what raises when the project, looked through in another thread, could not be opened again
    checking = beside.submit(check_project, project, max(1, WORKERS - 1)) if beside else None

    def passed() -> None:
        try:
            if checking is not None:
                checking.result()
        except InvalidInput as error:
            raise _unsavable(path, error) from error

    try:
        yield passed
    except Exception:
        passed()  # what is wrong with it says more than how writing it failed
        raise


def _unsavable(path: pathlib.Path, error: InvalidInput) -> FileProblem:
    return FileProblem(f"{path}: not saved, because it could not be opened again ({error}); undo the last steps")


def _texture_entries(project: Project) -> tuple[dict[str, dict[str, str]], dict[str, bytes]]:
    # entry of every image, and the images by entry; one that is there twice is written once
    entries: dict[str, dict[str, str]] = {}
    images: dict[str, bytes] = {}
    known: dict[int, str] = {}
    for i, (name, parts) in enumerate(project.textures.items()):
        entries[name] = {}
        for part, data in parts.items():
            entry = known.setdefault(id(data), f"textures/{i}/{part}.{extension_of(data) or 'png'}")
            entries[name][part], images[entry] = entry, data
    return entries, images


def _written(vertices: VertexTable) -> list[str]:
    # names of the columns that a file holds; no hand paint at all goes without a table
    names = [name for name in vertices.names if attribute_of(name).kept]
    return [name for name in names if name != HAND or vertices[HAND].any()]


def _known(slots: SlotTable) -> dict[str, dict[str, int]]:
    # by domain, names and widths of the columns that a file holds
    out: dict[str, dict[str, int]] = {}
    for domain, name, width in slots.layout():
        if attribute_of(name, domain).kept:
            out.setdefault(domain, {})[name] = width
    return out


def open_project(path: pathlib.Path, progress: Progress | None = None) -> Project:
    """Read a project. What holds of it then is what `core.sound` asks.

    Raises
    ------
    FileProblem
        No project file, damaged, of a newer major version, or not readable. The message says which part.
    """
    progress = progress or silent()
    try:
        with zipfile.ZipFile(path) as archive:
            return _read(Archive(archive, path), progress)
    except FileProblem:
        raise
    except InvalidInput as error:
        raise FileProblem(f"{path}: {error}") from error
    except (HulmoError, MemoryError):
        raise
    except zipfile.BadZipFile as error:
        raise FileProblem(f"{path}: no Hulmo project, or damaged ({error}); open a backup of it") from error
    except FileNotFoundError as error:
        raise FileProblem(f"{path}: cannot be read: there is no such file; look at its name and folder") from error
    except IsADirectoryError as error:
        raise FileProblem(f"{path}: cannot be read: it is a folder; choose a file") from error
    except PermissionError as error:
        raise FileProblem(f"{path}: cannot be read: its owner does not allow it") from error
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror or error}); open a backup of it") from error
    except Exception as error:  # a directory or a compressed stream can be damaged in ways nobody lists
        raise FileProblem(f"{path}: damaged ({type(error).__name__}: {error}); open a backup of it") from error


def _read(archive: Archive, progress: Progress) -> Project:
    path = archive.path
    record = _read_record(archive)
    project = Project(record.name)
    project.grounds = tuple(record.grounds)
    project.blend = record.blend
    project.light = record.light
    project.objects = tuple(_objects(record, path))
    project.sources = MappingProxyType(
        {name: MappingProxyType(files) for name, files in record.sources.items() if name in record.textures}
    )
    textures = {
        name: MappingProxyType({part: archive.bytes(entry, LARGEST_TEXTURE, True) for part, entry in files.items()})
        for name, files in record.textures.items()
    }
    project.textures = MappingProxyType(textures)
    check_images(project.textures, f"{path}: ")
    if record.props is not None:
        project.props = tuple(record.props)
    project.prop_meshes = read_meshes(archive, record.prop_meshes)
    if record.sky is not None:
        name, rows = record.sky
        if not SMALLEST <= rows <= TALLEST:
            raise FileProblem(f"{path}: the sky has {rows} rows; damaged")
        project.sky = SkyPicture(name, archive.array(("sky.npy",), np.float16, (rows, 2 * rows, 3)))
    project.waivers = tuple(record.waivers)
    check_scene(project)
    bodies = []
    for i, entry in enumerate(record.bodies):
        progress.step(i / max(1, len(record.bodies)), f"reading {entry.name}")
        bodies.append(_read_body(archive, entry, len(record.grounds)))
        if record.version < (1, 2):
            _all_by_hand(bodies[-1], len(record.grounds))
    project.bodies = tuple(bodies)
    progress.step(0.95, "checking")
    check_project(project)
    for body in project.bodies:
        body.compose(slice(None))  # to the bit, whoever wrote the file
        if record.version < (1, 3):
            recentre(body)
    progress.step(1.0, "opened")
    return project


def _read_record(archive: Archive) -> _Record:
    path = archive.path
    data = archive.bytes("project.json", LARGEST_RECORD)
    damaged = f"{path}: project.json is damaged"
    head = typed_json(data, object, damaged)
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise FileProblem(f"{path}: not a Hulmo project (project.json names no such format)")
    version = head.get("version")
    if not isinstance(version, list) or len(version) != 2 or not isinstance(version[0], int):
        raise FileProblem(f"{path}: project.json has no readable version")
    if version[0] > VERSION[0]:
        raise FileProblem(
            f"{path}: written by a newer Hulmo (format {shown(version[0])}; this one reads up to {VERSION[0]}); "
            "update Hulmo to open it"
        )
    return typed_json(data, _Record, damaged)


def _read_body(archive: Archive, record: _BodyRecord, grounds: int) -> Body:
    path = archive.path
    where = f"{path}: {record.name!r}"
    if record.vertices < 0 or record.triangles < 0:
        raise FileProblem(f"{where} has a negative count in project.json")
    for name in ("position", WEIGHT):
        if name not in record.columns:
            raise FileProblem(f"{where} needs a column {name!r}")
    for name in record.columns:
        if not attribute_of(name).kept:
            raise FileProblem(f"{where} holds a column {name!r}, which no file may")
    wanted: list[Wanted] = [(table_names(record.id, "triangles"), np.int32, (record.triangles, 3))]
    for name, width in record.columns.items():
        check_width(name, width, grounds, where)
        wanted.append((table_names(record.id, name), np.float32, (record.vertices, width)))
    faces, *columns = archive.arrays(wanted)
    vertices = VertexTable(record.vertices)
    for name, values in zip(record.columns, columns, strict=True):
        vertices.set_column(name, values)
    slots = _read_slots(archive, record, grounds, where)
    # before anything is made of them: normals of what is no number would be none either
    check_values("position", vertices["position"], where)
    corners = CornerTable.from_triangles(faces, record.vertices)
    corners.slots = slots  # as they are: what two triangles say of an edge is looked at, not evened out
    body = Body(record.name, vertices, corners, record.id)
    body.origin, body.down = record.origin, record.down
    body.coat_owner = record.coat_owner
    body.border_lock = record.border_lock
    body.layers = tuple(record.layers)
    body.shown, body.locked, body.base = record.shown, record.locked, record.base
    body.rules = checked(record.rules, where)
    body.strew_rules = check_strew_rules(tuple(record.strew_rules), where)
    body.strewn = read_props(archive, record.id, record.props, where)
    check_body(body, grounds)
    weights_of(body, grounds)
    return body


def _objects(record: _Record, path: pathlib.Path) -> list[SceneObject]:
    out = [from_record(entry, str(path)) for entry in record.objects]
    if record.version < (1, 4):  # where figure and viewpoints were things of their own
        for view in record.viewpoints:
            out.append(SceneObject(len(out) + 1, VIEWPOINT.name, view.name, view.eye, values=viewpoint_values(view)))
        if record.figure is not None:
            name = free_name(FIGURE.label, [entry.name for entry in out])
            out.append(SceneObject(len(out) + 1, FIGURE.name, name, record.figure))
    return out


def _read_slots(archive: Archive, record: _BodyRecord, grounds: int, where: str) -> SlotTable:
    slots = SlotTable(record.triangles)
    for domain, columns in record.known.items():
        if domain not in SIDES:
            raise FileProblem(f"{where} knows of {shown(domain)}; there are {', '.join(SIDES)}")
        for name, width in columns.items():
            if name in slots or not attribute_of(name, domain).kept:
                raise FileProblem(f"{where} holds a column {name!r} of {domain}s, which no file may")
            check_width(name, width, grounds, where, domain)
            shape = (record.triangles, SIDES[domain], width)
            values = archive.array((table_name(record.id, slot_column(domain, name)),), np.float32, shape)
            slots.set(domain, name, values)
    if record.has_uv and UV not in slots:  # before 1.4, where these two were all there was
        shape = (record.triangles, 3, 2)
        slots.set("corner", UV, archive.array(table_names(record.id, UV), np.float32, shape))
    if record.has_region and REGION not in slots:
        region = archive.array(table_names(record.id, REGION), np.uint16, (record.triangles,))
        slots.set("face", REGION, region[:, None, None].astype(np.float32))
    return slots


def _all_by_hand(body: Body, grounds: int) -> None:
    # files from before there were rules: what is not plain first ground was painted
    weight = body.vertices[WEIGHT]
    painted = weight[:, 0] < 1.0
    if painted.any():
        body.vertices.set_column(HAND, np.where(painted[:, None], weight, np.float32(0.0)))


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
