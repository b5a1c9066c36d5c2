"""Choose vertices, keep what is chosen under a name, and give it exact weights."""

import itertools

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.painted import ground_to_lay, painted
from hulmo.core.edit import ColumnDelta, Edit, RowsDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.ground.evaluate import rule_share
from hulmo.core.ground.marked import CHOSEN, MARKED, chosen_rows, marked_rows
from hulmo.core.ground.rules import Condition, Rule, checked
from hulmo.core.ground.shift import shift
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.edge_ways import edge_path, edge_row
from hulmo.core.mesh.spread import spread
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.parts import part_of_triangles

Rows = NDArray[np.int32]

BY = ("rows", "row", "path", "where", "marked", "all", "none", "invert", "grow", "shrink", "connected")

WAYS = ("set", "add", "take")

MOST_STEPS = 100


class Choose(Command, frozen=True, tag="choose"):
    """Choose vertices of a body.

    Attributes
    ----------
    body : str
    by : str
        rows: the numbers in `rows`. row: the row of edges that goes on from the two in `rows`. path: along edges from each of
        `rows` to the next. where: where conditions hold by half or more. marked: the set `name`. all, none, invert. grow,
        shrink: by `steps` rings. connected: all that hangs together with what is chosen.
    way : str
        set: instead of what was chosen; add: as well; take: away from it.
    rows : list of int
        Numbers of vertices, from 0.
    where : list of Condition
        Conditions as ground rules have them: `measure`, `settings`, `low`, `high`, `low_soft`, `high_soft`, `join`,
        `inverted`.
    name : str
        Of a marked set.
    steps : int
        1 to 100 rings.
    """

    body: str
    by: str = "rows"
    way: str = "set"
    rows: tuple[int, ...] = ()
    where: tuple[Condition, ...] = ()
    name: str = ""
    steps: int = 1

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "choose")
        for name, value, known in (("by", self.by, BY), ("way", self.way, WAYS)):
            if value not in known:
                raise InvalidInput(f"choose: {name} is {value!r}; it must be one of {', '.join(known)}")
        if not 1 <= self.steps <= MOST_STEPS:
            raise InvalidInput(f"choose: steps is {self.steps}; it must lie between 1 and {MOST_STEPS}")
        now = np.zeros(body.vertices.count, np.bool_)
        now[chosen_rows(body)] = True
        found = self._found(project, body, now, progress)
        if self.by in ("invert", "grow", "shrink", "connected") or self.way == "set":
            after = found
        else:
            after = now | found if self.way == "add" else now & ~found
        after &= body.corners.first_corner >= 0
        if np.array_equal(after, now):
            return Edit("Choose vertices", ())
        before = body.vertices[CHOSEN].copy() if CHOSEN in body.vertices else None
        column = after.astype(np.float32)[:, None] if after.any() else None
        if before is not None and column is not None:
            rows = np.flatnonzero(before[:, 0] != column[:, 0]).astype(np.int32)
            return Edit("Choose vertices", (RowsDelta(body.ident, CHOSEN, rows, before[rows], column[rows]),))
        return Edit("Choose vertices", (ColumnDelta(body.ident, CHOSEN, before, column),))

    def _found(self, project: Project, body: Body, now: NDArray[np.bool_], progress: Progress) -> NDArray[np.bool_]:
        out = np.zeros(body.vertices.count, np.bool_)
        if self.by == "all":
            out[:] = True
        elif self.by == "invert":
            out = ~now
        elif self.by in ("grow", "shrink"):
            share = now.astype(np.float32)
            for _ in range(self.steps):
                share = spread(body.corners, share, self.by)
            out = share > 0.5
        elif self.by == "connected":
            _, part = part_of_triangles(body.corners)
            triangles = body.corners.live_triangles()
            mine = np.isin(part, part[any_of(now, triangles)])
            out[triangles[mine]] = True
        elif self.by == "where":
            rule = checked((Rule("chosen", self.where),), "choose")[0]
            every = np.arange(out.size, dtype=np.int32)
            work = body.view()
            below = weights_of(body, len(project.grounds))
            out = rule_share(rule, work, project.ground_names, every, below, progress) >= 0.5
        elif self.by == "marked":
            out[marked_rows(body, self.name)] = True
        elif self.by != "none":
            out[self._named(body)] = True
        return out

    def _named(self, body: Body) -> Rows:
        try:
            rows = np.array(self.rows, np.int64).reshape(-1)
        except OverflowError as error:
            raise InvalidInput(f"choose: {body.name!r} has no vertex {shown(max(self.rows, key=abs))}") from error
        there = (rows >= 0) & (rows < body.vertices.count)
        if not there.all() or (body.corners.first_corner[rows] < 0).any():
            wrong = rows[~there] if not there.all() else rows[body.corners.first_corner[rows] < 0]
            raise InvalidInput(f"choose: {body.name!r} has no vertex {int(wrong[0])}")
        if self.by == "rows":
            return rows.astype(np.int32)
        if rows.size < 2:
            raise InvalidInput(f"choose: a {self.by} needs two vertices, not {rows.size}")
        if self.by == "row":
            return edge_row(body, int(rows[0]), int(rows[1]))
        ways = [edge_path(body, int(a), int(b)) for a, b in itertools.pairwise(rows)]
        if any(not way.size for way in ways):
            raise InvalidInput("choose: the vertices do not hang together, so no path leads from one to the next")
        return np.concatenate(ways)


class MarkVertices(Command, frozen=True, tag="mark_vertices"):
    """Keep the chosen vertices as a named set; with nothing chosen, drop the set of that name.

    Attributes
    ----------
    body, name : str
    """

    body: str
    name: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "mark_vertices")
        if not self.name.strip() or "/" in self.name:
            raise InvalidInput(f"mark_vertices: {self.name!r} is no name for a set; give it a few letters")
        column = MARKED + self.name
        rows = chosen_rows(body)
        before = body.vertices[column].copy() if column in body.vertices else None
        if not rows.size and before is None:
            raise InvalidInput(f"mark_vertices: no vertex of {body.name!r} is chosen; choose some first")
        after = None
        if rows.size:
            after = np.zeros((body.vertices.count, 1), np.float32)
            after[rows] = 1.0
        return Edit(f"Mark {self.name}", (ColumnDelta(body.ident, column, before, after),))


class SetWeight(Command, frozen=True, tag="set_weight"):
    """Give one ground an exact share at the chosen vertices; the others keep their proportions.

    Attributes
    ----------
    body, ground : str
    share : float
        0 to 1.
    """

    body: str
    ground: str
    share: float

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "set_weight")
        palette, column = ground_to_lay(project, self.ground, "set_weight")
        if not 0.0 <= self.share <= 1.0:
            raise InvalidInput(f"set_weight: share is {self.share:g}; it must lie between 0 and 1")
        rows = chosen_rows(body)
        if not rows.size:
            raise InvalidInput(f"set_weight: no vertex of {body.name!r} is chosen; choose some first")
        weight = weights_of(body, palette.count)
        step = np.float32(self.share) - np.take(weight, rows, axis=0)[:, column]
        amount = np.ones(rows.size, np.float32)
        free = body.free_share(rows)
        if free is not None:  # the guard keeps its share of what lay there
            step, amount = step * free, free
        reached = amount > 0
        if not reached.any():
            raise InvalidInput(f"set_weight: all chosen vertices of {body.name!r} are guarded; clear the guard first")
        rows, step, amount = rows[reached], step[reached], amount[reached]
        new = shift(weight, rows, step, column, 1.0)
        return Edit(f"Set {self.ground}", painted(body, rows, amount, new, palette, column))
