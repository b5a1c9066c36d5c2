"""Reading PLY (Turk 1994): faces with colours, texture coordinates and ground weights."""

import json
import pathlib
from typing import Any

import msgspec
import numpy as np
import plyfile
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.io.mesh_parts import Part, Read

LISTS = ("vertex_indices", "vertex_index")

BYTES = {
    name.encode(): size
    for size, names in ((1, "char uchar int8 uint8"), (2, "short ushort int16 uint16"),
                        (4, "int uint float int32 uint32 float32"), (8, "double float64"))
    for name in names.split()
}  # fmt: skip
"""Bytes of a value in a binary file, by the name of its type; of a list: of its length."""

PAIRS = (("s", "t"), ("u", "v"), ("texture_u", "texture_v"))
"""Names of texture coordinates (common practice, no source)."""


def read_ply(path: pathlib.Path, apart: bool = False) -> Read:
    """All faces, polygons as fans.

    Raises
    ------
    FileProblem
    """
    data = _data(path)
    names = [element.name for element in data.elements]
    if "vertex" not in names or "face" not in names:
        raise FileProblem(f"{path}: holds no faces; its elements are {', '.join(names) or 'none'}")
    vertex = data["vertex"].data
    fields = vertex.dtype.names or ()
    if not {"x", "y", "z"} <= set(fields):
        raise FileProblem(f"{path}: its vertices have no x, y and z")
    position = np.column_stack([_column(vertex, axis) for axis in "xyz"])
    part = Part(position, _triangles(path, data))
    pair = next((pair for pair in PAIRS if set(pair) <= set(fields)), None)
    there = part.triangles.size > 0 and part.triangles.min() >= 0 and part.triangles.max() < position.shape[0]
    if pair is not None and there:
        uv = np.column_stack([_column(vertex, name) for name in pair]).astype(np.float32)
        uv[:, 1] = 1.0 - uv[:, 1]  # origin at the lower left there
        part.uv = uv[part.triangles]
    if {"red", "green", "blue"} <= set(fields):
        part.colour = np.ones((position.shape[0], 4), np.float32)
        for i, name in enumerate(("red", "green", "blue", "alpha")):
            if name in fields:
                top = float(np.iinfo(vertex[name].dtype).max) if vertex[name].dtype.kind in "iu" else 1.0
                part.colour[:, i] = _column(vertex, name) / top
    tint = [f"tint_{name}" for name in ("red", "green", "blue", "cover")]
    if set(tint) <= set(fields):
        part.tint = np.column_stack([_column(vertex, name) for name in tint]).astype(np.float32)
    grounds = _grounds(data.comments)
    columns = [f"ground_{i}" for i in range(len(grounds) or 16) if f"ground_{i}" in fields]
    if columns:
        part.weights = np.column_stack([_column(vertex, name) for name in columns]).astype(np.float32)
        if len(grounds) != len(columns):
            grounds = [Ground(f"Ground {i + 1}", "", 2.0, plain=PARTS) for i in range(len(columns))]
    return Read([part], grounds if columns else [])


def _data(path: pathlib.Path) -> Any:
    try:
        _check_length(path)
        return plyfile.PlyData.read(str(path), known_list_len={"face": dict.fromkeys(LISTS, 3)})
    except FileProblem:
        raise
    except plyfile.PlyElementParseError:
        pass  # polygons of other sizes, read more slowly
    except (plyfile.PlyParseError, ValueError, OSError, OverflowError, UnicodeDecodeError, KeyError) as error:
        raise FileProblem(f"{path}: no PLY that can be read, or damaged ({error})") from error
    try:
        return plyfile.PlyData.read(str(path))
    except Exception as error:  # what a damaged table makes of the reader nobody lists
        raise FileProblem(f"{path}: no PLY that can be read, or damaged ({error})") from error


def _check_length(path: pathlib.Path) -> None:
    # memory is not asked for what is not there: the header says how many rows of how many values come
    least = rows = 0
    text = False
    with path.open("rb") as file:
        for _ in range(1000):
            words = file.readline(10000).split()
            if words[:1] == [b"end_header"] or (not words and not file.read(1)):
                break
            if words[:1] == [b"format"]:
                text = words[1:2] == [b"ascii"]
            elif words[:1] == [b"element"] and len(words) == 3:
                rows = max(int(words[2]), 0)
                least += rows if text else 0
            elif words[:1] == [b"property"] and len(words) >= 3:
                kind = words[2] if words[1] == b"list" else words[1]
                least += rows * (1 if text else BYTES.get(kind, 1))
    if path.stat().st_size < least:
        raise FileProblem(f"{path}: is shorter than its header says; it is cut or damaged")


def _column(vertex: Any, name: str) -> NDArray[np.float64]:
    values = vertex[name]
    if values.dtype == object:
        raise ValueError(f"the vertex property {name} is a list")
    return np.asarray(values, np.float64)


def _triangles(path: pathlib.Path, data: Any) -> NDArray[np.int64]:
    face = data["face"].data
    name = next((name for name in LISTS if name in (face.dtype.names or ())), None)
    if name is None:
        raise FileProblem(f"{path}: its faces have no list of vertices")
    column = face[name]
    if column.dtype != object:
        return np.asarray(column, np.int64).reshape(-1, 3)
    sizes = np.array([len(entry) for entry in column], np.int64)
    fans = []
    for size in np.unique(sizes[sizes >= 3]).tolist():
        corners = np.stack(column[sizes == size].tolist()).astype(np.int64)
        fans += [corners[:, (0, i, i + 1)] for i in range(1, size - 1)]
    return np.concatenate(fans) if fans else np.empty((0, 3), np.int64)


def _grounds(comments: list[str]) -> list[Ground]:
    # "comment ground_0 {...}", as `ply.py` writes them
    out: list[Ground] = []
    for comment in comments:
        head, _, text = comment.partition(" ")
        if head != f"ground_{len(out)}":
            continue
        try:
            ground = msgspec.convert(json.loads(text), Ground, strict=True)
        except (ValueError, RecursionError, msgspec.ValidationError):
            return []
        if ground.texture and ground.texture not in shipped():
            ground = msgspec.structs.replace(ground, texture="", plain=PARTS)
        out.append(ground)
    return out
