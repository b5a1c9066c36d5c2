"""Export to binary glTF."""

import pathlib

from hulmo.core.io.exporter import Exporter
from hulmo.core.io.gltf_settings import SETTINGS
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values


def write_glb(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all bodies, weights, textures and the blend formula.

    Raises
    ------
    InvalidInput, FileProblem
    """
    from hulmo.core.io.glb_document import with_images  # slow to import, and needed nowhere else
    from hulmo.core.io.gltf_binary import glb_chunks
    from hulmo.core.io.gltf_document import gltf_document

    made = with_images(gltf_document(project, values, progress))
    progress.step(0.85, "writing")
    with safe_write(path) as file:
        for chunk in glb_chunks(made.document, made.binary):
            file.write(chunk)
    progress.step(1.0, "exported")


EXPORTER = Exporter(
    "glb",
    "glTF binary",
    "One file with mesh, weights, textures and the blend formula, for engines and renderers.",
    SETTINGS,
    write_glb,
)
