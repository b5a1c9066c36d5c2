"""Remove a body."""

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class RemoveBody(Command, frozen=True, tag="remove_body"):
    """Remove a body by name."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        gone = project.body_named(self.body, "remove_body")
        rest = tuple(body for body in project.bodies if body is not gone)
        return Edit(f"Remove {gone.name}", (FieldDelta("bodies", project.bodies, rest),))
