"""Borders of neighbouring bodies made to fit, and kept so."""

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.edit import ColumnDelta, Delta, Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.seam import border_of, seam_between
from hulmo.core.mesh.stitched import STITCHED
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.stitch import WRITTEN, make_alike, since, snapshot

MOST_WITHIN = 1000.0
"""Metres that vertices may be drawn together over at the most."""


class StitchBorders(Command, frozen=True, tag="stitch_borders"):
    """Stitch the borders of bodies where they meet: vertices in the same place get one position, one normal and the same
    grounds, and keep them through whatever is done to one of the bodies.

    Attributes
    ----------
    bodies : list of str
        Two or more; none: all that are shown.
    within : float
        Metres that two vertices may lie apart and still be stitched; 0 to 1000. They come to lie midway, or where the one
        lies whose border is locked or which is guarded.
    """

    bodies: tuple[str, ...] = ()
    within: float = 0.001

    @property
    def lays_rules(self) -> bool:
        """See `Command.lays_rules`: positions move by no more than the tolerance."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "stitch_borders"
        bodies = bodies_named(project, self.bodies, where)
        if not 0 <= self.within <= MOST_WITHIN:
            raise InvalidInput(f"{where}: within is {self.within:g} m; it must lie between 0 and {MOST_WITHIN:g}")
        for body in bodies:
            if body.locked:
                raise InvalidInput(f"{where}: the body {body.name!r} is locked; unlock it first")
        rows = [border_of(body) for body in bodies]
        progress.step(0.1, "looking where borders meet")
        works = []
        for body in bodies:
            weights_of(body, len(project.grounds))
            works.append(_work(body))
        seam = seam_between(works, rows, max(self.within, 1e-9))
        if not seam.count:
            names = ", ".join(repr(body.name) for body in bodies)
            raise InvalidInput(
                f"{where}: no two border vertices of {names} lie within {1000 * self.within:g} mm of each other; move the "
                "bodies together, or allow more"
            )
        progress.step(0.5, "stitching")
        first = snapshot(seam)
        make_alike(seam)
        deltas: list[Delta] = []
        for which, body in enumerate(bodies):
            if STITCHED not in body.vertices and seam.of(which)[1].size:
                blank = np.zeros((body.vertices.count, 3), np.float32)
                deltas.append(ColumnDelta(body.ident, STITCHED, None, blank))
        return Edit("Stitch borders", (*deltas, *since(seam, first)))


class UnstitchBorders(Command, frozen=True, tag="unstitch_borders"):
    """Let borders that are stitched be borders of their own again; they stay where and as they are.

    Attributes
    ----------
    bodies : list of str
        None: all.
    """

    bodies: tuple[str, ...] = ()

    @property
    def lays_rules(self) -> bool:
        """See `Command.lays_rules`."""
        return True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "unstitch_borders"
        bodies = [project.body_named(name, where) for name in self.bodies] or list(project.bodies)
        stitched = [body for body in bodies if STITCHED in body.vertices]
        if not stitched:
            raise InvalidInput(f"{where}: no border is stitched")
        deltas = [ColumnDelta(body.ident, STITCHED, body.vertices[STITCHED].copy(), None) for body in stitched]
        return Edit("Unstitch borders", tuple(deltas))


def bodies_named(project: Project, names: tuple[str, ...], where: str) -> list[Body]:
    """Two bodies or more, by name, each once; where none is named, all that are shown.

    Raises
    ------
    InvalidInput
    """
    bodies = [project.body_named(name, where) for name in dict.fromkeys(names)]
    bodies = bodies or [body for body in project.bodies if body.shown]
    if len(bodies) < 2:
        raise InvalidInput(f"{where}: it takes two bodies or more")
    return bodies


def _work(body: Body) -> Body:
    # a view of a body whose columns that follow a seam can be written in place
    work = body.view()
    for name in (*WRITTEN, "normal"):
        if name in body.vertices:
            work.vertices.set_column(name, body.vertices[name].copy())
    if STITCHED not in work.vertices:
        work.vertices.add_column(STITCHED, 3)
    return work
