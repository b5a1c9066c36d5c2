"""Whether an edit would leave a project that can be saved and opened again: asked before it is applied."""

from hulmo.core.edit import (
    Change,
    ColumnDelta,
    Edit,
    FieldDelta,
    LayersDelta,
    PatchDelta,
    RowsDelta,
    SlotColumnDelta,
    SlotsDelta,
    StrewDelta,
    TablesDelta,
)
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project
from hulmo.core.sound import check_build, check_edges_agree, check_slot_values, check_strewn, check_tables, check_values


def check_edit(project: Project, edit: Edit) -> None:
    """Refuse an edit whose numbers no project may hold; costs what the edit holds.

    How the parts fit together is asked by `sound.check_build` once it is applied.

    Raises
    ------
    InvalidInput
        What is wrong; nothing was changed.
    """
    grounds = len(project.grounds)
    for delta in edit.deltas:
        if isinstance(delta, FieldDelta) and delta.name == "grounds":
            grounds = len(delta.after)
    for delta in edit.deltas:
        if isinstance(delta, RowsDelta):
            check_values(delta.column, delta.after, edit.label)
        elif isinstance(delta, ColumnDelta):
            if delta.after is not None:
                check_values(delta.column, delta.after, edit.label)
        elif isinstance(delta, SlotsDelta):
            check_slot_values(
                project.body(delta.body).corners.slots.domain(delta.column), delta.column, delta.after, edit.label
            )
        elif isinstance(delta, SlotColumnDelta):
            if delta.after is not None:
                check_slot_values(delta.domain, delta.column, delta.after, edit.label)
        elif isinstance(delta, LayersDelta):
            for name, (_, after) in delta.columns.items():
                if after is not None:
                    check_values(name, after, edit.label)
        elif isinstance(delta, TablesDelta):
            if delta.before[1].live_count and not delta.after[1].live_count:
                raise InvalidInput(f"{edit.label}: nothing would be left of the body; remove it instead")
            check_tables(*delta.after, grounds, edit.label)
        elif isinstance(delta, PatchDelta):
            live = delta.after.first >= 0
            for name, values in delta.after.columns.items():
                check_values(name, values[live], edit.label)
            filled = delta.after.vertex[:, 0] >= 0
            known = project.body(delta.body).corners.slots
            for name, values in delta.after.known.items():
                check_slot_values(known.domain(name), name, values[filled], edit.label)
        elif isinstance(delta, StrewDelta) and delta.after is not None:
            stood_in = project.body(delta.body).view()
            stood_in.strewn = delta.after
            check_strewn(stood_in)
        elif isinstance(delta, FieldDelta) and delta.name == "bodies":
            there = {id(body) for body in project.bodies}
            for body in delta.after:
                if isinstance(body, Body) and id(body) not in there:
                    check_tables(body.vertices, body.corners, grounds, edit.label)


def check_after(project: Project, change: Change) -> None:
    """Refuse what an applied edit has come to: positions that follow from layers too far away, or parts that do not fit.

    Raises
    ------
    InvalidInput
        Whoever applied the edit takes it back.
    """
    for ident, column, rows in change.rows:
        if column == "position":
            values = project.body(ident).vertices[column]  # most of a table are looked through sooner than picked out
            check_values(column, values if 2 * rows.size > len(values) else values[rows], "this change")
    for ident, domain, column, slots in change.slots:
        corners = project.body(ident).corners
        if domain == "edge" and column in corners.slots:
            check_edges_agree(corners, column, slots, "this change")
    for body in project.bodies:
        if body.ident in change.bodies:
            check_values("position", body.vertices["position"], "this change")
    check_build(project)
