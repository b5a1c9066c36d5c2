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
from hulmo.core.counted import counted
from hulmo.core.edit import Delta, Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.check_ground import check_ground, check_room
from hulmo.core.ground.columns import added
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.textures import check_images
from hulmo.core.ground.weights import HAND, WEIGHT, weights_of
from hulmo.core.io.importer import Imported, read_meshes
from hulmo.core.memory import shortage
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import REGION
from hulmo.core.named_files import located
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name

WEIGHTS = ("file", "colour", "none")
PARTS = ("one", "regions", "bodies")

MOST_PARTS, MOST_LETTERS = 1000, 100
"""Bodies that may come of one file, and letters of their names."""

Shares = NDArray[np.float32]


class ImportBody(Command, frozen=True, tag="import_body"):
    """Import an OBJ, PLY, STL, GLB, glTF or USD file as a body.

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
    parts : str
        one: all meshes of the file as one body; regions: the same, and every part is a region of its faces; bodies: every
        part (object or group of an OBJ file, node of a glTF file) becomes a body with its name.
    """

    file: str
    name: str = ""
    scale: float = 1.0
    up: str = "y"
    weights: str = "file"
    parts: str = "one"

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
        given = (("up", self.up, ("y", "z")), ("weights", self.weights, WEIGHTS), ("parts", self.parts, PARTS))
        for name, value, known in given:
            if value not in known:
                raise InvalidInput(f"import_body: {name} is {value!r}; it must be one of {', '.join(known)}")
        meshes = read_meshes(pathlib.Path(self.file), progress, self.scale, self.up, self.parts)
        if len(meshes) > MOST_PARTS:
            raise InvalidInput(
                f"import_body: {self.file}: has {len(meshes):,} parts; at most {MOST_PARTS} bodies can come of it"
            )
        count = sum(found.shape.position.shape[0] for found in meshes)
        if count > MOST_VERTICES:
            raise InvalidInput(f"import_body: {self.file}: {count:,} vertices; at most {MOST_VERTICES:,} are possible")
        short = shortage(count)
        if short:
            raise InvalidInput(f"import_body: {self.file}: {count:,} vertices: {short}")
        progress.step(0.7, "connecting triangles")
        deltas: list[Delta] = []
        grounds, columns = project.grounds, list[int]()
        if self.weights == "file" and any(found.whole.weights is not None for found in meshes):
            grounds, columns = self._palette(project, meshes[0], deltas)
        elif self.weights == "colour" and all(found.whole.colour is None for found in meshes):
            raise InvalidInput(f"import_body: {self.file}: has no vertex colours to take weights from")
        ident = max((body.ident for body in project.bodies), default=0)
        bodies, account = list(project.bodies), list[str]()
        taken = [body.name for body in bodies]
        for number, found in enumerate(meshes):
            progress.step(0.7 + 0.3 * number / len(meshes), "making the spatial index")
            wanted = found.name
            if len(meshes) == 1:
                wanted = self.name or (wanted if self.parts != "bodies" else pathlib.Path(self.file).stem)
            else:
                wanted = _plain(wanted) or f"Part {number + 1}"
            body = Body.from_shape(free_name(wanted, taken), found.shape, ident + 1 + number)
            taken.append(body.name)
            body.origin = found.origin
            if found.region is not None:
                body.corners.slots.set("face", REGION, found.region[:, None, None].astype(np.float32))
            self._lay(body, found, len(grounds), columns)
            _ = body.index
            bodies.append(body)
            account += [entry for entry in found.account if entry not in account]
        if columns:
            account.append(f"{counted(len(columns), 'ground')} with their weights")
        told = f" ({'; '.join(account)})" if account else ""
        deltas.append(FieldDelta("bodies", project.bodies, tuple(bodies)))
        what = bodies[-1].name if len(meshes) == 1 else f"{len(meshes)} bodies from {pathlib.Path(self.file).name}"
        return Edit(f"Import {what}{told}", tuple(deltas))

    def _lay(self, body: Body, found: Imported, grounds: int, columns: list[int]) -> None:
        # grounds and tint of a new body as the file has them
        count = body.vertices.count
        shares: Shares | None = None
        if columns and found.whole.weights is not None:
            shares = np.zeros((count, grounds), np.float32)
            for i, column in enumerate(columns):
                shares[:, column] += found.whole.weights[:, i]
        elif self.weights == "colour" and found.whole.colour is not None:
            used = min(4, grounds)
            shares = np.zeros((count, grounds), np.float32)
            shares[:, :used] = found.whole.colour[:, :used]
            if used == 4 and (found.whole.colour[:, 3] == 1.0).all():
                shares[:, 3] = 0.0  # no alpha that says anything
        weights_of(body, grounds)
        if shares is not None:
            shares = np.maximum(shares, 0.0)
            total = shares.sum(axis=1, keepdims=True)
            body.vertices[WEIGHT][:] = np.where(
                total > 0, shares / np.where(total > 0, total, 1.0), body.vertices[WEIGHT]
            )
            body.vertices[HAND][:] = body.vertices[WEIGHT]
        if found.whole.tint is not None and found.whole.tint.any():
            body.vertices.set_column(TINT, np.clip(found.whole.tint, 0.0, 1.0))

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


def _plain(name: str) -> str:
    # a name out of a file as one that a body can have
    return "".join(letter for letter in name if letter.isprintable()).strip()[:MOST_LETTERS].strip()
