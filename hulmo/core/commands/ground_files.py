"""Textures from files: read them again when they have changed."""

import pathlib
from types import MappingProxyType

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.texture_files import read_image
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class ReloadTexture(Command, frozen=True, tag="reload_texture"):
    """Read the images of a texture set again from the files they came from.

    Attributes
    ----------
    texture : str
        A set kept in the project.
    """

    texture: str

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        files = project.sources.get(self.texture)
        if not files:
            known = ", ".join(repr(name) for name in project.sources) or "none"
            raise InvalidInput(
                f"reload_texture: no files are known for the set {self.texture!r}; there are for {known}"
            )
        images = {part: read_image(pathlib.Path(file), part) for part, file in files.items()}
        if images == dict(project.textures[self.texture]):
            return Edit(f"Read {self.texture} again", ())
        textures = MappingProxyType({**project.textures, self.texture: MappingProxyType(images)})
        return Edit(f"Read {self.texture} again", (FieldDelta("textures", project.textures, textures),))
