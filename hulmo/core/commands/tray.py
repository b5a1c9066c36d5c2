"""What stands on the prop tray."""

import pathlib
from typing import Any, Self

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.edit import BodyDelta, Edit, FieldDelta, StrewDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.io.prop_mesh import mesh_from_body, mesh_from_file
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.props.prop import SHIPPED, Prop
from hulmo.core.props.tray import check_tray


class AddProp(Command, frozen=True, tag="add_prop"):
    """Put a prop on the tray.

    Attributes
    ----------
    source : str
        A shipped one, or the file of a mesh, or the name of a body of the project.
    name : str
        Empty: named after where it comes from.
    scale : float
        Metres that one unit of a file is.
    values : dict
        foot, smallest, largest, upright and share, where they are not the usual ones.
    """

    source: str
    name: str = ""
    scale: float = 1.0
    values: dict[str, float] = {}

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return self.source not in SHIPPED and pathlib.Path(self.source).suffix != ""

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        return msgspec.structs.replace(self, source=str(folder / self.source)) if self.reads_files else self

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "add_prop"
        kept = dict(project.prop_meshes)
        bodies = {body.name: body for body in project.bodies}
        if self.source in SHIPPED:
            key, label = self.source, self.source.replace("_", " ").capitalize()
        else:
            if self.source in bodies:
                mesh, label = mesh_from_body(bodies[self.source], project), self.source
            elif self.reads_files:
                if not 1e-6 <= self.scale <= 1e6:
                    raise InvalidInput(f"{where}: scale is {self.scale:g}; it must lie between 0.000001 and 1,000,000")
                path = pathlib.Path(self.source)
                mesh, label = mesh_from_file(path, self.scale, progress), path.stem
            else:
                raise InvalidInput(
                    f"{where}: {shown(self.source)} is no shipped prop, no body and no file; shipped are {', '.join(SHIPPED)}"
                )
            key = next(f"mesh {n}" for n in range(1, len(kept) + 2) if f"mesh {n}" not in kept)
            kept[key] = mesh
        ident = max((prop.ident for prop in project.props), default=0) + 1
        name = self.name or free_name(label, [prop.name for prop in project.props])
        made = _with(Prop(ident, name, key), self.values, where)
        return tray_edit(project, (*project.props, made), kept, f"Add {name} to the tray")


class ChangeProp(Command, frozen=True, tag="change_prop"):
    """Change a prop of the tray.

    Attributes
    ----------
    prop : str
        Its name.
    name : str or None
        Another name.
    values : dict
        What changes of foot, smallest, largest, upright and share.
    """

    prop: str
    name: str | None = None
    values: dict[str, float] = {}

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        old = prop_named(project, self.prop, "change_prop")
        new = _with(old, self.values, "change_prop")
        if self.name is not None:
            new = msgspec.structs.replace(new, name=self.name)
        props = tuple(new if prop is old else prop for prop in project.props)
        edit = tray_edit(project, props, dict(project.prop_meshes), f"Change {old.name}")
        if self.name is None or self.name == old.name:
            return edit
        renamed = []
        for body in project.bodies:  # rules name props
            if any(old.name in rule.shares for rule in body.strew_rules):
                rules = tuple(
                    msgspec.structs.replace(
                        rule, shares={new.name if key == old.name else key: share for key, share in rule.shares.items()}
                    )
                    for rule in body.strew_rules
                )
                renamed.append(BodyDelta(body.ident, "strew_rules", body.strew_rules, rules))
        return Edit(edit.label, (*edit.deltas, *renamed))


class RemoveProp(Command, frozen=True, tag="remove_prop"):
    """Take a prop off the tray, and away wherever it stands.

    Attributes
    ----------
    prop : str
        Its name.
    """

    prop: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        old = prop_named(project, self.prop, "remove_prop")
        props = tuple(prop for prop in project.props if prop is not old)
        used = {prop.mesh for prop in props}
        kept = {key: mesh for key, mesh in project.prop_meshes.items() if key in used}
        edit = tray_edit(project, props, kept, f"Take {old.name} off the tray")
        gone = [
            StrewDelta(body.ident, body.strewn, body.strewn.taken(body.strewn.prop != old.ident))
            for body in project.bodies
            if body.strewn is not None and (body.strewn.prop == old.ident).any()
        ]
        return Edit(edit.label, (*gone, *edit.deltas))


def tray_edit(project: Project, props: tuple[Prop, ...], kept: dict[str, Any], label: str) -> Edit:
    """The edit after which a project has another tray.

    Raises
    ------
    InvalidInput
    """
    check_tray(props, kept, "tray")
    deltas = [FieldDelta("props", project.props, props)]
    if kept != dict(project.prop_meshes):
        deltas.append(FieldDelta("prop_meshes", project.prop_meshes, kept))
    return Edit(label, tuple(deltas))


def prop_named(project: Project, name: str, where: str) -> Prop:
    """A prop of the tray.

    Raises
    ------
    InvalidInput
    """
    for prop in project.props:
        if prop.name == name:
            return prop
    known = ", ".join(prop.name for prop in project.props) or "none"
    raise InvalidInput(f"{where}: the tray has no prop {shown(name)}; it has {known}")


def _with(prop: Prop, values: dict[str, float], where: str) -> Prop:
    for name in values:
        if name not in ("foot", "smallest", "largest", "upright", "share"):
            raise InvalidInput(f"{where}: a prop has no {shown(name)}")
    return msgspec.structs.replace(prop, **{name: float(value) for name, value in values.items()})
