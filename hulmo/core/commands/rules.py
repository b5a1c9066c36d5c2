"""The ground rules of a body: have others, take figures again, use a shared set."""

import pathlib
from typing import Self

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.commands.palette import palette_deltas
from hulmo.core.edit import BodyDelta, ColumnDelta, Delta, Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.follow import columns_delta, laid_anew
from hulmo.core.ground.check_ground import check_ground, check_room
from hulmo.core.ground.columns import added
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.hand import added_up
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.ground.rule_sets import read_rule_set, shipped_rule_sets
from hulmo.core.ground.rules import KEPT, Rule, checked
from hulmo.core.ground.weights import HAND, RULED, WEIGHT, filled, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.named_files import located
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class SetRules(Command, frozen=True, tag="set_rules"):
    """Give a body other ground rules. Hand paint stays.

    Attributes
    ----------
    body : str
    rules : list of Rule
        Laid in this order, each over those before it; none: the base ground everywhere.
    base : str
        Ground that lies where no rule says otherwise; empty: as it was.
    """

    body: str
    rules: tuple[Rule, ...] = ()
    base: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "set_rules")
        base = project.ground_named(self.base, "set_rules") if self.base else body.base
        deltas = ruled_deltas(project, body, checked(self.rules, "set_rules"), base, progress)
        return Edit("Ground rules", tuple(deltas))


class MeasureRules(Command, frozen=True, tag="measure_rules"):
    """Take the figures again that rules ask for and that are taken only once: shelter and distances."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "measure_rules")
        if not body.rules:
            raise InvalidInput(f"measure_rules: {body.name!r} has no ground rules; add one first")
        weights_of(body, len(project.grounds))
        work = body.copy()
        every = {condition.ident for rule in body.rules for condition in rule.conditions}
        laid_anew(work, project.ground_names, progress, every)
        return Edit("Measure for ground rules", tuple(columns_delta(body, work)))


class LayRules(Command, frozen=True, tag="lay_rules"):
    """Evaluate the rules of a body on its surface as it is; figures that are taken once stay as they were taken."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "lay_rules")
        if not body.rules:
            return Edit("Ground rules follow", ())
        work = body.copy()
        laid_anew(work, project.ground_names, progress)
        return Edit("Ground rules follow", tuple(columns_delta(body, work)))


class UseRules(Command, frozen=True, tag="use_rules"):
    """Give a body the rules of a shared set; grounds of the set that the palette lacks are added to it.

    Attributes
    ----------
    body : str
    set : str
        A shipped set, or a file; in a recipe, a relative name is taken from its folder.
    """

    body: str
    set: str

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return self.set not in shipped_rule_sets()

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        return msgspec.structs.replace(self, set=located(folder, self.set)) if self.reads_files else self

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "use_rules")
        found = read_rule_set(pathlib.Path(shipped_rule_sets().get(self.set, self.set)))
        missing = [
            _without_strange_texture(project, ground)
            for ground in found.grounds
            if ground.name not in project.ground_names
        ]
        for ground in missing:
            check_ground(ground, project.grounds, f"use_rules, {self.set}")
        check_room(len(project.grounds) + len(missing), f"use_rules, {self.set}")
        stand_in = Project()
        stand_in.grounds = (*project.grounds, *missing)
        deltas: list[Delta] = []
        if missing:
            deltas += palette_deltas(project, stand_in.grounds, lambda weights: added(weights, len(missing)))
        work = body.view()
        work.figures = body.figures
        for delta in deltas:
            if isinstance(delta, ColumnDelta) and delta.body == body.ident and delta.after is not None:
                work.vertices.set_column(delta.column, delta.after)
        base = stand_in.ground_named(found.base, "use_rules") if found.base else body.base
        deltas += ruled_deltas(stand_in, work, checked(found.rules, f"use_rules, {self.set}"), base, progress)
        return Edit(f"Use rules {found.name}", tuple(deltas))


def _without_strange_texture(project: Project, ground: Ground) -> Ground:
    # a set brings no images: a ground with some of its own comes as a plain colour
    if ground.texture in shipped() or ground.texture in project.textures:
        return ground
    return msgspec.structs.replace(ground, texture="", plain=PARTS)


def ruled_deltas(project: Project, body: Body, rules: tuple[Rule, ...], base: int, progress: Progress) -> list[Delta]:
    """Deltas to other rules and another base ground of a body."""
    weights_of(body, len(project.grounds))
    work = body.view()
    work.rules, work.base, work.figures = rules, base, body.figures
    gone = _outdated(body.rules, rules)
    for name in {f"{KEPT}{ident}" for ident in gone} & set(work.vertices.names):
        work.vertices.drop_column(name)
    deltas: list[Delta] = []
    if rules:
        laid_anew(work, project.ground_names, progress)
    else:
        ruled = filled(body.vertices.count, len(project.grounds), base)
        hand = work.vertices.get(HAND)
        work.vertices.set_column(WEIGHT, ruled if hand is None else added_up(hand, ruled))
        if RULED in body.vertices:
            deltas.append(ColumnDelta(body.ident, RULED, body.vertices[RULED].copy(), None))
    deltas += [
        ColumnDelta(body.ident, name, body.vertices[name].copy(), None)
        for name in body.vertices.names
        if name.startswith(KEPT) and name not in work.vertices
    ]
    for name, old, new in (("rules", body.rules, rules), ("base", body.base, base)):
        if old != new:
            deltas.append(BodyDelta(body.ident, name, old, new))
    return deltas + columns_delta(body, work)


def _outdated(old: tuple[Rule, ...], new: tuple[Rule, ...]) -> set[int]:
    # numbers of conditions whose kept figures say nothing any more
    def known(rules: tuple[Rule, ...]) -> dict[int, object]:
        # a distance also hangs on the rules below
        return {
            condition.ident: (condition.measure, msgspec.to_builtins(condition.settings), condition.measure == "near" and
                              msgspec.to_builtins(rules[:i]))
            for i, rule in enumerate(rules)
            for condition in rule.conditions
        }  # fmt: skip

    before, after = known(old), known(new)
    return {ident for ident in {**before, **after} if before.get(ident) != after.get(ident)}
