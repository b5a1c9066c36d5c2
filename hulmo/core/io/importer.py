"""Reading meshes made elsewhere: OBJ, PLY, STL, GLB and glTF."""

import pathlib
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.mesh.forms.form import Shape
from hulmo.core.progress import Progress
from hulmo.core.topology.mend import mend, same_rows

ENDINGS = ("obj", "ply", "stl", "glb", "gltf")

LARGEST = 4_000_000_000
"""Bytes of a file that is read at the most."""

WELDED = ("stl",)
"""Formats whose triangles share no vertices; those in the same place are made one."""


@dataclass(frozen=True)
class Imported:
    """A mesh as it was read, mended.

    Attributes
    ----------
    name : str
    shape : Shape
    account : list of str
        What was done to it.
    """

    name: str
    shape: Shape
    account: list[str]


def read_mesh(path: pathlib.Path, progress: Progress) -> Imported:
    """Read all meshes of a file as one.

    Raises
    ------
    FileProblem
        The file cannot be read, is damaged, or holds no triangles; the message says which.
    """
    ending = path.suffix.lower().lstrip(".")
    if ending not in ENDINGS:
        raise FileProblem(f"{path}: cannot be imported; choose one of {', '.join('.' + name for name in ENDINGS)}")
    try:
        size = path.stat().st_size
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
    if size > LARGEST:
        raise FileProblem(f"{path}: {size / 1e9:.1f} GB is more than can be read; split it first")
    progress.step(0.05, f"reading {path.name}")
    position, triangles, uv = _load(path, ending)
    if not triangles.size:
        raise FileProblem(f"{path}: holds no triangles")
    progress.step(0.5, "mending")
    account: list[str] = []
    tolerance = 0.0
    one = _same_places(position)
    shared = np.unique(one).size
    if shared < position.shape[0]:
        # files split vertices at seams and hard edges; sculpting needs one surface
        account.append(f"{position.shape[0] - shared:,} vertices in the same place made one")
        triangles = one[np.clip(triangles, 0, position.shape[0] - 1)] if _there(triangles, position) else triangles
    result = mend(position, triangles, tolerance)
    account += result.account
    if not result.triangles.size:
        raise FileProblem(f"{path}: holds no triangle that can be used ({'; '.join(account)})")
    shape_uv = None
    if uv is not None:
        shape_uv = uv[result.faces]
        shape_uv[result.turned] = shape_uv[result.turned][:, (0, 2, 1)]
        if not np.isfinite(shape_uv).all():
            account.append("texture coordinates left out: some are not finite")
            shape_uv = None
    shape = Shape(np.ascontiguousarray(position[result.source], np.float32), result.triangles, shape_uv)
    return Imported(path.stem, shape, account)


def _there(triangles: NDArray[np.int64], position: NDArray[np.float32]) -> bool:
    return bool(triangles.min(initial=0) >= 0 and triangles.max(initial=0) < position.shape[0])


def _same_places(position: NDArray[np.float32]) -> NDArray[np.int64]:
    # the first vertex with exactly the same position stands for it
    plain = np.ascontiguousarray(position + np.float32(0.0))  # -0 becomes 0
    return same_rows(plain.view(np.uint32))


def _load(path: pathlib.Path, ending: str) -> tuple[NDArray[np.float32], NDArray[np.int64], NDArray[np.float32] | None]:
    import trimesh  # slow to import, and needed nowhere else

    try:
        with path.open("rb") as file:
            scene: Any = trimesh.load(file, file_type=ending, process=False, force="scene", resolver=_Nowhere())  # type: ignore[arg-type]
        meshes = [mesh for mesh in scene.dump() if isinstance(mesh, trimesh.Trimesh)]
    except MemoryError:
        raise
    except Exception as error:  # the readers raise all kinds for damaged files
        raise FileProblem(f"{path}: damaged, or no mesh that can be read ({type(error).__name__}: {error})") from error
    positions, triangles, count = [], [], 0
    uvs: list[NDArray[np.float32] | None] = []
    for mesh in meshes:
        vertices = np.asarray(mesh.vertices, np.float32).reshape(-1, 3)
        faces = np.asarray(mesh.faces, np.int64).reshape(-1, 3)
        positions.append(vertices)
        triangles.append(faces + count)
        count += vertices.shape[0]
        uv = getattr(mesh.visual, "uv", None)
        if (
            uv is not None
            and len(uv) == vertices.shape[0]
            and faces.size
            and faces.max() < vertices.shape[0]
            and faces.min() >= 0
        ):
            uvs.append(np.asarray(uv, np.float32)[faces])
        else:
            uvs.append(None)
    if not positions:
        return np.empty((0, 3), np.float32), np.empty((0, 3), np.int64), None
    whole = (
        np.concatenate([part for part in uvs if part is not None]) if all(part is not None for part in uvs) else None
    )
    return np.concatenate(positions), np.concatenate(triangles), whole


class _Nowhere:
    """Answers every request for a file beside the mesh with "not there": nothing but the mesh itself is read."""

    def get(self, name: str) -> bytes:
        raise FileNotFoundError(name)

    def keys(self) -> list[str]:
        return []

    def namespaced(self, namespace: str) -> "_Nowhere":
        return self
