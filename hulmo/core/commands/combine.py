"""Bodies added, cut and intersected; passages bored through them."""

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.edit import Delta, Edit, FieldDelta, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import HAND, WEIGHT, filled, tidied, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.origin import shifted
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.cure import clean_cut
from hulmo.core.topology.parts import Tables, part_of_triangles, picked
from hulmo.core.topology.solid import HOWS, Solid, combine, like, solid_of
from hulmo.core.topology.tube import FEWEST, tube

MOST_BORED = 800_000
"""Vertices of the walls of one passage; a body larger than that is none that anybody bores in one go."""

CRUMB = 0.02
"""Share of the triangles under which a loose piece is a crumb."""


class Combine(Command, frozen=True, tag="combine"):
    """Add another body to a body, cut it away, or keep what both share.

    Attributes
    ----------
    body, other : str
        Both closed.
    how : str
        add, cut or common.
    keep : bool
        Whether the other body stays in the project.
    """

    body: str
    other: str
    how: str = "add"
    keep: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = f"combine, {self.how}"
        body, other = project.body_named(self.body, where), project.body_named(self.other, where)
        if self.how not in HOWS:
            raise InvalidInput(f"combine: how is {self.how!r}; it must be one of {', '.join(HOWS)}")
        if body is other:
            raise InvalidInput(f"{where}: a body cannot be combined with itself; name another one")
        _weighted(project, body, other)
        progress.step(0.1, "reading the bodies")
        first, second = solid_of(body, where), solid_of(other, where)
        second.values[:, :3] = shifted(other, body)
        given = {name: other.vertices[name] for name in (WEIGHT, "guard") if name in other.vertices}
        given[HAND] = given[WEIGHT]  # what is seen of its grounds comes along as hand paint
        progress.step(0.3, "combining")
        tables = _tidied(combine(first, _as(first, second, given), self.how, where))
        progress.step(0.8, "cleaning the rims")
        tables = clean_cut(body, tables, shifted(other, body))
        label = {"add": "Add", "cut": "Cut", "common": "Keep common"}[self.how]
        deltas: list[Delta] = [TablesDelta(body.ident, (body.vertices, body.corners), tables)]
        if not self.keep:
            rest = tuple(entry for entry in project.bodies if entry is not other)
            deltas.append(FieldDelta("bodies", project.bodies, rest))
        return Edit(f"{label} {other.name}", tuple(deltas))


class Bore(Command, frozen=True, tag="bore"):
    """Cut a passage along a path; an end outside the body is open, an end inside is blind.

    Attributes
    ----------
    body : str
        A closed body.
    path : list of [x, y, z]
        At least two points, metres; a smooth line is laid through them.
    radius : float
        Metres.
    irregularity : float
        0 to 1: how much the radius varies.
    edge : float or None
        Wanted length of the walls' edges, metres; None: that of the body.
    ground : str
        Ground of the walls; empty: what lies where the passage begins.
    seed : int
        Another one is another passage along the same path.
    rough, rough_size : float
        Metres: height and size of bumps on the walls.
    radii : list of float
        Radius at each point of the path, metres, smoothly joined; empty for `radius` all along.
    crumbs : bool
        Whether loose pieces that the cut leaves stay; otherwise those under 2 % of the triangles are dropped.
    """

    body: str
    path: tuple[tuple[float, float, float], ...]
    radius: float = 2.0
    irregularity: float = 0.2
    edge: float | None = None
    ground: str = ""
    seed: int = 1
    rough: float = 0.0
    rough_size: float = 1.5
    radii: tuple[float, ...] = ()
    crumbs: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "bore")
        path = np.array(self.path, np.float64).reshape(-1, 3)
        self._check(path)
        path = body.own(path)
        _weighted(project, body)
        edge = mean_edge(body) if self.edge is None else self.edge
        radii = np.array(self.radii or [self.radius] * path.shape[0], np.float64)
        length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
        count = max(FEWEST, 2 * np.pi * float(radii.max()) / edge) * length / edge
        if count > MOST_BORED:
            raise InvalidInput(
                f"bore: {length:,.0f} m of passage with edges of {edge:g} m would take about {count:,.0f} vertices, at most "
                f"{MOST_BORED:,} are possible; choose a longer edge or a shorter path"
            )
        progress.step(0.1, "laying the passage")
        position, triangles = tube(path, radii, edge, self.irregularity, self.seed, self.rough, self.rough_size)
        if self.ground:
            column = project.ground_named(self.ground, "bore")
            given = dict.fromkeys((WEIGHT, HAND), filled(position.shape[0], len(project.grounds), column))
        else:
            near = body.own_nearest(path[0])
            assert near is not None
            rows = body.corners.vertex[3 * near.triangle : 3 * near.triangle + 3]
            given = {name: np.tile(body.vertices[name][rows[:1]], (position.shape[0], 1)) for name in (WEIGHT, HAND)}
        solid = solid_of(body, "bore")
        progress.step(0.3, "cutting")
        tables = _tidied(combine(solid, like(solid.columns, position, triangles, given), "cut", "bore"))
        progress.step(0.8, "cleaning the rims")
        tables = clean_cut(body, tables, position)
        if not self.crumbs:
            tables = _without_crumbs(tables)
        return Edit("Bore", (TablesDelta(body.ident, (body.vertices, body.corners), tables),))

    def _check(self, path: np.ndarray) -> None:
        if path.shape[0] < 2 or not np.isfinite(path).all():
            raise InvalidInput("bore: a path needs at least two points of finite numbers")
        if float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum()) < 1e-6:
            raise InvalidInput("bore: all points of the path are in the same place; draw a longer one")
        for name, low, high in (
            ("radius", 1e-3, 1e4), ("irregularity", 0.0, 1.0), ("rough", 0.0, 1e3), ("rough_size", 1e-3, 1e4),
        ):  # fmt: skip
            value = getattr(self, name)
            if not low <= value <= high:
                raise InvalidInput(f"bore: {name} is {value:g}; it must lie between {low:g} and {high:g}")
        if self.radii and (len(self.radii) != path.shape[0] or not all(1e-3 <= radius <= 1e4 for radius in self.radii)):
            raise InvalidInput(
                f"bore: radii must be {path.shape[0]} numbers from 0.001 to 10000 m, one for each point of the path"
            )
        least = min(self.radii or (self.radius,))
        if self.rough > 0.5 * least:
            raise InvalidInput(
                f"bore: rough is {self.rough:g} m; bumps may be half as high as the radius at the most, {0.5 * least:g} m"
            )
        if self.edge is not None and not 1e-3 <= self.edge <= 1e4:
            raise InvalidInput(f"bore: edge is {self.edge:g} m; it must lie between 0.001 and 10000 m")


def _tidied(tables: Tables) -> Tables:
    return tidied(tables[0]), tables[1]


def _without_crumbs(tables: Tables) -> Tables:
    count, part = part_of_triangles(tables[1])
    sizes = np.bincount(part, minlength=count)
    keep = sizes >= CRUMB * part.size
    return tables if keep.all() else picked(*tables, keep[part])


def _weighted(project: Project, *bodies: Body) -> None:
    for body in bodies:
        weights_of(body, len(project.grounds))


def _as(first: Solid, second: Solid, given: dict[str, np.ndarray]) -> Solid:
    # the other body as its shape is seen: its layers and coat end here, grounds and guard come along
    return like(first.columns, np.ascontiguousarray(second.values[:, :3]), second.triangles, given, second.known)
