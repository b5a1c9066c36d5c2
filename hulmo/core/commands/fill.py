"""Lay one ground over a whole body."""

from hulmo.core.commands.command import Command
from hulmo.core.edit import ColumnDelta, Edit
from hulmo.core.ground.weights import WEIGHT, filled, weights_of
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class Fill(Command, frozen=True, tag="fill"):
    """Lay one ground over a whole body."""

    body: str
    ground: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "fill")
        column = project.ground_named(self.ground, "fill")
        before = weights_of(body, len(project.grounds)).copy()
        after = filled(body.vertices.count, len(project.grounds), column)
        return Edit(f"Fill with {self.ground}", (ColumnDelta(body.ident, WEIGHT, before, after),))
