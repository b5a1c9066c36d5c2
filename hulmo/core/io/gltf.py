"""Export to glTF as a document with its numbers and images in files beside it."""

import pathlib
from urllib.parse import quote

from hulmo.core.io.exporter import Exporter
from hulmo.core.io.gltf_settings import SETTINGS
from hulmo.core.io.images_beside import SETTING, folder_of, named_images, write_beside
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values


def write_gltf(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all bodies, weights, textures and the blend formula.

    Raises
    ------
    InvalidInput, FileProblem
    """
    from hulmo.core.io.glb_document import mime_type  # slow to import, and needed nowhere else
    from hulmo.core.io.gltf_document import gltf_document

    made = gltf_document(project, values, progress)
    document, binary = made.document, made.binary
    images = named_images(made.images, folder_of(path, values))
    for image, (name, data) in zip(document.images, images.items(), strict=True):
        image.uri, image.mimeType = quote(name), mime_type(data)
    binary.tell(document)
    document.buffers[0].uri = quote(f"{path.stem}.bin")
    progress.step(0.85, "writing")
    write_beside(path, images)
    # both whole before either is put in place: an older document keeps the numbers it was written with
    with safe_write(path) as file, safe_write(path.with_suffix(".bin")) as numbers:
        for part in binary.chunk():
            numbers.write(part)
        file.write(document.gltf_to_json(separators=(",", ":"), indent=None).encode())
    progress.step(1.0, "exported")


EXPORTER = Exporter(
    "gltf",
    "glTF in files",
    "A document, its numbers and its images as files, so that several documents can share their images.",
    (*SETTINGS, SETTING),
    write_gltf,
)
