"""Export to binary glTF."""

import pathlib

from hulmo.core.io.exporter import Exporter
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Choice, Values


def write_glb(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all bodies, weights, textures and the blend formula.

    Raises
    ------
    InvalidInput, FileProblem
    """
    from hulmo.core.io.glb_document import glb_document  # slow to import, and needed nowhere else

    data = glb_document(project, str(values["colour"]), progress, str(values["props"]))
    progress.step(0.85, "writing")
    with safe_write(path) as file:
        file.write(data)
    progress.step(1.0, "exported")


EXPORTER = Exporter(
    "glb",
    "glTF binary",
    "One file with mesh, weights, textures and the blend formula, for engines and renderers.",
    (
        Choice(
            "colour",
            "Vertex colour",
            (
                ("mean", "Mean colour", "The blended colour of the grounds: looks right in any viewer."),
                (
                    "weights",
                    "Four weights",
                    "Of the four grounds that cover most, for engines that read no more.",
                ),
            ),
            "mean",
            "What the vertex colour holds. The ground weights are always in the file besides.",
        ),
        Choice(
            "props",
            "Dress",
            (
                ("instances", "Props as instances", "Waters, lamps, cameras, and each prop once with all its places."),
                ("nodes", "Props as nodes", "The same with a node for every prop, for engines without instancing."),
                ("none", "Ground alone", "Neither waters, props, lamps nor cameras."),
            ),
            "instances",
            "What comes along beside the ground.",
        ),
    ),
    write_glb,
)
