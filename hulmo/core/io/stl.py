"""Export to binary STL (3D Systems 1989)."""

import pathlib
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.io.axes import HAND, SETTINGS, faced, placed
from hulmo.core.io.delivery import deliver
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values
from hulmo.core.workers import ahead

ROWS = 50_000
"""Triangles that are written at a time."""

RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attributes", "<u2")])

HEAD = b"Triangles of a Hulmo project; units and up axis as asked for on export"


def write_stl(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write the triangles of all shown bodies, each with its normal; the format knows nothing else.

    Raises
    ------
    InvalidInput, FileProblem
    """
    progress.step(0.0, "collecting triangles")
    bodies, _ = deliver(project)
    with safe_write(path) as file:
        file.write(HEAD.ljust(80))
        file.write(np.uint32(sum(len(body.triangles) for body in bodies)).tobytes())
        for done, body in enumerate(bodies):
            progress.step(0.1 + 0.9 * done / len(bodies), f"writing {body.name}")
            position, _ = placed(body, values)
            triangles = faced(body, values)
            parts = (position[triangles[start : start + ROWS]] for start in range(0, len(triangles), ROWS))
            for piece in ahead(_records, parts):
                file.write(piece.data)
    progress.step(1.0, "exported")


def _records(corner: NDArray[np.floating]) -> NDArray[Any]:
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    size = np.linalg.norm(normal, axis=1, keepdims=True)
    out = np.zeros(len(corner), RECORD)
    out["normal"], out["corners"] = normal / np.where(size > 0, size, 1.0), corner
    return out


EXPORTER = Exporter(
    "stl", "STL", "Triangles alone, for printers and tools that take nothing else.", (*SETTINGS, HAND), write_stl
)
