"""Faults that are meant."""

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.waiver import Waiver, check_waivers


class Waive(Command, frozen=True, tag="waive"):
    """Say that a fault which readiness finds is meant, and why; without a reason it counts again.

    Attributes
    ----------
    check : str
        Of the readiness list.
    body : str
        Empty: of the project.
    reason : str
    """

    check: str
    body: str = ""
    reason: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if self.body:
            project.body_named(self.body, "waive")
        kept = tuple(entry for entry in project.waivers if (entry.check, entry.body) != (self.check, self.body))
        if not self.reason.strip():
            if len(kept) == len(project.waivers):
                raise InvalidInput(f"waive: {self.check!r} is not waived; give a reason to waive it")
            return Edit("Count a fault again", (FieldDelta("waivers", project.waivers, kept),))
        after = (*kept, Waiver(self.check, self.body, self.reason.strip()))
        check_waivers(after, "waive")
        return Edit("Waive a fault", (FieldDelta("waivers", project.waivers, after),))
