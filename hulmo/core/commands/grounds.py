"""Add, change and remove grounds of the palette."""

import math
import pathlib
from types import MappingProxyType

import msgspec

from hulmo.core.colour import hex_to_linear
from hulmo.core.commands.command import Command
from hulmo.core.edit import ColumnDelta, Delta, Edit, FieldDelta
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.ground.ground import MOST_GROUNDS, Ground
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.ground.textures import decode, extension_of
from hulmo.core.ground.weights import WEIGHT, weights_of, with_ground_added, with_ground_removed
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name


class AddGround(Command, frozen=True, tag="add_ground"):
    """Add a ground at the end of the palette.

    Attributes
    ----------
    texture : str
        A shipped texture set, or a folder that holds albedo.png (or .jpg) and, where there are any, normal, roughness
        and height. The images of a folder are kept in the project.
    name : str
        Empty: named after the texture set.
    tile : float or None
        Metres one repeat covers; None takes what suits the set.
    tint : str
        #rrggbb.
    """

    texture: str
    name: str = ""
    tile: float | None = None
    tint: str = "#ffffff"

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return self.texture not in shipped()

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if len(project.grounds) >= MOST_GROUNDS:
            raise InvalidInput(f"add_ground: the project already has {MOST_GROUNDS} grounds; remove one first")
        library = shipped()
        deltas: list[Delta] = []
        if self.texture in library:
            texture, label, tile = self.texture, library[self.texture].label, library[self.texture].tile
        elif self.texture in project.textures:
            texture, label, tile = self.texture, self.texture, 2.0
        else:
            folder = pathlib.Path(self.texture)
            if not folder.is_dir():
                raise InvalidInput(
                    f"add_ground: {self.texture!r} is neither a folder nor a shipped texture set; shipped are "
                    f"{', '.join(library)}"
                )
            texture = free_name(folder.name, [*library, *project.textures])
            label, tile = folder.name, 2.0
            textures = MappingProxyType({**project.textures, texture: read_folder(folder)})
            deltas.append(FieldDelta("textures", project.textures, textures))
        name = self.name or free_name(label, [ground.name for ground in project.grounds])
        ground = Ground(name, texture, tile if self.tile is None else self.tile, self.tint)
        check_ground(ground, project.grounds, "add_ground")
        for body in project.bodies:
            before = weights_of(body, len(project.grounds)).copy()
            deltas.append(ColumnDelta(body.ident, WEIGHT, before, with_ground_added(before)))
        deltas.append(FieldDelta("grounds", project.grounds, (*project.grounds, ground)))
        return Edit(f"Add ground {name}", tuple(deltas))


class ChangeGround(Command, frozen=True, tag="change_ground"):
    """Change a ground; what is None stays."""

    ground: str
    name: str | None = None
    texture: str | None = None
    tile: float | None = None
    tint: str | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        column = project.ground_named(self.ground, "change_ground")
        given = {key: getattr(self, key) for key in ("name", "texture", "tile", "tint")}
        ground = msgspec.structs.replace(
            project.grounds[column], **{key: value for key, value in given.items() if value is not None}
        )
        if ground.texture not in shipped() and ground.texture not in project.textures:
            raise InvalidInput(
                f"change_ground: there is no texture set {ground.texture!r}; shipped are {', '.join(shipped())}"
            )
        rest = project.grounds[:column] + project.grounds[column + 1 :]
        check_ground(ground, rest, "change_ground")
        grounds = (*project.grounds[:column], ground, *project.grounds[column + 1 :])
        return Edit(f"Change ground {self.ground}", (FieldDelta("grounds", project.grounds, grounds),))


class RemoveGround(Command, frozen=True, tag="remove_ground"):
    """Remove a ground; where it lay, what else lies there takes its place."""

    ground: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        column = project.ground_named(self.ground, "remove_ground")
        if len(project.grounds) == 1:
            raise InvalidInput("remove_ground: a project keeps at least one ground; add another one first")
        deltas: list[Delta] = []
        for body in project.bodies:
            before = weights_of(body, len(project.grounds)).copy()
            deltas.append(ColumnDelta(body.ident, WEIGHT, before, with_ground_removed(before, column)))
        grounds = project.grounds[:column] + project.grounds[column + 1 :]
        deltas.append(FieldDelta("grounds", project.grounds, grounds))
        return Edit(f"Remove ground {self.ground}", tuple(deltas))


def check_ground(ground: Ground, others: tuple[Ground, ...], where: str) -> None:
    """Refuse a ground whose values cannot be used, or whose name another one has."""
    if not ground.name.strip():
        raise InvalidInput(f"{where}: a ground needs a name")
    if any(ground.name == other.name for other in others):
        raise InvalidInput(f"{where}: there already is a ground {ground.name!r}; choose another name")
    if not math.isfinite(ground.tile) or not 0.01 <= ground.tile <= 1000.0:
        raise InvalidInput(f"{where}: tile is {ground.tile:g} m; it must lie between 0.01 and 1000 m")
    hex_to_linear(ground.tint, where)


def read_folder(folder: pathlib.Path) -> MappingProxyType[str, bytes]:
    """Encoded images of a texture folder, checked to be readable.

    Raises
    ------
    FileProblem
        No albedo, or an image that cannot be read.
    """
    parts: dict[str, bytes] = {}
    for part in PARTS:
        for ending in ("png", "jpg", "jpeg"):
            path = folder / f"{part}.{ending}"
            if not path.is_file():
                continue
            try:
                data = path.read_bytes()
            except OSError as error:
                raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
            decode(data, "RGB", str(path))
            if extension_of(data) is None:
                raise FileProblem(f"{path}: neither PNG nor JPEG; convert it first")
            parts[part] = data
            break
    if "albedo" not in parts:
        raise FileProblem(f"{folder}: no albedo.png or albedo.jpg in this folder; a ground needs at least that image")
    return MappingProxyType(parts)
