"""Lay one ground over a body or over a part of it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.painted import ground_to_lay, painted
from hulmo.core.edit import BodyDelta, ColumnDelta, Delta, Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.evaluate import rule_share
from hulmo.core.ground.marked import chosen_rows, marked_rows
from hulmo.core.ground.rules import Condition, Rule, checked
from hulmo.core.ground.weights import HAND, WEIGHT, filled, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.parts import part_of_triangles

PARTS = ("all", "chosen", "connected", "marked")


class Fill(Command, frozen=True, tag="fill"):
    """Lay one ground over a whole body, or over a part of it.

    Over all of a body without rules it becomes the base ground; everywhere else it is hand paint.

    Attributes
    ----------
    body, ground : str
    part : str
        all; chosen: the chosen vertices; connected: what hangs together with `point`; marked: the set `name`.
    where : list of Condition
        Further limits, such as on slope and height; see `hulmo.core.ground.rules`.
    strength : float
        Share of the way, 0 to 1.
    point : list of [x, y, z]
        Metres.
    name : str
        For the part marked.
    """

    body: str
    ground: str
    part: str = "all"
    where: tuple[Condition, ...] = ()
    strength: float = 1.0
    point: tuple[float, float, float] = (0.0, 0.0, 0.0)
    name: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "fill")
        palette, column = ground_to_lay(project, self.ground, "fill")
        if not 0.0 <= self.strength <= 1.0:
            raise InvalidInput(f"fill: strength is {self.strength:g}; it must lie between 0 and 1")
        weight = weights_of(body, palette.count)
        rule = checked((Rule(self.ground, self.where),), "fill")[0]
        rows = self._rows(body)
        amount = np.full(rows.size, self.strength, np.float32)
        if rule.conditions:
            every = np.arange(body.vertices.count, dtype=np.int32)
            work = body.view()
            amount *= rule_share(rule, work, palette.names, every, weight, progress)[rows]
        free = body.free_share(rows)
        if free is not None:  # the guard keeps its share of what lay there
            amount *= free
        label = f"Fill with {self.ground}"
        if self.part == "all" and amount.all() and not body.rules and not palette.locked.any() and amount.min() == 1.0:
            return Edit(label, self._as_base(body, column, palette.count))
        reached = amount > 0
        rows, amount = np.ascontiguousarray(rows[reached]), amount[reached]
        before = np.take(weight, rows, axis=0)
        new = before + (filled(rows.size, palette.count, column) - before) * amount[:, None]
        return Edit(label, painted(body, rows, amount, new, palette, column))

    def _as_base(self, body: Body, column: int, count: int) -> tuple[Delta, ...]:
        deltas: list[Delta] = [
            ColumnDelta(body.ident, WEIGHT, body.vertices[WEIGHT].copy(), filled(body.vertices.count, count, column))
        ]
        if body.vertices[HAND].any():
            before = body.vertices[HAND].copy()
            deltas.append(ColumnDelta(body.ident, HAND, before, np.zeros_like(before)))
        if body.base != column:
            deltas.append(BodyDelta(body.ident, "base", body.base, column))
        return tuple(deltas)

    def _rows(self, body: Body) -> NDArray[np.int32]:
        if self.part not in PARTS:
            raise InvalidInput(f"fill: part is {self.part!r}; it must be one of {', '.join(PARTS)}")
        if self.part == "chosen":
            rows = chosen_rows(body)
            if not rows.size:
                raise InvalidInput(f"fill: no vertex of {body.name!r} is chosen; choose some first")
            return rows
        if self.part == "marked":
            return marked_rows(body, self.name)
        if self.part == "connected":
            near = body.nearest(np.array(self.point, np.float64))
            _, part = part_of_triangles(body.corners)
            live = np.flatnonzero(body.corners.triangles[:, 0] >= 0)
            assert near is not None
            mine = live[part == part[np.searchsorted(live, near.triangle)]]
            return np.unique(body.corners.triangles[mine]).astype(np.int32)
        return np.arange(body.vertices.count, dtype=np.int32)
