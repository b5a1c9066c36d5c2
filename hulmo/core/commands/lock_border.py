"""Lock or unlock the border of an open body."""

from hulmo.core.commands.command import Command
from hulmo.core.edit import BodyDelta, Edit
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class LockBorder(Command, frozen=True, tag="lock_border"):
    """Lock or unlock the border of a body: no shaping brush moves a locked one.

    Attributes
    ----------
    locked : bool
        True locks.
    """

    body: str
    locked: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "lock_border")
        label = "Lock border" if self.locked else "Unlock border"
        return Edit(label, (BodyDelta(body.ident, "border_lock", body.border_lock, self.locked),))
