"""Things of the scene: put there, changed, taken away."""

from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.lay_line import taken_away
from hulmo.core.edit import Delta, Edit, FieldDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.follow import columns_delta, laid_anew
from hulmo.core.ground.measures import OF_WATER
from hulmo.core.mesh.body import Body
from hulmo.core.objects import KINDS
from hulmo.core.objects.figure import FIGURE
from hulmo.core.objects.line import is_line, line_of
from hulmo.core.objects.scene_object import SceneObject, check_objects, upright
from hulmo.core.objects.viewpoint import LOCKED, VIEWPOINT
from hulmo.core.objects.water import levels_on
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project, free_name

Vector = NDArray[np.float64]
Triple = tuple[float, float, float]


class AddObject(Command, frozen=True, tag="add_object"):
    """Put something into the scene.

    Attributes
    ----------
    kind : str
        figure or viewpoint.
    name : str
        Empty: named after its kind.
    at : [x, y, z]
        Metres.
    turn : [x, y, z]
        Degrees about X, then Y, then Z.
    scale : float
    values : dict
        Settings of its kind; a viewpoint's `target` is [x, y, z], metres.
    """

    kind: str
    name: str = ""
    at: Triple = (0.0, 0.0, 0.0)
    turn: Triple = (0.0, 0.0, 0.0)
    scale: float = 1.0
    values: dict[str, Any] = {}

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        known = [name for name, kind in KINDS.items() if not kind.on_body]
        if self.kind not in known:
            raise InvalidInput(f"add_object: kind is {shown(self.kind)}; it must be one of {', '.join(known)}")
        taken = [entry.name for entry in project.objects]
        if self.name in taken:
            raise InvalidInput(f"add_object: there already is {shown(self.name)} in the scene; choose another name")
        name = self.name or free_name(KINDS[self.kind].label, taken)
        made = SceneObject(
            free_ident(project), self.kind, name, self.at, self.turn, self.scale, values=dict(self.values)
        )
        return objects_edit(project, (*project.objects, made), f"Add {name}", "add_object", progress)


class ChangeObject(Command, frozen=True, tag="change_object"):
    """Change something of the scene; what is None stays.

    Attributes
    ----------
    object : str
        Its name.
    name : str or None
        Another name.
    at, turn : [x, y, z] or None
        Metres, degrees.
    scale : float or None
    shown : bool or None
    parent : str or None
        Name of the object that it goes along with; empty for none.
    values : dict
        Settings of its kind that change.
    """

    object: str
    name: str | None = None
    at: Triple | None = None
    turn: Triple | None = None
    scale: float | None = None
    shown: bool | None = None
    parent: str | None = None
    values: dict[str, Any] = {}

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        old = object_named(project, self.object, "change_object")
        given = {key: getattr(self, key) for key in ("name", "at", "turn", "scale", "shown")}
        changes = {key: value for key, value in given.items() if value is not None}
        if self.parent is not None:
            changes["parent"] = object_named(project, self.parent, "change_object").ident if self.parent else 0
        if self.values:
            changes["values"] = {**old.values, **self.values}
        if self.name != self.object and self.name in [entry.name for entry in project.objects]:
            raise InvalidInput(f"change_object: there already is {shown(self.name)} in the scene; choose another name")
        new = msgspec.structs.replace(old, **changes)
        objects = tuple(new if entry is old else entry for entry in project.objects)
        words = {
            "name": "Rename",
            "shown": "Show" if self.shown else "Hide",
            "at": "Move",
            "turn": "Turn",
            "scale": "Scale",
        }
        word = words.get(next(iter(changes), ""), "Change")
        return objects_edit(project, objects, f"{word} {old.name}", "change_object", progress)


class MoveObject(Command, frozen=True, tag="move_object"):
    """Put something of the scene to another place among those of its kind: flights go through viewpoints in their order.

    Attributes
    ----------
    object : str
        Its name.
    place : int
        From 0.
    """

    object: str
    place: int = 0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        old = object_named(project, self.object, "move_object")
        alike = [entry for entry in project.objects if entry.kind == old.kind]
        if not 0 <= self.place < len(alike):
            raise InvalidInput(f"move_object: place is {self.place}; it must lie between 0 and {len(alike) - 1}")
        alike.remove(old)
        alike.insert(self.place, old)
        rest = iter(alike)
        objects = tuple(next(rest) if entry.kind == old.kind else entry for entry in project.objects)
        return objects_edit(project, objects, f"Order of {old.name}", "move_object", progress)


class RemoveObject(Command, frozen=True, tag="remove_object"):
    """Take something out of the scene; an outline or a track with all it carries. It is refused while something else goes
    along with it.

    Attributes
    ----------
    object : str
        Its name.
    """

    object: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        old = object_named(project, self.object, "remove_object")
        if any(entry.parent == old.ident for entry in project.objects):
            raise InvalidInput(
                f"remove_object: something goes along with {old.name!r}; give it another parent, or none, first"
            )
        rest = tuple(entry for entry in project.objects if entry is not old)
        edit = objects_edit(project, rest, f"Remove {old.name}", "remove_object", progress)
        body = line_body(project, old)
        if body is None:
            return edit
        return Edit(edit.label, (*taken_away(project, body, old, progress), *edit.deltas))


def line_body(project: Project, entry: SceneObject) -> Body | None:
    """The body that a line lies on; None where it is gone, or what is asked for is no line."""
    if not is_line(entry):
        return None
    ident = line_of(entry).body
    return next((body for body in project.bodies if body.ident == ident), None)


def object_named(project: Project, name: str, where: str) -> SceneObject:
    """An object of the scene by name.

    Raises
    ------
    InvalidInput
        No such object.
    """
    for entry in project.objects:
        if entry.name == name:
            return entry
    known = ", ".join(repr(entry.name) for entry in project.objects) or "nothing"
    raise InvalidInput(f"{where}: there is no {shown(name)} in the scene; there is {known}")


def free_ident(project: Project) -> int:
    """A number that no object has."""
    return max((entry.ident for entry in project.objects), default=0) + 1


def objects_edit(
    project: Project, objects: tuple[SceneObject, ...], label: str, where: str, progress: Progress | None = None
) -> Edit:
    """The edit after which a project has other objects, and rules that ask for its waters say what follows.

    Raises
    ------
    InvalidInput
        They are none that a project may have.
    """
    check_objects(objects, where)
    _refuse_locked(project.objects, objects, where)
    for entry in objects:
        if entry.kind in KINDS and entry not in project.objects:
            KINDS[entry.kind].check(entry, where)
    deltas: list[Delta] = [FieldDelta("objects", project.objects, objects)]
    for body in project.bodies:
        waters = levels_on(objects, body.ident, body.down.kind == "level", body.down.sea)
        asked = [
            condition.ident for rule in body.rules for condition in rule.conditions if condition.measure in OF_WATER
        ]
        if waters == body.waters or not asked:
            continue
        work = body.copy()
        work.waters = waters
        laid_anew(work, project.ground_names, progress or silent(), asked)
        deltas += columns_delta(body, work)
    return Edit(label, tuple(deltas))


def _refuse_locked(before: tuple[SceneObject, ...], after: tuple[SceneObject, ...], where: str) -> None:
    # what is locked may be renamed, hidden and unlocked
    there = {entry.ident: entry for entry in after}
    for old in before:
        if old.values.get(LOCKED.name) is not True or old in after:
            continue
        new = there.get(old.ident)
        free = new is not None and new.values.get(LOCKED.name) is not True
        if new is None or not (free or new == msgspec.structs.replace(old, name=new.name, shown=new.shown)):
            raise InvalidInput(f"{where}: {old.name!r} is locked; unlock it first")


def figure_here(point: Vector, up: Vector) -> AddObject:
    """The command that stands another figure at a place of the world, upright by a (3,) unit vector."""
    x, y, z = (float(value) for value in point)
    return AddObject(FIGURE.name, at=(x, y, z), turn=upright(up))


def view_here(eye: Vector, target: Vector, field: float) -> AddObject:
    """The command that keeps a view."""
    x, y, z = (float(value) for value in eye)
    return AddObject(VIEWPOINT.name, at=(x, y, z), values={"field": float(field), "target": [float(v) for v in target]})
