"""Strewing by rule."""

from typing import Any

from hulmo.core.commands.command import Command
from hulmo.core.commands.strew import strew_edit
from hulmo.core.edit import BodyDelta, Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.strew_rules import StrewRule, check_strew_rules, laid_props


class SetStrewRules(Command, frozen=True, tag="set_strew_rules"):
    """Say where props stand of themselves on a body, and strew by it; what was set by hand stays.

    Attributes
    ----------
    body : str
    rules : list of StrewRule
        name, shares by name of prop, settings, conditions as those of ground rules, shown.
    """

    body: str
    rules: tuple[StrewRule, ...]

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.unlocked_body(self.body, "set_strew_rules")
        rules = check_strew_rules(self.rules, "set_strew_rules")
        names = {prop.name for prop in project.props}
        for rule in rules:
            for name in rule.shares:
                if name not in names:
                    raise InvalidInput(f"set_strew_rules: rule {rule.name!r}: the tray has no prop {shown(name)}")
        deltas: list[Any] = [BodyDelta(body.ident, "strew_rules", body.strew_rules, rules)]
        work = body.view()
        work.strew_rules = rules
        return Edit("Strew rules", (*deltas, *laid_edit(project, body, work, progress).deltas))


class LayProps(Command, frozen=True, tag="lay_props"):
    """Strew by the strew rules of a body as it is now.

    Attributes
    ----------
    body : str
    """

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.unlocked_body(self.body, "lay_props")
        return laid_edit(project, body, body, progress)


def laid_edit(project: Project, body: Body, work: Body, progress: Progress) -> Edit:
    """The edit after which the strew rules of `work` have been followed on a body."""
    made = laid_props(work, project.ground_names, project.props, dict(project.prop_meshes), progress)
    return strew_edit(body, made, "Strew by rules")
