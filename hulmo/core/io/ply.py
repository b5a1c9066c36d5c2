"""Export to binary PLY (Turk 1994)."""

import json
import pathlib
from typing import Any

import msgspec
import numpy as np

import hulmo
from hulmo.core.colour import linear_to_srgb
from hulmo.core.io.axes import HAND, faced, placed
from hulmo.core.io.axes import SETTINGS as AXES
from hulmo.core.io.delivery import deliver
from hulmo.core.io.dress_note import write_dress_note
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Switch, Values


def write_ply(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all shown bodies as one mesh: position (double where bodies lie far from zero), normal, texture coordinates where
    all have them (origin at the lower left), mean colour (sRGB bytes), `ground_0`, `ground_1`, ... (float) and tint.

    A comment names the values of each ground. Waters, props, lamps and viewpoints are noted in a JSON beside the file.

    Raises
    ------
    InvalidInput, FileProblem
    """
    import plyfile  # needed nowhere else on this way

    progress.step(0.0, "collecting vertices")
    bodies, used = deliver(project)
    counts = [body.position.shape[0] for body in bodies]
    offsets = np.cumsum([0, *counts])
    progress.step(0.3, "joining bodies")
    far = any(any(body.origin) for body in bodies)
    columns: list[tuple[str, str, Any]] = []

    def add(names: tuple[str, ...], kind: str, parts: list[Any]) -> None:
        whole = np.concatenate(parts)
        columns.extend((name, kind, whole[:, i]) for i, name in enumerate(names))

    laid = [placed(body, values) for body in bodies]
    add(("x", "y", "z"), "f8" if far else "f4", [place for place, _ in laid])
    add(("nx", "ny", "nz"), "f4", [normal for _, normal in laid])
    if all(body.uv is not None for body in bodies):
        down, up = np.array([1, -1], np.float32), np.array([0, 1], np.float32)
        add(("s", "t"), "f4", [body.uv * down + up for body in bodies if body.uv is not None])
    colour = [np.rint(linear_to_srgb(body.colour) * 255).astype(np.uint8) for body in bodies]
    add(("red", "green", "blue"), "u1", colour)
    weights = [body.weights[:, : len(used)].astype(np.float32) / np.float32(65535) for body in bodies]
    add(tuple(f"ground_{i}" for i in range(len(used))), "f4", weights)
    if any(body.tint is not None for body in bodies):
        blank = [np.zeros((count, 4), np.float32) for count in counts]
        tint = [none if body.tint is None else body.tint for body, none in zip(bodies, blank, strict=True)]
        add(tuple(f"tint_{name}" for name in ("red", "green", "blue", "cover")), "f4", tint)
    vertex = np.empty(int(offsets[-1]), [(name, kind) for name, kind, _ in columns])
    for name, _, column in columns:
        vertex[name] = column
    triangles = np.concatenate([faced(body, values) + offset for body, offset in zip(bodies, offsets, strict=False)])
    face = np.empty(triangles.shape[0], [("vertex_indices", "i4", (3,))])
    face["vertex_indices"] = triangles
    grounds = [project.grounds[column] for column in used]
    comments = [f"written by Hulmo {hulmo.__version__}: ground_0, ground_1, ... are shares of"]
    comments += [f"ground_{i} {json.dumps(msgspec.to_builtins(ground))}" for i, ground in enumerate(grounds)]
    elements = [plyfile.PlyElement.describe(vertex, "vertex"), plyfile.PlyElement.describe(face, "face")]
    progress.step(0.5, "writing")
    with safe_write(path) as file:
        plyfile.PlyData(elements, text=False, byte_order="<", comments=comments).write(file)
    if values["dress"]:
        progress.step(0.8, "noting the dress")
        write_dress_note(project, path, progress.part(0.8, 1.0))
    progress.step(1.0, "exported")


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
