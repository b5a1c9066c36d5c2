"""Reading meshes of Universal Scene Description (OpenUSD): usdc, usda, usdz. Runs in a process of its own."""

import json
import pathlib
import pickle
import resource
import sys
import zipfile
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem, HulmoError
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.io.mesh_parts import Part, Read

MOST_IMAGE = 1 << 28
"""Bytes of one image at the most."""

REFUSED = 3
"""What the process ends with where it says in words why a file can't be read."""

Rows = NDArray[np.int64]


def read_stage(path: pathlib.Path) -> Read:
    """All meshes of a stage at the time of its default, in metres with +Y up.

    Raises
    ------
    FileProblem
        No stage, or damaged.
    """
    from pxr import Tf, Usd, UsdGeom  # slow to import, and needed nowhere else

    if path.suffix.lower() == ".usdz" and not zipfile.is_zipfile(path):
        raise FileProblem(f"{path}: no USD package, or damaged; export it anew")
    try:
        stage = Usd.Stage.Open(str(path))
    except Tf.ErrorException as error:
        words = str(error).strip().splitlines()[-1:] or ["no reason given"]
        raise FileProblem(f"{path}: no USD that can be read, or damaged ({words[0].strip()})") from error
    try:
        return _read(path, stage, UsdGeom, Usd)
    except Tf.ErrorException as error:
        raise FileProblem(f"{path}: damaged ({str(error).strip().splitlines()[-1].strip()})") from error


def _read(path: pathlib.Path, stage: Any, geom: Any, usd: Any) -> Read:
    note = _note(stage)
    account: list[str] = []
    scale = float(geom.GetStageMetersPerUnit(stage))
    if not (np.isfinite(scale) and 1e-9 < scale < 1e9):
        account.append(f"its unit of {scale:g} m was taken as a metre")
        scale = 1.0
    upright = geom.GetStageUpAxis(stage) == geom.Tokens.z
    cache = geom.XformCache()
    parts: list[Part] = []
    passed = 0
    for prim in usd.PrimRange(stage.GetPseudoRoot(), usd.TraverseInstanceProxies(usd.PrimDefaultPredicate)):
        if not prim.IsA(geom.Mesh):
            continue
        if _within(prim, geom.PointInstancer) or prim.GetCustomDataByKey("hulmo:role"):
            passed += 1
            continue
        part = _part(path, prim, geom, cache, len(note.grounds))
        if part is None:
            continue
        part.position *= scale
        if upright:
            part.position = part.position[:, (0, 2, 1)] * (1.0, 1.0, -1.0)
        parts.append(part)
    if not parts:
        raise FileProblem(f"{path}: holds no mesh with faces")
    if passed:
        account.append(f"{passed} meshes of props and waters were passed over")
    if all(part.weights is None for part in parts):
        note.grounds = []
    return Read(parts, note.grounds, _textures(path, note), account)


class _Note:
    def __init__(self) -> None:
        self.grounds: list[Ground] = []
        self.images: dict[str, str] = {}


def _note(stage: Any) -> _Note:
    # what a delivery of ours says of itself
    out = _Note()
    text = stage.GetRootLayer().customLayerData.get("hulmo", "")
    try:
        data = json.loads(text) if isinstance(text, str) and text else {}
        out.grounds = [msgspec.convert(entry, Ground, strict=True) for entry in data.get("grounds", [])]
        out.images = {str(key): str(value) for key, value in dict(data.get("images", {})).items()}
    except (ValueError, TypeError, AttributeError, RecursionError, msgspec.ValidationError):
        return _Note()
    return out


def _textures(path: pathlib.Path, note: _Note) -> dict[str, dict[str, bytes]]:
    known = shipped()
    found: dict[str, dict[str, bytes]] = {}
    for key, file in note.images.items():
        texture, _, part = key.rpartition("/")
        if texture in known or part not in PARTS:
            continue
        data = _beside(path, file)
        if data is not None:
            found.setdefault(texture, {})[part] = data
    for i, ground in enumerate(note.grounds):
        if ground.texture and ground.texture not in known and ground.texture not in found:
            note.grounds[i] = msgspec.structs.replace(ground, texture="", plain=PARTS)
    return found


def _beside(path: pathlib.Path, file: str) -> bytes | None:
    # an image that the stage names, within its folder or its package
    if file.startswith("/") or ".." in pathlib.PurePosixPath(file).parts:
        return None
    try:
        if path.suffix.lower() == ".usdz":
            with zipfile.ZipFile(path) as package:
                return package.read(file) if package.getinfo(file).file_size <= MOST_IMAGE else None
        there = path.parent / file
        return there.read_bytes() if there.stat().st_size <= MOST_IMAGE else None
    except (OSError, KeyError, ValueError, zipfile.BadZipFile, RuntimeError, NotImplementedError):
        return None


def _within(prim: Any, kind: Any) -> bool:
    above = prim.GetParent()
    while above and not above.IsPseudoRoot():
        if above.IsA(kind):
            return True
        above = above.GetParent()
    return False


def _part(path: pathlib.Path, prim: Any, geom: Any, cache: Any, grounds: int) -> Part | None:
    mesh = geom.Mesh(prim)
    where = f"{path}: {prim.GetPath()}"
    place = np.array(mesh.GetPointsAttr().Get() or [], np.float64).reshape(-1, 3)
    counts = np.array(mesh.GetFaceVertexCountsAttr().Get() or [], np.int64)
    corners = np.array(mesh.GetFaceVertexIndicesAttr().Get() or [], np.int64)
    if not place.size or not counts.size:
        return None
    if (counts < 0).any() or counts.sum() != corners.size:
        raise FileProblem(
            f"{where}: its faces name {int(counts.sum()):,} corners, and there are {corners.size:,}; it is damaged"
        )
    if corners.size and not 0 <= corners.min() <= corners.max() < len(place):
        raise FileProblem(f"{where}: a face names a point that is not there; it is damaged")
    at = _fans(counts)  # (M, 3) corners of triangles
    if mesh.GetOrientationAttr().Get() == geom.Tokens.leftHanded:
        at = at[:, (0, 2, 1)]
    matrix = np.array(cache.GetLocalToWorldTransform(prim), np.float64)
    position = place @ matrix[:3, :3] + matrix[3, :3]
    if np.linalg.det(matrix[:3, :3]) < 0:
        at = at[:, (0, 2, 1)]
    part = Part(position, corners[at], name=str(prim.GetDisplayName() or prim.GetName()))
    api = geom.PrimvarsAPI(prim)
    face = np.repeat(np.arange(counts.size), counts)

    def corner_values(name: str, width: int) -> NDArray[np.float64] | None:
        primvar = api.GetPrimvar(name)
        values = primvar.ComputeFlattened() if primvar and primvar.HasValue() else None
        if values is None:
            return None
        flat = np.array(values, np.float64)
        flat = flat.reshape(-1, 1) if flat.ndim <= 1 else flat
        rows = {
            "constant": np.zeros(corners.size, np.int64),
            "uniform": face,
            "faceVarying": np.arange(corners.size),
        }.get(str(primvar.GetInterpolation()), corners)
        if flat.shape[1] < width or not flat.size or (rows.size and rows.max() >= flat.shape[0]):
            return None
        return np.asarray(flat[rows][:, :width])

    def vertex_values(name: str, width: int) -> NDArray[np.float32] | None:
        values = corner_values(name, width)
        if values is None:
            return None
        out = np.zeros((len(place), width), np.float32)
        out[corners] = values
        return out

    for name in ("st", "UVMap", "uv"):
        uv = corner_values(name, 2)
        if uv is not None:
            part.uv = np.asarray(uv[at] * (1.0, -1.0) + (0.0, 1.0), np.float32)
            break
    colour = vertex_values("displayColor", 3)
    if colour is not None:
        part.colour = np.concatenate((np.clip(colour, 0, 1), np.ones((len(place), 1), np.float32)), axis=1)
    shares = [vertex_values(f"ground_{i}", 1) for i in range(grounds)]
    if shares and all(share is not None for share in shares):
        part.weights = np.concatenate([share for share in shares if share is not None], axis=1)
    tint, cover = vertex_values("tint", 3), vertex_values("tint_cover", 1)
    if tint is not None and cover is not None:
        part.tint = np.concatenate((tint, cover), axis=1)
    return part


def _fans(counts: Rows) -> Rows:
    first = np.concatenate(([0], np.cumsum(counts)[:-1]))
    fans = [np.empty((0, 3), np.int64)]
    order = [np.empty(0, np.int64)]
    for size in np.unique(counts[counts >= 3]).tolist():
        faces = np.flatnonzero(counts == size)
        for i in range(1, size - 1):
            fans.append(first[faces, None] + np.array([0, i, i + 1]))
            order.append(faces * 4096 + i)
    return np.concatenate(fans)[np.argsort(np.concatenate(order), kind="stable")]


def main() -> None:
    """In that process: the file, where what was read goes, and the bytes of memory that it may take."""
    source, made, room = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]), int(sys.argv[3])
    resource.setrlimit(resource.RLIMIT_AS, (room, room))
    try:
        found = read_stage(source)
    except HulmoError as error:
        print(error)
        sys.exit(REFUSED)
    with made.open("wb") as file:
        pickle.dump(found, file, protocol=5)


if __name__ == "__main__":
    main()
