"""A project as binary glTF: one file with its images (glTF 2.0, section 4)."""

from hulmo.core.ground.textures import extension_of
from hulmo.core.io.gltf_binary import glb_chunks
from hulmo.core.io.gltf_document import Document, gltf_document
from hulmo.core.progress import Progress
from hulmo.core.project import Project


def with_images(made: Document) -> Document:
    """The same with its images in the binary chunk."""
    document, binary = made.document, made.binary
    for image, picture in zip(document.images, made.images, strict=True):
        image.mimeType = mime_type(picture.data)
        image.bufferView = binary.view(picture.data, None)
    binary.tell(document)
    return made


def mime_type(data: bytes) -> str:
    """Of an image."""
    return "image/png" if extension_of(data) == "png" else "image/jpeg"


def glb_document(project: Project, colour: str, progress: Progress, **values: str | float) -> bytes:
    """The whole file in memory; `colour` and the rest are settings of `gltf_settings`.

    Raises
    ------
    InvalidInput, FileProblem
    """
    made = with_images(gltf_document(project, {"colour": colour, **values}, progress))
    return b"".join(glb_chunks(made.document, made.binary))
