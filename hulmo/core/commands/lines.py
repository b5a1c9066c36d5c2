"""Outlines and tracks: drawn, changed, and laid anew with all they carry."""

from typing import Any

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.commands.lay_line import laid_line
from hulmo.core.commands.objects import free_ident, object_named
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.body import Body
from hulmo.core.objects import KINDS
from hulmo.core.objects.line import FEWEST, Line, Place, check_apart, is_line, line_of, with_line
from hulmo.core.objects.scene_object import SceneObject, check_objects
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name

Triple = tuple[float, float, float]


class LinePoint(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One point of an outline or a track.

    Attributes
    ----------
    at : [x, y, z]
        Metres; the nearest place of the body is meant.
    corner : bool
        Whether the line turns sharply there.
    width : float
        Metres, of a track; 0: as the track says.
    """

    at: Triple
    corner: bool = False
    width: float = 0.0


class AddLine(Command, frozen=True, tag="add_line"):
    """Draw an outline or a track on a body.

    Attributes
    ----------
    kind : str
        outline or track.
    body : str
    points : list of LinePoint
        In their order; with fewer than three of an outline, or two of a track, it carries nothing yet.
    name : str
        Empty: named after its kind.
    settings : dict
        What it carries; see below.
    """

    kind: str
    body: str
    points: tuple[LinePoint, ...]
    name: str = ""
    settings: dict[str, Any] = {}

    @property
    def lays_rules(self) -> bool:
        """See `Command.lays_rules`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "add_line"
        if self.kind not in FEWEST:
            raise InvalidInput(f"{where}: kind is {shown(self.kind)}; it must be one of {', '.join(FEWEST)}")
        body = project.body_named(self.body, where)
        taken = [entry.name for entry in project.objects]
        if self.name in taken:
            raise InvalidInput(f"{where}: there already is {shown(self.name)} in the scene; choose another name")
        name = self.name or free_name(KINDS[self.kind].label, taken)
        line = Line(body.ident, _places(body, self.points), dict(self.settings))
        made = with_line(SceneObject(free_ident(project), self.kind, name), line)
        return line_edit(project, body, None, made, f"Draw {name}", where, progress)


class ChangeLine(Command, frozen=True, tag="change_line"):
    """Change the points of an outline or a track, or what it carries, and lay it anew.

    Attributes
    ----------
    line : str
        Its name.
    points : list of LinePoint or None
        None: as they are.
    settings : dict
        What changes of what it carries; see below.
    """

    line: str
    points: tuple[LinePoint, ...] | None = None
    settings: dict[str, Any] = {}

    @property
    def lays_rules(self) -> bool:
        """See `Command.lays_rules`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "change_line"
        old, line, body = line_named(project, self.line, where)
        points = line.points if self.points is None else _places(body, self.points)
        new = with_line(old, Line(line.body, points, {**line.settings, **self.settings}, line.layer))
        word = "Points of" if self.points is not None else "Change"
        return line_edit(project, body, old, new, f"{word} {old.name}", where, progress)


def line_named(project: Project, name: str, where: str) -> tuple[SceneObject, Line, Body]:
    """An outline or a track by name, what it holds, and the body that it lies on.

    Raises
    ------
    InvalidInput
        No such line, or its body is gone.
    """
    entry = object_named(project, name, where)
    if not is_line(entry):
        raise InvalidInput(f"{where}: {name!r} is neither an outline nor a track")
    line = line_of(entry)
    for body in project.bodies:
        if body.ident == line.body:
            return entry, line, body
    raise InvalidInput(f"{where}: the body that {name!r} lay on is gone; take the line away, or undo")


def line_edit(
    project: Project, body: Body, old: SceneObject | None, new: SceneObject, label: str, where: str, progress: Progress
) -> Edit:
    """The edit after which a line is another one, and all it carries lies accordingly.

    Raises
    ------
    InvalidInput
    """
    KINDS[new.kind].check(new, where)
    check_apart(new, where)
    deltas, laid = laid_line(project, body, old, new, where, progress)
    objects = (*project.objects, laid) if old is None else tuple(laid if e is old else e for e in project.objects)
    check_objects(objects, where)
    return Edit(label, (*deltas, FieldDelta("objects", project.objects, objects)))


def _places(body: Body, points: tuple[LinePoint, ...]) -> tuple[Place, ...]:
    out = []
    for point in points:
        x, y, z = (float(at - by) for at, by in zip(point.at, body.origin, strict=True))
        out.append(Place((x, y, z), point.corner, point.width))
    return tuple(out)
