"""Whole-body operations on the mesh: reduce, weld, fill border loops, turn faces over, even out."""

import numpy as np

from hulmo.core.commands.add_body import MOST_VERTICES
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, RowsDelta, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import tidied
from hulmo.core.memory import shortage
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.layer import REST
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.ease import ease
from hulmo.core.topology.fill import fill_borders
from hulmo.core.topology.mend import mend
from hulmo.core.topology.parts import turned_over
from hulmo.core.topology.recast import recast_surface
from hulmo.core.topology.recast_volume import recast_volume
from hulmo.core.topology.reduce import reduce_to, reduce_within

Tables = tuple[VertexTable, CornerTable]


class Reduce(Command, frozen=True, tag="reduce"):
    """Give a body fewer triangles: to a count, to a share (0 to 1), or as few as an error in metres allows; name one.

    Attributes
    ----------
    count : int or None
        Triangles.
    share : float or None
        Of the triangles, 0 to 1.
    error : float or None
        Metres by which the surface may move.
    """

    body: str
    count: int | None = None
    share: float | None = None
    error: float | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "reduce")
        if sum(value is not None for value in (self.count, self.share, self.error)) != 1:
            raise InvalidInput("reduce: name exactly one of count, share and error")
        if self.error is not None:
            if not 0 < self.error < np.inf:
                raise InvalidInput(f"reduce: error is {self.error:g} m; it must be larger than 0")
            tables = reduce_within(body, self.error, progress)
        else:
            if self.share is not None and not 0 < self.share < 1:
                raise InvalidInput(f"reduce: share is {self.share:g}; it must lie between 0 and 1")
            wanted = round(body.corners.live_count * self.share) if self.share is not None else self.count
            assert wanted is not None
            tables = reduce_to(body, wanted, progress)
        return _edit(f"Reduce {body.name}", body, tables)


class Recast(Command, frozen=True, tag="recast"):
    """Rebuild a body with even triangles at a wanted edge length.

    Attributes
    ----------
    body : str
    edge : float
        Metres.
    how : str
        "surface": along it, creases stay. "volume": around what a closed body encloses; parts that overlap become one and
        what crosses itself is healed. Empty: by volume when the body is closed, along the surface when it is open.
    passes : int
        Along the surface: 1 to 20.
    sharp : float
        Along the surface: edges that bend by more degrees are creases and stay; 180 keeps none.
    """

    body: str
    edge: float
    how: str = ""
    passes: int = 5
    sharp: float = 60.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "recast")
        for name, low, high in (("edge", 1e-4, 1e5), ("passes", 1, 20), ("sharp", 1.0, 180.0)):
            value = getattr(self, name)
            if not low <= value <= high:
                raise InvalidInput(f"recast: {name} is {value:g}; it must lie between {low:g} and {high:g}")
        wanted = recast_count(body, self.edge)
        short = shortage(wanted // 2)
        if wanted > 2 * MOST_VERTICES or short:
            raise InvalidInput(
                f"recast: edge {self.edge:g} m would make about {wanted:,} triangles of {body.name!r}"
                f"{': ' + short if short else ''}; choose a longer edge"
            )
        if self.how not in ("", "surface", "volume"):
            raise InvalidInput(f'recast: how is {self.how!r}; it must be "surface", "volume" or empty')
        closed = not body.corners.border_corners().size
        if self.how == "surface" or (not self.how and not closed):
            tables = recast_surface(body, self.edge, self.passes, self.sharp, progress)
        elif GUARD in body.vertices and body.vertices[GUARD].any():
            raise InvalidInput(
                f"recast: part of {body.name!r} is guarded, and recasting by volume would change it; clear the guard, or "
                "recast along the surface"
            )
        else:
            tables = recast_volume(body, self.edge, progress)
        return _edit(f"Recast {body.name}", body, tables)


class Weld(Command, frozen=True, tag="weld"):
    """Make vertices that lie within a tolerance (metres) one, and clean up what that leaves.

    Attributes
    ----------
    tolerance : float
        Metres, no more than the mean edge.
    """

    body: str
    tolerance: float = 0.001

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "weld")
        if not 0 < self.tolerance <= 1000:
            raise InvalidInput(f"weld: tolerance is {self.tolerance:g} m; it must lie between 0 and 1000 m")
        usual = mean_edge(body)
        if self.tolerance > usual:
            raise InvalidInput(
                f"weld: tolerance is {self.tolerance:g} m, longer than the edges of {body.name!r} are on average "
                f"({usual:.3g} m); it would take the shape apart. Choose a smaller one, or use reduce"
            )
        progress.step(0.1, "looking for double vertices")
        triangles = body.corners.live_triangles()
        result = mend(body.vertices["position"], triangles, self.tolerance, outward=False)
        if not result.triangles.size:
            raise InvalidInput(
                f"weld: nothing of {body.name!r} would be left; choose a smaller tolerance than {self.tolerance:g} m"
            )
        if result.triangles.shape == triangles.shape and result.source.size == np.unique(triangles).size:
            return Edit("Weld", ())
        table = VertexTable(result.source.size)
        for name in body.vertices.names:
            table.set_column(name, body.vertices[name][result.source])
        live = np.flatnonzero(body.corners.triangles[:, 0] >= 0)[result.faces]
        slots = body.corners.slots.taken(live, result.turned)
        corners = CornerTable.from_triangles(result.triangles, table.count, slots)
        return _edit("Weld", body, (table, corners))


class FillBorders(Command, frozen=True, tag="fill_borders"):
    """Close every border loop of a body."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "fill_borders")
        if not body.corners.border_corners().size:
            raise InvalidInput(f"fill_borders: {body.name!r} is closed already")
        progress.step(0.1, "closing border loops")
        table, corners, _ = fill_borders(body.vertices, body.corners)
        return _edit("Fill border loops", body, (table, corners))


class FlipFaces(Command, frozen=True, tag="flip_faces"):
    """Turn the faces of a body over."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "flip_faces")
        return _edit("Flip faces", body, turned_over(body.vertices, body.corners))


class EvenOut(Command, frozen=True, tag="even_out"):
    """Slide the vertices of a body along its surface until triangles are well shaped; borders and the guard stay.

    Attributes
    ----------
    passes : int
        1 to 200.
    """

    body: str
    passes: int = 10

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "even_out")
        if not 1 <= self.passes <= 200:
            raise InvalidInput(f"even_out: passes is {self.passes}; it must lie between 1 and 200")
        column = REST if body.layers else "position"
        before = body.vertices[column].copy()
        step = ease(body, self.passes, progress) - body.vertices["position"]
        rows = np.flatnonzero(step.any(axis=1)).astype(np.int32)
        return Edit("Even out", (RowsDelta(body.ident, column, rows, before[rows], before[rows] + step[rows]),))


def recast_count(body: Body, edge: float) -> int:
    """About how many triangles an edge length makes of a body: its area over that of an even triangle."""
    position = body.vertices["position"].astype(np.float64)
    a, b, c = (position[body.corners.live_triangles()[:, i]] for i in range(3))
    area = float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)
    return max(4, int(area / (0.433 * edge * edge)))


def _edit(label: str, body: Body, tables: Tables) -> Edit:
    return Edit(label, (TablesDelta(body.ident, (body.vertices, body.corners), (tidied(tables[0]), tables[1])),))
