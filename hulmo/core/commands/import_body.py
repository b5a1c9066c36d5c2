"""Take a mesh made elsewhere into the project as a body."""

import pathlib

from hulmo.core.commands.add_body import MOST_VERTICES
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import weights_of
from hulmo.core.io.importer import read_mesh
from hulmo.core.memory import shortage
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class ImportBody(Command, frozen=True, tag="import_body"):
    """Import an OBJ, PLY, STL, GLB or glTF file as a body.

    Attributes
    ----------
    file : str
    name : str
        Empty: named after the file.
    scale : float
        Metres that one unit of the file is.
    up : str
        y or z: which axis of the file points up.
    """

    file: str
    name: str = ""
    scale: float = 1.0
    up: str = "y"

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """Read and mend; what was done is in the label of the edit. See `Command.edit`."""
        if not 1e-6 <= self.scale <= 1e6:
            raise InvalidInput(f"import_body: scale is {self.scale:g}; it must lie between 0.000001 and 1000000")
        if self.up not in ("y", "z"):
            raise InvalidInput(f"import_body: up is {self.up!r}; it must be y or z")
        found = read_mesh(pathlib.Path(self.file), progress)
        position = found.shape.position
        if position.shape[0] > MOST_VERTICES:
            raise InvalidInput(
                f"import_body: {self.file}: {position.shape[0]:,} vertices; at most {MOST_VERTICES:,} are possible"
            )
        short = shortage(position.shape[0])
        if short:
            raise InvalidInput(f"import_body: {self.file}: {position.shape[0]:,} vertices: {short}")
        if self.up == "z":
            position[:] = position[:, (0, 2, 1)] * (1.0, 1.0, -1.0)
        position *= self.scale
        progress.step(0.7, "connecting triangles")
        ident = 1 + max((body.ident for body in project.bodies), default=0)
        body = Body.from_shape(project.free_body_name(self.name or found.name), found.shape, ident)
        weights_of(body, len(project.grounds))
        progress.step(0.85, "making the spatial index")
        _ = body.index
        told = f" ({'; '.join(found.account)})" if found.account else ""
        return Edit(f"Import {body.name}{told}", (FieldDelta("bodies", project.bodies, (*project.bodies, body)),))
