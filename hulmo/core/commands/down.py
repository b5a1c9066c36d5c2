"""Say which way is down for a body."""

import math

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.edit import BodyDelta, Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.follow import columns_delta, laid_anew
from hulmo.core.mesh.down import Down, check_down
from hulmo.core.progress import Progress
from hulmo.core.project import Project

CLOSE = 1e-6
"""Share of a body's size within which its surface may not come to the centre: there would be no up there."""


class SetDown(Command, frozen=True, tag="set_down"):
    """Say which way is down for a body: slopes, heights, terraces, slumping, shelter, rules and straight up follow.

    Attributes
    ----------
    body : str
    kind : str
        level: along -Y. centre: toward a place, for moons. way: along a direction.
    at : [x, y, z] or None
        The place, metres; None: the middle of the body. Or the direction down, of any length but 0.
    sea : float or None
        Metres where heights count from: up from zero, or from the centre; None: 0, or the mean distance of the surface
        from the centre.
    """

    body: str
    kind: str = "level"
    at: tuple[float, float, float] | None = None
    sea: float | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "set_down"
        body = project.body_named(self.body, where)
        down = self._down(project)
        check_down(down, where)
        if down.kind == "centre":
            near = body.nearest(np.array(down.at))
            bounds = body.bounds()
            if near is not None and near.distance <= CLOSE * bounds.radius:
                raise InvalidInput(
                    f"{where}: the centre lies on the surface of {body.name!r}; there would be no up there"
                )
        delta = BodyDelta(body.ident, "down", body.down, down)
        if not body.rules or down == body.down:
            return Edit("Which way is down", (delta,))
        work = body.copy()
        work.down = down
        every = [condition.ident for rule in body.rules for condition in rule.conditions]
        laid_anew(work, project.ground_names, progress, every)
        return Edit("Which way is down", (delta, *columns_delta(body, work)))

    def _down(self, project: Project) -> Down:
        body = project.body_named(self.body, "set_down")
        at, sea = self.at, self.sea
        if self.kind == "centre":
            if at is None:
                x, y, z = body.placed(body.bounds().centre).tolist()
                at = (x, y, z)
            if sea is None and all(math.isfinite(value) for value in at):
                away = body.placed(body.vertices["position"][body.corners.first_corner >= 0]) - at
                sea = float(np.linalg.norm(away, axis=1).mean())
        if self.kind == "way":
            length = math.hypot(*at) if at is not None and all(map(math.isfinite, at)) else 0.0
            if at is None or not length > 0 or not math.isfinite(length):
                raise InvalidInput("set_down: name the direction of down: three finite numbers, not all of them 0")
            at = (at[0] / length, at[1] / length, at[2] / length)
        return Down(self.kind, (0.0, 0.0, 0.0) if at is None or self.kind == "level" else at, sea or 0.0)
