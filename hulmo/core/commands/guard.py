"""The guard as a whole: invert, grow, shrink, soften, clear, or make it from what the surface is like."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.edit import ColumnDelta, Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.marked import chosen_rows
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.spread import spread
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Share = NDArray[np.float32]

WAYS = ("invert", "grow", "shrink", "soften", "clear", "all")

SOURCES = ("slope", "height", "ridge", "hollow", "ground", "chosen")

MOST_STEPS = 100


class ChangeGuard(Command, frozen=True, tag="change_guard"):
    """Change the guard of a body as a whole.

    Attributes
    ----------
    body : str
    way : str
        invert; grow, shrink or soften by `steps` rings of vertices; clear; all.
    steps : int
        1 to 100.
    """

    body: str
    way: str
    steps: int = 1

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "change_guard")
        if self.way not in WAYS:
            raise InvalidInput(f"change_guard: way is {self.way!r}; it must be one of {', '.join(WAYS)}")
        if not 1 <= self.steps <= MOST_STEPS:
            raise InvalidInput(f"change_guard: steps is {self.steps}; it must lie between 1 and {MOST_STEPS}")
        now = guard_of(body)
        if self.way in ("grow", "shrink", "soften"):
            new = now
            for done in range(self.steps):
                progress.step(done / self.steps, "spreading the guard")
                new = spread(body.corners, new, self.way)
        else:
            new = {"invert": 1.0 - now, "clear": np.zeros_like(now), "all": np.ones_like(now)}[self.way]
        label = {"clear": "Clear guard", "all": "Guard all"}.get(self.way, f"{self.way.capitalize()} guard")
        return Edit(label, guard_deltas(body, new))


class GuardFrom(Command, frozen=True, tag="guard_from"):
    """Make the guard from what the surface is like.

    Attributes
    ----------
    body : str
    source : str
        slope (degrees, `low` to `high`), height (metres, `low` to `high`), ridge or hollow (one over the radius in metres
        they are rounded with, from `low`), ground (its weight), chosen (the chosen vertices).
    low, high : float
        Limits between which all is guarded, in the unit of the source.
    soft : float
        Width of the fading rim outside the limits, in the unit of the source.
    ground : str
        For the source ground.
    add : bool
        Whether it comes on top of what is guarded already.
    """

    body: str
    source: str
    low: float = 0.0
    high: float = 1e9
    soft: float = 0.0
    ground: str = ""
    add: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = f"guard_from, {self.source}"
        body = project.body_named(self.body, where)
        if self.source not in SOURCES:
            raise InvalidInput(f"guard_from: source is {self.source!r}; it must be one of {', '.join(SOURCES)}")
        if not np.isfinite([self.low, self.high, self.soft]).all() or self.soft < 0 or self.low > self.high:
            raise InvalidInput(f"{where}: low, high and soft must be finite, low not above high, soft not negative")
        progress.step(0.1, "measuring the surface")
        new = _measured(project, body, self, where)
        if self.add:
            new = np.maximum(new, guard_of(body))
        return Edit(f"Guard from {self.source}", guard_deltas(body, new))


def guard_of(body: Body) -> Share:
    """(N,) guard of a body, zeros where it has none."""
    if GUARD in body.vertices:
        return body.vertices[GUARD][:, 0].copy()
    return np.zeros(body.vertices.count, np.float32)


def guard_deltas(body: Body, new: Share) -> tuple[ColumnDelta, ...]:
    """The delta to another guard, none to the same; one that guards nothing goes without a column."""
    if np.array_equal(new, guard_of(body)):
        return ()
    before = body.vertices[GUARD].copy() if GUARD in body.vertices else None
    after = np.ascontiguousarray(new[:, None], np.float32) if new.any() else None
    return (ColumnDelta(body.ident, GUARD, before, after),)


def _measured(project: Project, body: Body, command: GuardFrom, where: str) -> Share:
    vertices = body.vertices
    if command.source == "ground":
        return weights_of(body, len(project.grounds))[:, project.ground_named(command.ground, where)].copy()
    if command.source == "chosen":
        rows = chosen_rows(body)
        if not rows.size:
            raise InvalidInput(f"{where}: no vertex of {body.name!r} is chosen; choose some first")
        value = np.zeros(vertices.count, np.float32)
        value[rows] = 1.0
        return value
    if command.source == "slope":
        value = np.asarray(body.slopes(slice(None)), np.float32)
    elif command.source == "height":
        value = body.heights(vertices["position"]).astype(np.float32)
    else:
        rows = np.arange(vertices.count, dtype=np.int32)
        mean, _ = curvature(vertices["position"], vertices["normal"], body.corners, rows)
        value = mean if command.source == "ridge" else -mean
    outside = np.maximum(command.low - value, value - command.high)
    if command.soft == 0:
        return np.asarray(outside <= 0, np.float32)
    return np.asarray(np.clip(1.0 - outside / command.soft, 0.0, 1.0), np.float32)
