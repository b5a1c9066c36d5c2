"""The ground that something stands on, laid some way up on it."""

import numpy as np

from hulmo.core.commands.bank_up import in_range
from hulmo.core.commands.command import Command
from hulmo.core.commands.painted import painted
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.near_weights import near_weights
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.sounding import BURIED, soundings
from hulmo.core.noise import fbm
from hulmo.core.progress import Progress
from hulmo.core.project import Project

OCTAVES = 3
"""Of the noise that makes the upper end ragged."""

BUMPS = 0.7
"""Heights from one bump of that noise to the next."""


class LayAround(Command, frozen=True, tag="lay_around"):
    """Paint the lower part of a rock like the ground it stands in, so that both meet in one material.

    What is buried takes the ground whole; from there it fades out over a height, as `t * t * (3 - 2 t)`.

    Attributes
    ----------
    body : str
        The rock.
    source : str
        The body that it stands in.
    height : float
        Metres from the ground over which it fades out.
    ragged : float
        How uneven the upper end is: 0 straight, 1 from nothing to twice the height.
    seed : int
        Of that.
    """

    body: str
    source: str
    height: float = 0.5
    ragged: float = 0.4
    seed: int = 1

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "lay_around"
        body, ground = project.unlocked_body(self.body, where), project.body_named(self.source, where)
        if body is ground:
            raise InvalidInput(f"{where}: a body has its own ground already; name the body it stands in")
        in_range(where, "height", self.height, 1e-3, 1e4)
        if not 0.0 <= self.ragged <= 1.0:
            raise InvalidInput(f"{where}: ragged is {self.ragged:g}; it must lie between 0 and 1")
        palette = Palette.of(project.grounds, project.blend)
        weight = weights_of(body, palette.count)
        progress.step(0.1, "finding the ground")
        near = near_weights(body, ground, weights_of(ground, palette.count))
        height = np.full(near.away.size, self.height)
        if self.ragged:
            waves = fbm(near.place, BUMPS * self.height, OCTAVES, self.seed).astype(np.float64)
            height *= np.maximum(1.0 + self.ragged * np.clip(2.0 * waves, -1.0, 1.0), 1e-3)
        close = np.flatnonzero(near.away < height + self.height)
        own = near.place[close].astype(np.float64)
        state, _ = soundings(ground, own, ground.up(own))
        away = near.away.copy()
        away[close[state == BURIED]] = 0.0
        t = np.clip(1.0 - away / height, 0.0, 1.0)
        amount = (t * t * (3.0 - 2.0 * t)).astype(np.float32)
        amount[body.corners.first_corner < 0] = 0.0
        rows = np.flatnonzero(amount > 0).astype(np.int32)
        if not rows.size:
            raise InvalidInput(f"{where}: no part of {self.body!r} is within {self.height:g} m of {self.source!r}")
        amount = amount[rows]
        free = body.free_share(rows)
        if free is not None:
            amount *= free
        new = weight[rows] + (near.weight[rows] - weight[rows]) * amount[:, None]
        progress.step(0.8, "laying it")
        return Edit(f"Lay ground around {body.name}", painted(body, rows, amount, new, palette))
