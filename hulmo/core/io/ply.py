"""Export to binary PLY (Turk 1994)."""

import json
import pathlib
from collections.abc import Iterator
from functools import partial
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

import hulmo
from hulmo.core.colour import linear_to_srgb
from hulmo.core.io.axes import HAND, faced, placed
from hulmo.core.io.axes import SETTINGS as AXES
from hulmo.core.io.delivery import Delivery, deliver
from hulmo.core.io.dress_note import write_dress_note
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Switch, Values
from hulmo.core.workers import ahead

ROWS = 50_000
"""Vertices and faces that are written at a time."""


def write_ply(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all shown bodies as one mesh: position (double where bodies lie far from zero), normal, texture coordinates where
    all have them (origin at the lower left), mean colour (sRGB bytes), `ground_0`, `ground_1`, ... (float) and tint.

    A comment names the values of each ground. Waters, props, lamps and viewpoints are noted in a JSON beside the file.

    Raises
    ------
    InvalidInput, FileProblem
    """
    progress.step(0.0, "collecting vertices")
    bodies, used = deliver(project)
    offsets = np.cumsum([0, *(len(body.position) for body in bodies)]).tolist()
    far = any(any(body.origin) for body in bodies)
    parts: list[tuple[str, str, tuple[str, ...]]] = [("place", "f8" if far else "f4", ("x", "y", "z"))]
    parts.append(("normal", "f4", ("nx", "ny", "nz")))
    if all(body.uv is not None for body in bodies):
        parts.append(("uv", "f4", ("s", "t")))
    parts.append(("colour", "u1", ("red", "green", "blue")))
    parts.append(("share", "f4", tuple(f"ground_{i}" for i in range(len(used)))))
    if any(body.tint is not None for body in bodies):
        parts.append(("tint", "f4", tuple(f"tint_{name}" for name in ("red", "green", "blue", "cover"))))
    vertex = np.dtype([(part, f"<{kind}", (len(names),)) for part, kind, names in parts])
    face = np.dtype([("count", "u1"), ("vertex_indices", "<i4", (3,))])
    grounds = [project.grounds[column] for column in used]
    comments = [f"written by Hulmo {hulmo.__version__}: ground_0, ground_1, ... are shares of"]
    comments += [f"ground_{i} {json.dumps(msgspec.to_builtins(ground))}" for i, ground in enumerate(grounds)]
    names = [(name, kind) for _, kind, names in parts for name in names]
    progress.step(0.3, "writing")
    with safe_write(path) as file:
        file.write(_head(names, offsets[-1], sum(len(body.triangles) for body in bodies), comments))
        for body in bodies:
            for rows in _vertices(body, vertex, len(used), values):
                file.write(rows.data)
        for body, offset in zip(bodies, offsets, strict=False):
            triangles = faced(body, values)
            for faces in ahead(partial(_faces, triangles, face, offset), range(0, len(triangles), ROWS)):
                file.write(faces.data)
    if values["dress"]:
        progress.step(0.8, "noting the dress")
        write_dress_note(project, path, progress.part(0.8, 1.0))
    progress.step(1.0, "exported")


def _vertices(body: Delivery, kinds: np.dtype[Any], grounds: int, values: Values) -> Iterator[NDArray[Any]]:
    place, normal = placed(body, values)

    def some(start: int) -> NDArray[Any]:
        which = slice(start, start + ROWS)
        rows = np.zeros(len(place[which]), kinds)
        rows["place"], rows["normal"] = place[which], normal[which]
        if "uv" in rows.dtype.names and body.uv is not None:
            rows["uv"] = body.uv[which] * np.array([1, -1], np.float32) + np.array([0, 1], np.float32)
        rows["colour"] = np.rint(linear_to_srgb(body.colour(which)) * 255)
        rows["share"] = body.weights(which)[:, :grounds] / np.float32(65535)
        if body.tint is not None:
            rows["tint"] = body.tint[which]
        return rows

    return ahead(some, range(0, len(place), ROWS))


def _faces(triangles: NDArray[Any], kind: np.dtype[Any], offset: int, start: int) -> NDArray[Any]:
    out = np.empty(len(triangles[start : start + ROWS]), kind)
    out["count"], out["vertex_indices"] = 3, triangles[start : start + ROWS] + offset
    return out


def _head(columns: list[tuple[str, str]], vertices: int, faces: int, comments: list[str]) -> bytes:
    # by the library; it writes faces one by one, and so they are written here
    import plyfile  # needed nowhere else on this way

    vertex = plyfile.PlyElement.describe(np.empty(0, columns), "vertex")
    face = plyfile.PlyElement.describe(np.empty(0, [("vertex_indices", "i4", (3,))]), "face")
    head = str(plyfile.PlyData([vertex, face], text=False, byte_order="<", comments=comments).header)
    for name, count in (("vertex", vertices), ("face", faces)):
        head = head.replace(f"element {name} 0\n", f"element {name} {count}\n", 1)
    return head.encode("ascii") + b"\n"


EXPORTER = Exporter(
    "ply",
    "PLY",
    "Mesh with colours and weights as named vertex properties, for tools and scripts.",
    (
        *AXES,
        HAND,
        Switch(
            "dress",
            "Note of the dress",
            True,
            "Waters, places of props, lamps, sun and viewpoints in a JSON beside the "
            "file, in metres with +Y up; there is none where the scene has nothing of these.",
        ),
    ),
    write_ply,
)
