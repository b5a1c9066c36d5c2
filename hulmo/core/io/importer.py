"""Reading meshes made elsewhere: OBJ, PLY, STL, GLB, glTF and USD. To add a format: write its reader, add one line here."""

import pathlib
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem, HulmoError
from hulmo.core.io.mesh_parts import Part, Read
from hulmo.core.io.read_gltf import read_gltf, read_painted
from hulmo.core.io.read_loose import read_loose
from hulmo.core.io.read_ply import read_ply
from hulmo.core.io.read_usd import read_usd
from hulmo.core.mesh.attribute import FARTHEST
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.mesh.origin import Place, origin_of, too_far
from hulmo.core.progress import Progress
from hulmo.core.topology.mend import mend, same_rows

READERS: dict[str, Callable[[pathlib.Path, bool], Read]] = {
    "obj": read_loose,
    "ply": read_ply,
    "stl": read_loose,
    "glb": read_gltf,
    "gltf": read_gltf,
    "usdc": read_usd,
    "usda": read_usd,
    "usdz": read_usd,
    "usd": read_usd,
}

ENDINGS = tuple(READERS)

LARGEST = 4_000_000_000
"""Bytes of a file that is read at the most."""


@dataclass(frozen=True)
class Imported:
    """A mesh as it was read, mended.

    Attributes
    ----------
    name : str
    shape : Shape
        About `origin`.
    origin : (x, y, z)
        Metres, double precision: 0 unless the mesh lies far from it.
    read : Read
        What the file holds besides; its parts are joined in `whole`.
    whole : Part
        Weights, colours and tint, a row for each vertex of `shape`.
    account : list of str
        What was done to it.
    region : (M,) int64 or None
        Which part of the file each triangle belongs to, from 1; None where that was not asked.
    """

    name: str
    shape: Shape
    origin: Place
    read: Read
    whole: Part
    account: list[str] = field(default_factory=list)
    region: NDArray[np.int64] | None = None


def read_file(path: pathlib.Path, progress: Progress, apart: bool = False, painted: bool = False) -> Read:
    """All pieces of a file as they stand there.

    Parameters
    ----------
    apart : bool
        Whether parts of other names stay by themselves.
    painted : bool
        Whether what the file's materials paint is wanted.

    Raises
    ------
    FileProblem
    """
    ending = path.suffix.lower().lstrip(".")
    if ending not in READERS:
        raise FileProblem(f"{path}: cannot be imported; choose one of {', '.join('.' + name for name in ENDINGS)}")
    try:
        size = path.stat().st_size
    except (OSError, ValueError) as error:
        raise FileProblem(f"{path}: cannot be read ({getattr(error, 'strerror', None) or error})") from error
    if size > LARGEST:
        raise FileProblem(f"{path}: {size / 1e9:.1f} GB is more than can be read; split it first")
    progress.step(0.05, f"reading {path.name}")
    try:
        return read_painted(path) if painted and READERS[ending] is read_gltf else READERS[ending](path, apart)
    except (HulmoError, MemoryError):
        raise
    except Exception as error:  # the readers' libraries raise all kinds for damaged files
        raise FileProblem(f"{path}: damaged, or no mesh that can be read ({type(error).__name__}: {error})") from error


def read_mesh(path: pathlib.Path, progress: Progress, scale: float = 1.0, up: str = "y") -> Imported:
    """Read all meshes of a file as one; see `read_meshes`."""
    return read_meshes(path, progress, scale, up)[0]


def read_meshes(
    path: pathlib.Path, progress: Progress, scale: float = 1.0, up: str = "y", parts: str = "one"
) -> list[Imported]:
    """Read the meshes of a file.

    Parameters
    ----------
    path : Path
    progress : Progress
    scale : float
        Metres that one unit of the file is.
    up : str
        "y" or "z": which axis of the file points up.
    parts : str
        "one": all of them as one; "regions": the same, with a region for every part; "bodies": every part by itself.

    Raises
    ------
    FileProblem
        The file cannot be read, is damaged, or holds no triangles; the message says which.
    """
    read = read_file(path, progress, parts != "one")
    groups: dict[str, list[Part]] = {}
    for part in read.parts:
        groups.setdefault(part.name, []).append(part)
    if parts != "bodies" or len(groups) < 2:
        names = list(groups) if parts == "regions" else []
        return [_mended(path, read, read.parts, path.stem, names, progress, scale, up)]
    out = []
    for done, (name, found) in enumerate(groups.items()):
        share = progress.part(0.1 + 0.6 * done / len(groups), 0.1 + 0.6 * (done + 1) / len(groups))
        if sum(part.triangles.size for part in found):
            out.append(_mended(path, read, found, name or path.stem, [], share, scale, up))
    if not out:
        raise FileProblem(f"{path}: holds no triangles")
    return out


def _mended(
    path: pathlib.Path, read: Read, parts: list[Part], name: str, regions: list[str], progress: Progress, scale: float,
    up: str,
) -> Imported:  # fmt: skip
    # some parts of a file as one mesh, with the number of its region (1 for the first) for each triangle where asked
    account = list(read.account)
    whole = _joined(parts, account)
    if not whole.triangles.size:
        raise FileProblem(f"{path}: holds no triangles")
    region = np.concatenate(
        [np.full(part.triangles.shape[0], regions.index(part.name) + 1 if regions else 0) for part in parts]
    )
    if len(regions) > 65535:
        raise FileProblem(f"{path}: has {len(regions):,} parts; at most 65,535 can be regions")
    progress.step(0.5, "mending")
    position = whole.position
    if up == "z":
        position = position[:, (0, 2, 1)] * (1.0, 1.0, -1.0)
    position = position * scale
    one = _same_places(position)
    shared = np.unique(one).size
    triangles = whole.triangles
    if shared < position.shape[0]:
        # files split vertices at seams and hard edges; sculpting needs one surface
        account.append(f"{position.shape[0] - shared:,} vertices in the same place made one")
        triangles = one[np.clip(triangles, 0, position.shape[0] - 1)] if _there(triangles, position) else triangles
    result = mend(position, triangles)
    account += result.account
    if not result.triangles.size:
        raise FileProblem(f"{path}: holds no triangle that can be used ({'; '.join(account)})")
    position = position[result.source]
    origin = origin_of(position)
    position = position - origin
    if too_far(position):
        raise FileProblem(
            f"{path}: reaches {float(np.abs(position).max()):.3g} m from its middle, more than {FARTHEST:g} m; choose a "
            "smaller scale"
        )
    uv = None
    if whole.uv is not None:
        uv = whole.uv[result.faces]
        uv[result.turned] = uv[result.turned][:, (0, 2, 1)]
        if not np.isfinite(uv).all():
            account.append("texture coordinates left out: some are not finite")
            uv = None
    for column in ("weights", "colour", "tint"):
        values = getattr(whole, column)
        if values is not None and not np.isfinite(values).all():
            account.append(f"{column} left out: some numbers are not finite")
            values = None
        setattr(whole, column, None if values is None else values[result.source])
    shape = Shape(np.ascontiguousarray(position, np.float32), result.triangles, uv)
    if len(regions) > 1:
        account.append(f"{len(regions)} regions")
    return Imported(name, shape, origin, read, whole, account, region[result.faces] if len(regions) > 1 else None)


def _joined(parts: list[Part], account: list[str]) -> Part:
    if not parts:
        return Part(np.empty((0, 3)), np.empty((0, 3), np.int64))
    starts = np.cumsum([0, *(part.position.shape[0] for part in parts)])
    out = Part(
        np.concatenate([part.position for part in parts]),
        np.concatenate([part.triangles + start for part, start in zip(parts, starts, strict=False)]),
    )
    for name in ("uv", "weights", "colour", "tint"):
        given = [getattr(part, name) for part in parts]
        if all(values is not None for values in given):
            setattr(out, name, np.concatenate(given))
        elif any(values is not None for values in given):
            what = {"uv": "texture coordinates", "weights": "ground weights"}.get(name, name)
            account.append(f"{what} left out: not all parts of the file have them")
    return out


def _there(triangles: NDArray[np.int64], position: NDArray[np.float64]) -> bool:
    return bool(triangles.min(initial=0) >= 0 and triangles.max(initial=0) < position.shape[0])


def _same_places(position: NDArray[np.float64]) -> NDArray[np.int64]:
    # the first vertex with exactly the same position stands for it
    plain = np.ascontiguousarray(position + 0.0)  # -0 becomes 0
    return same_rows(plain.view(np.int64))
