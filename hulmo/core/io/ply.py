"""Export to binary PLY (Turk, "The PLY polygon file format", 1994)."""

import pathlib

import numpy as np

from hulmo.core.colour import linear_to_srgb
from hulmo.core.io.delivery import deliver
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values


def write_ply(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all bodies as one mesh: position, normal, mean colour (sRGB bytes), and `ground_0`, `ground_1`, ... (float).

    Raises
    ------
    InvalidInput, FileProblem
    """
    import trimesh  # slow to import, and needed nowhere else

    progress.step(0.0, "collecting vertices")
    bodies = deliver(project)
    offsets = np.cumsum([0, *(body.position.shape[0] for body in bodies)])
    progress.step(0.3, "joining bodies")
    weights = np.concatenate([body.weights for body in bodies]).astype(np.float32) / np.float32(65535)
    colour = np.concatenate([body.colour for body in bodies])
    mesh = trimesh.Trimesh(
        np.concatenate([body.position for body in bodies]),
        np.concatenate([body.triangles + offset for body, offset in zip(bodies, offsets, strict=False)]),
        vertex_normals=np.concatenate([body.normal for body in bodies]),
        vertex_colors=np.rint(linear_to_srgb(colour) * 255).astype(np.uint8),
        process=False,
    )
    for ground in range(len(project.grounds)):
        mesh.vertex_attributes[f"ground_{ground}"] = np.ascontiguousarray(weights[:, ground])
    progress.step(0.5, "writing")
    data = trimesh.exchange.ply.export_ply(mesh, encoding="binary", vertex_normal=True, include_attributes=True)
    with safe_write(path) as file:
        file.write(data)
    progress.step(1.0, "exported")


EXPORTER = Exporter(
    "ply",
    "PLY",
    "Mesh with colours and weights as named vertex properties, for tools and scripts.",
    (),
    write_ply,
)
