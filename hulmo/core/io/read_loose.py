"""Reading OBJ and STL, which know neither units nor weights."""

import pathlib
from typing import Any

import numpy as np

from hulmo.core.errors import FileProblem
from hulmo.core.io.mesh_parts import Part, Read


def read_loose(path: pathlib.Path, apart: bool = False) -> Read:
    """All triangles of an OBJ or STL file; `apart`: objects and groups of an OBJ file by themselves.

    Raises
    ------
    FileProblem
    """
    import trimesh  # slow to import, and needed nowhere else

    ending = path.suffix.lower().lstrip(".")
    try:
        with path.open("rb") as file:
            if ending == "stl":
                _check_stl(path, file.read(84))
                file.seek(0)
            by_name = {"split_objects": True, "split_groups": True, "group_material": False}
            split: Any = by_name if apart and ending == "obj" else {}
            here: Any = _Nowhere()
            scene: Any = trimesh.load(file, file_type=ending, process=False, force="scene", resolver=here, **split)
        found = [mesh for mesh in scene.dump() if isinstance(mesh, trimesh.Trimesh)]
        meshes = [(str(mesh.metadata.get("name", "")) if apart else "", mesh) for mesh in found]
        if apart:  # the library gives them in no order
            meshes.sort(key=lambda entry: entry[0])
    except (FileProblem, MemoryError):
        raise
    except Exception as error:  # the readers raise all kinds for damaged files
        raise FileProblem(f"{path}: damaged, or no mesh that can be read ({type(error).__name__}: {error})") from error
    parts = []
    for name, mesh in meshes:
        position = np.asarray(mesh.vertices, np.float64).reshape(-1, 3)
        part = Part(position, np.asarray(mesh.faces, np.int64).reshape(-1, 3), name=name)
        visual: Any = mesh.visual
        uv = getattr(visual, "uv", None)
        there = part.triangles.size > 0 and part.triangles.min() >= 0 and part.triangles.max() < position.shape[0]
        if (
            uv is not None
            and there
            and np.ndim(uv) == 2
            and np.shape(uv)[0] == position.shape[0]
            and np.shape(uv)[1] >= 2
        ):
            flat = np.array(uv, np.float32)[:, :2]
            flat[:, 1] = 1.0 - flat[:, 1]  # origin at the lower left there
            part.uv = flat[part.triangles]
        if visual.kind == "vertex" and there and len(visual.vertex_colors) == position.shape[0]:
            part.colour = np.asarray(visual.vertex_colors, np.float32) / 255.0
        parts.append(part)
    return Read(parts)


def _check_stl(path: pathlib.Path, head: bytes) -> None:
    # a binary one says how many triangles come; memory is not asked for what is not there
    if head[:5].lower() == b"solid" or len(head) < 84:
        return
    if 84 + 50 * int.from_bytes(head[80:84], "little") > path.stat().st_size:
        raise FileProblem(f"{path}: is shorter than its count of triangles says; it is cut or damaged")


class _Nowhere:
    """Answers every request for a file beside the mesh with "not there": nothing but the mesh itself is read."""

    def get(self, name: str) -> bytes:
        raise FileNotFoundError(name)

    def __getitem__(self, name: str) -> bytes:
        raise FileNotFoundError(name)

    def keys(self) -> list[str]:
        return []

    def namespaced(self, namespace: str) -> "_Nowhere":
        return self
