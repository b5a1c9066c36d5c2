"""Add, change and remove grounds of the palette."""

import pathlib
from types import MappingProxyType
from typing import Any, Self

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.commands.palette import palette_deltas
from hulmo.core.edit import BodyDelta, Delta, Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.check_ground import check_ground, check_room
from hulmo.core.ground.columns import added, removed
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.ground.rules import renamed
from hulmo.core.ground.share import read_ground
from hulmo.core.ground.texture_files import read_files, read_folder
from hulmo.core.named_files import located
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.there import is_file, is_folder, is_there


class AddGround(Command, frozen=True, tag="add_ground"):
    """Add a ground at the end of the palette.

    Attributes
    ----------
    texture : str
        A shipped texture set; or a folder of images; or one image of a set, whose others are found beside it by their
        names; in a recipe, a relative name is taken from its folder. Images are kept in the project. Empty: a plain
        colour.
    name : str
        Empty: named after the texture set.
    tile : float or None
        Metres one repeat covers; None takes what suits the set.
    tint : str
        #rrggbb.
    colour : str
        #rrggbb, for a plain colour.
    """

    texture: str = ""
    name: str = ""
    tile: float | None = None
    tint: str = "#ffffff"
    colour: str = "#808080"

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return bool(self.texture) and self.texture not in shipped()

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`; a name that is no file there may be that of a set the project keeps."""
        there = self.reads_files and is_there(folder / self.texture)
        return msgspec.structs.replace(self, texture=located(folder, self.texture)) if there else self

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        check_room(len(project.grounds) + 1, "add_ground")
        library = shipped()
        deltas: list[Delta] = []
        plain: tuple[str, ...] = ()
        shared: Ground | None = None
        if not self.texture:
            texture, label, tile, plain = "", "Plain", 2.0, PARTS
        elif self.texture in library:
            texture, label, tile = self.texture, library[self.texture].label, library[self.texture].tile
        elif self.texture in project.textures:
            texture, label, tile = self.texture, self.texture, 2.0
        else:
            path = pathlib.Path(self.texture)
            if is_folder(path):
                shared = read_ground(path)
                if shared is not None and set(shared.plain) >= set(PARTS):
                    return self._added(project, shared, shared.name, [])
                found = read_folder(path)
            elif is_file(path):
                found = read_files([path])
            else:
                raise InvalidInput(
                    f"add_ground: {self.texture!r} is no folder, no image and no shipped texture set; shipped are "
                    f"{', '.join(library)}"
                )
            texture = free_name(found.name, [*library, *project.textures])
            label, tile = found.name, 2.0
            plain = tuple(part for part in PARTS if part not in found.images)
            textures = MappingProxyType({**project.textures, texture: found.images})
            sources = MappingProxyType({**project.sources, texture: found.files})
            deltas.append(FieldDelta("textures", project.textures, textures))
            deltas.append(FieldDelta("sources", project.sources, sources))
        ground = Ground(label, texture, tile, plain=plain, break_up=texture in library)
        if shared is not None:
            ground = msgspec.structs.replace(shared, texture=texture, plain=tuple({*shared.plain, *plain}))
        return self._added(project, ground, label if shared is None else shared.name, deltas)

    def _added(self, project: Project, ground: Ground, label: str, deltas: list[Delta]) -> Edit:
        name = self.name or free_name(label, list(project.ground_names))
        given: dict[str, Any] = {"name": name}
        for key, first in (("tile", None), ("tint", "#ffffff"), ("colour", "#808080")):
            if getattr(self, key) != first:
                given[key] = getattr(self, key)
        ground = msgspec.structs.replace(ground, **given)
        check_ground(ground, project.grounds, "add_ground")
        deltas += palette_deltas(project, (*project.grounds, ground), added)
        return Edit(f"Add ground {name}", tuple(deltas))


class ChangeGround(Command, frozen=True, tag="change_ground"):
    """Change a ground; what is left out stays.

    Attributes
    ----------
    ground : str
        Which one.
    values : dict
        New values of attributes of `hulmo.core.ground.ground.Ground`.
    name, texture, tile, tint
        The same, for the commonest of them.
    """

    ground: str
    name: str | None = None
    texture: str | None = None
    tile: float | None = None
    tint: str | None = None
    values: dict[str, Any] = {}

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "change_ground"
        column = project.ground_named(self.ground, where)
        given = {
            key: getattr(self, key) for key in ("name", "texture", "tile", "tint") if getattr(self, key) is not None
        }
        try:
            ground = msgspec.convert(
                {**msgspec.to_builtins(project.grounds[column]), **self.values, **given}, Ground, strict=True
            )
        except msgspec.ValidationError as error:
            raise InvalidInput(f"{where}: {self.ground!r}: {error}") from error
        unknown = set(self.values) - set(Ground.__struct_fields__)
        if unknown:
            raise InvalidInput(f"{where}: a ground has no {', '.join(sorted(unknown))}")
        if ground.texture and ground.texture not in shipped() and ground.texture not in project.textures:
            raise InvalidInput(
                f"{where}: there is no texture set {ground.texture!r}; shipped are {', '.join(shipped())}"
            )
        rest = project.grounds[:column] + project.grounds[column + 1 :]
        check_ground(ground, rest, where)
        grounds = (*project.grounds[:column], ground, *project.grounds[column + 1 :])
        deltas: list[Delta] = [FieldDelta("grounds", project.grounds, grounds)]
        if ground.name != self.ground:
            for body in project.bodies:
                rules = renamed(body.rules, self.ground, ground.name)
                if rules != body.rules:
                    deltas.append(BodyDelta(body.ident, "rules", body.rules, rules))
        return Edit(f"Change ground {self.ground}", tuple(deltas))


class RemoveGround(Command, frozen=True, tag="remove_ground"):
    """Remove a ground; where it lay, what else lies there takes its place. Rules that lay it are passed over from then on."""

    ground: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        column = project.ground_named(self.ground, "remove_ground")
        if len(project.grounds) == 1:
            raise InvalidInput("remove_ground: a project keeps at least one ground; add another one first")
        grounds = project.grounds[:column] + project.grounds[column + 1 :]

        def base(old: int) -> int:
            return 0 if old == column else old - (old > column)

        deltas = palette_deltas(project, grounds, lambda weights: removed(weights, column), base, progress)
        return Edit(f"Remove ground {self.ground}", tuple(deltas))
