"""Marks of faces and edges: flat or smooth, one ground alone, creases."""

import numpy as np

from hulmo.core.by_hand.choice import Mask
from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, SlotColumnDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.chosen_parts import CREASE, FLAT, ONE_GROUND
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class SetFacets(Command, frozen=True, tag="set_facets"):
    """Have chosen faces drawn flat, each with its own normal, or smooth again.

    Attributes
    ----------
    body : str
    flat : bool
    every : bool
        All faces, whether they are chosen or not.
    """

    body: str
    flat: bool = True
    every: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "set_facets")
        mask = np.ones(body.corners.count, np.bool_)
        if not self.every:
            body, mask = chosen_of(project, self.body, "face", "set_facets")
        return _marked(body, "face", FLAT, mask, float(self.flat), f"{'Flat' if self.flat else 'Smooth'} faces")


class LayOnFaces(Command, frozen=True, tag="lay_on_faces"):
    """Have one ground alone lie on the chosen faces, with no blend over their rim; or give them back to their vertices.

    Attributes
    ----------
    body : str
    ground : str
        Empty: what the vertices say.
    """

    body: str
    ground: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "lay_on_faces"
        body, mask = chosen_of(project, self.body, "face", where)
        value = 1 + project.ground_named(self.ground, where) if self.ground else 0
        if value and project.grounds[value - 1].locked:
            raise InvalidInput(f"{where}: the ground {self.ground!r} is locked; unlock it first")
        if GUARD in body.vertices and bool((body.vertices[GUARD][body.corners.triangles[mask], 0] > 0).any()):
            raise InvalidInput(f"{where}: part of what is chosen is guarded; clear the guard there, or choose less")
        label = f"Lay {self.ground} on faces" if self.ground else "Give faces back"
        return _marked(body, "face", ONE_GROUND, mask, float(value), label)


class SetCrease(Command, frozen=True, tag="set_crease"):
    """Have chosen edges stay sharp where the body is divided smoothly, and hold their line where it is remeshed.

    Attributes
    ----------
    body : str
    amount : float
        0 takes the crease away.
    """

    body: str
    amount: float = 1.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, mask = chosen_of(project, self.body, "edge", "set_crease")
        if not 0 <= self.amount <= 1:
            raise InvalidInput(f"set_crease: amount is {self.amount:g}; it must lie between 0 and 1")
        return _marked(body, "edge", CREASE, mask, self.amount, "Crease" if self.amount else "Take creases away")


def _marked(body: Body, domain: str, column: str, mask: Mask, value: float, label: str) -> Edit:
    # the edit after which a column has a value where a mask says so; without the column where it is 0 everywhere
    old = body.corners.slots.get(column)
    shape = (body.corners.count, 1 if domain == "face" else 3, 1)
    new = np.zeros(shape, np.float32) if old is None else old.copy()
    new[mask] = value
    after = new if new.any() else None
    if (old is None and after is None) or (old is not None and np.array_equal(old, new)):
        return Edit(label, ())
    return Edit(label, (SlotColumnDelta(body.ident, domain, column, None if old is None else old.copy(), after),))
