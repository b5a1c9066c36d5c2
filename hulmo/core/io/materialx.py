"""Export of the ground blend as a MaterialX document with its images."""

import pathlib
from typing import Any

from hulmo.core.io.delivery import deliver
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.ground_record import ground_records
from hulmo.core.io.images_beside import SETTING as IMAGES
from hulmo.core.io.images_beside import folder_of, named_images, write_beside
from hulmo.core.io.materialx_graph import BlendGraph, define_along
from hulmo.core.io.materialx_tables import tables_of
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Choice, Values

SURFACES = {"lit": "standard_surface", "unlit": "surface_unlit"}


def materialx_document(project: Project, folder: str, surface: str = "lit") -> tuple[Any, dict[str, bytes]]:
    """The document, and the images that it names by relative file names.

    Grounds are mapped by position in the space of the object; shares come from the float primvars `ground_0`, `ground_1`, …
    and tint from `tint` and `tint_cover`, as the USD export writes them. Chance in broken-up repeats and variation comes from
    images of its own. Normal maps and mapping by UV are left out.

    Raises
    ------
    InvalidInput, FileProblem
    """
    import MaterialX  # slow to import, and needed nowhere else

    bodies, used = deliver(project)
    grounds = [project.grounds[column] for column in used]
    pictures, records = ground_records(project, grounds)
    images = named_images(pictures, folder)
    document = MaterialX.createDocument()
    document.setColorSpace("lin_rec709")
    define_along(document)
    graph = document.addNodeGraph("Grounds")
    build = BlendGraph(graph)
    tables = tables_of(bodies, grounds, project.textures, folder)
    colour, rough = build.blend(grounds, records, list(images), project.blend, tables)
    images |= tables.images
    for name, (node, kind) in (("base_colour", colour), ("roughness", rough)):
        out = graph.addOutput(name, kind)
        out.setNodeName(node.getName())
    shader = document.addNode(SURFACES[surface], "Surface", "surfaceshader")
    names = {"base_color": "base_colour", "specular_roughness": "roughness"}
    if surface == "unlit":
        names = {"emission_color": "base_colour"}
    for name, output in names.items():
        entry = shader.addInput(name, "color3" if output == "base_colour" else "float")
        entry.setNodeGraphString("Grounds")
        entry.setOutputString(output)
    material = document.addNode("surfacematerial", "Blended_grounds", "material")
    entry = material.addInput("surfaceshader", "surfaceshader")
    entry.setNodeName("Surface")
    return document, images


def write_materialx(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write the document, and its images into a folder beside it.

    Raises
    ------
    InvalidInput, FileProblem
    """
    import MaterialX  # slow to import, and needed nowhere else

    folder = folder_of(path, values)
    progress.step(0.1, "building the graph")
    document, images = materialx_document(project, folder, str(values["surface"]))
    progress.step(0.4, "writing images")
    write_beside(path, images)
    with safe_write(path) as file:
        file.write(MaterialX.writeToXmlString(document).encode())
    progress.step(1.0, "exported")


EXPORTER = Exporter(
    "mtlx",
    "MaterialX",
    "The blend of the grounds as a node graph, for renderers that read it; the mesh goes as USD.",
    (
        Choice(
            "surface", "Surface",
            (
                ("lit", "Standard surface", "Lit, with roughness."),
                ("unlit", "Colour alone", "Without light."),
            ),
            "lit", "What the blend is the colour of.",
        ),
        IMAGES,
    ),
    write_materialx,
)  # fmt: skip
