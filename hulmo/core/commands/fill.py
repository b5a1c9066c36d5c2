"""Lay one ground over a whole body."""

import numpy as np

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
        free = body.free_share(np.arange(body.vertices.count, dtype=np.int32))
        if free is not None:  # the guard keeps its share of what lay there
            after = before + (after - before) * free[:, None]
        return Edit(f"Fill with {self.ground}", (ColumnDelta(body.ident, WEIGHT, before, after),))
