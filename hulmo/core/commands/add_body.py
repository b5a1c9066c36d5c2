"""Add a base form as a body."""

from typing import Any

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import weights_of
from hulmo.core.memory import FORM_BYTES, shortage
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import FORMS, BaseForm, Counts, Shape
from hulmo.core.mesh.origin import check_place, put
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values, complete

MOST_VERTICES = 60_000_000
"""Vertices of one base form; beyond this the tables of a body outgrow the memory of the machines it is meant for."""


def checked_form(name: str, settings: dict[str, Any], where: str) -> tuple[BaseForm, Values, Counts]:
    """A base form, its completed settings, and how large it gets.

    Raises
    ------
    InvalidInput
        Unknown form, a setting out of range, or more vertices than can be, or than fit into memory.
    """
    if name not in FORMS:
        raise InvalidInput(f"{where}: there is no base form {name!r}; known are {', '.join(FORMS)}")
    form = FORMS[name]
    values = complete(form.settings, settings, f"{where}, {name}")
    counts = form.count(values)
    if counts.vertices > MOST_VERTICES:
        raise InvalidInput(
            f"{where}, {name}: edge {values['edge']:g} m would make {counts.vertices:,} vertices; at most "
            f"{MOST_VERTICES:,} are possible. Choose a longer edge"
        )
    short = shortage(counts.vertices, FORM_BYTES)
    if short:
        raise InvalidInput(f"{where}, {name}: {counts.vertices:,} vertices: {short}. Choose a longer edge")
    return form, values, counts


class AddBody(Command, frozen=True, tag="add_body"):
    """Add a base form as a body.

    Attributes
    ----------
    form : str
        sheet, disc, column, icosphere, box_sphere or block.
    settings : dict
        Sizes and `edge`, metres; defaults where left out.
    name : str
        Empty: named after the form.
    at : tuple of float
        Metres by which the form is moved from where it is made. A sheet and a disc lie level at Y = 0 with their middle
        at the origin; a column and a block stand on Y = 0, centred in X and Z; both spheres have their centre at the
        origin.
    """

    form: str
    settings: dict[str, Any] = {}
    name: str = ""
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def edit(self, project: Project, progress: Progress) -> Edit:
        """Build the body; see `Command.edit`."""
        form, values, counts = checked_form(self.form, self.settings, "add_body")
        progress.step(0.05, f"building {counts.vertices:,} vertices")
        shape = form.build(values)
        origin = (0.0, 0.0, 0.0)
        if any(self.at):
            check_place(self.at, "add_body, at")
            origin, position = put(shape.position, (0.0, 0.0, 0.0), np.eye(3), np.zeros(3), np.array(self.at))
            shape = Shape(position, shape.triangles, shape.uv)
        progress.step(0.5, "connecting triangles")
        ident = 1 + max((body.ident for body in project.bodies), default=0)
        body = Body.from_shape(project.free_body_name(self.name or form.label), shape, ident)
        body.origin = origin
        weights_of(body, len(project.grounds))
        progress.step(0.75, "making the spatial index")
        _ = body.index
        progress.step(1.0, "putting it in place")
        return Edit(f"Add {body.name}", (FieldDelta("bodies", project.bodies, (*project.bodies, body)),))
