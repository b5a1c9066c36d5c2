"""Forget the lasting coat, so that the next stroke may give a full one again."""

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, RowsDelta
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.sculpt.coat import COAT


class ResetCoat(Command, frozen=True, tag="reset_coat"):
    """Forget the lasting coat of a body."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "reset_coat")
        if COAT not in body.vertices:
            return Edit("Reset coat", ())
        coat = body.vertices[COAT]
        rows = np.flatnonzero(coat[:, 0]).astype(np.int32)
        before = coat[rows]
        return Edit("Reset coat", (RowsDelta(body.ident, COAT, rows, before, np.zeros_like(before)),))
