"""Take a mesh made elsewhere into the project as a body."""

import pathlib
from types import MappingProxyType
from typing import Self

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.add_body import MOST_VERTICES
from hulmo.core.commands.command import Command
from hulmo.core.commands.palette import palette_deltas
from hulmo.core.edit import Delta, Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.check_ground import check_ground, check_room
from hulmo.core.ground.columns import added
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.textures import check_images
from hulmo.core.ground.weights import HAND, WEIGHT, weights_of
from hulmo.core.io.importer import Imported, read_mesh
from hulmo.core.memory import shortage
from hulmo.core.mesh.body import Body
from hulmo.core.named_files import located
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name

WEIGHTS = ("file", "colour", "none")

Shares = NDArray[np.float32]


class ImportBody(Command, frozen=True, tag="import_body"):
    """Import an OBJ, PLY, STL, GLB or glTF file as a body.

    Attributes
    ----------
    file : str
        In a recipe, a relative name is taken from the folder of the recipe.
    name : str
        Empty: named after the file.
    scale : float
        Metres that one unit of the file is.
    up : str
        y or z: which axis of the file points up.
    weights : str
        file: ground weights and grounds as the file names them, where it was written here; colour: the vertex colours red,
        green, blue and alpha are the shares of the first four grounds; none.
    """

    file: str
    name: str = ""
    scale: float = 1.0
    up: str = "y"
    weights: str = "file"

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return True

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        return msgspec.structs.replace(self, file=located(folder, self.file))

    def edit(self, project: Project, progress: Progress) -> Edit:
        """Read and mend; what was done is in the label of the edit. See `Command.edit`."""
        if not 1e-6 <= self.scale <= 1e6:
            raise InvalidInput(f"import_body: scale is {self.scale:g}; it must lie between 0.000001 and 1000000")
        for name, value, known in (("up", self.up, ("y", "z")), ("weights", self.weights, WEIGHTS)):
            if value not in known:
                raise InvalidInput(f"import_body: {name} is {value!r}; it must be one of {', '.join(known)}")
        found = read_mesh(pathlib.Path(self.file), progress, self.scale, self.up)
        count = found.shape.position.shape[0]
        if count > MOST_VERTICES:
            raise InvalidInput(f"import_body: {self.file}: {count:,} vertices; at most {MOST_VERTICES:,} are possible")
        short = shortage(count)
        if short:
            raise InvalidInput(f"import_body: {self.file}: {count:,} vertices: {short}")
        progress.step(0.7, "connecting triangles")
        ident = 1 + max((body.ident for body in project.bodies), default=0)
        body = Body.from_shape(project.free_body_name(self.name or found.name), found.shape, ident)
        body.origin = found.origin
        account = list(found.account)
        deltas: list[Delta] = []
        grounds = project.grounds
        shares: Shares | None = None
        if self.weights == "file" and found.whole.weights is not None:
            grounds, columns = self._palette(project, found, deltas)
            shares = np.zeros((count, len(grounds)), np.float32)
            for i, column in enumerate(columns):
                shares[:, column] += found.whole.weights[:, i]
            account.append(f"{len(columns)} grounds with their weights")
        elif self.weights == "colour":
            if found.whole.colour is None:
                raise InvalidInput(f"import_body: {self.file}: has no vertex colours to take weights from")
            used = min(4, len(grounds))
            shares = np.zeros((count, len(grounds)), np.float32)
            shares[:, :used] = found.whole.colour[:, :used]
            if used == 4 and (found.whole.colour[:, 3] == 1.0).all():
                shares[:, 3] = 0.0  # no alpha that says anything
        weights_of(body, len(grounds))
        if shares is not None:
            shares = np.maximum(shares, 0.0)
            total = shares.sum(axis=1, keepdims=True)
            body.vertices[WEIGHT][:] = np.where(
                total > 0, shares / np.where(total > 0, total, 1.0), body.vertices[WEIGHT]
            )
            body.vertices[HAND][:] = body.vertices[WEIGHT]
        if found.whole.tint is not None and found.whole.tint.any():
            body.vertices.set_column(TINT, np.clip(found.whole.tint, 0.0, 1.0))
        progress.step(0.85, "making the spatial index")
        _ = body.index
        told = f" ({'; '.join(account)})" if account else ""
        deltas.append(FieldDelta("bodies", project.bodies, (*project.bodies, body)))
        return Edit(f"Import {body.name}{told}", tuple(deltas))

    def _palette(self, project: Project, found: Imported, deltas: list[Delta]) -> tuple[tuple[Ground, ...], list[int]]:
        # the palette with the grounds of the file, and the column that each of them has in it
        grounds = list(project.grounds)
        textures = dict(project.textures)
        columns = []
        for ground in found.read.grounds:
            known = [entry.name for entry in grounds]
            if ground.name in known:
                columns.append(known.index(ground.name))
                continue
            if ground.texture in found.read.textures:
                images = found.read.textures[ground.texture]
                check_images({ground.texture: images}, f"import_body: {self.file}: ")
                same = next((name for name, parts in textures.items() if dict(parts) == dict(images)), None)
                name = same or free_name(ground.texture, list(textures))
                textures[name] = MappingProxyType(dict(images))
                ground = msgspec.structs.replace(ground, texture=name)
            check_ground(ground, tuple(grounds), f"import_body: {self.file}")
            columns.append(len(grounds))
            grounds.append(ground)
        more = len(grounds) - len(project.grounds)
        if more:
            check_room(len(grounds), "import_body")
            if len(textures) > len(project.textures):
                deltas.append(FieldDelta("textures", project.textures, MappingProxyType(textures)))
            deltas += palette_deltas(project, tuple(grounds), lambda weights: added(weights, more))
        return tuple(grounds), columns
