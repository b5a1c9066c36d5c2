"""The base of all commands."""

import pathlib
from typing import Self

import msgspec

from hulmo.core.edit import Edit
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class Command(msgspec.Struct, frozen=True, tag_field="do", forbid_unknown_fields=True):
    """A change of a project as plain values. In JSON, `do` names the command.

    A command validates all it is given before it changes anything.
    """

    def edit(self, project: Project, progress: Progress) -> Edit:
        """The edit this command amounts to; the project is left as it is.

        Raises
        ------
        InvalidInput
            A value that cannot be used, or a body or ground that is not there.
        """
        raise NotImplementedError

    @property
    def lays_rules(self) -> bool:
        """Whether its edit already holds what the ground rules say after it."""
        return False

    @property
    def moves_whole(self) -> bool:
        """Whether it moves bodies as a whole, what is guarded on them included, without changing their shape."""
        return False

    @property
    def reads_files(self) -> bool:
        """Whether it reads files outside the project, which may be gone when it is to be done again after a crash."""
        return False

    def located(self, folder: pathlib.Path) -> Self:
        """The same command with relative names of files taken from a folder, such as that of the recipe it stands in."""
        del folder
        return self
