"""Copy weights from one body to another by nearness."""

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.commands.painted import painted
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.near_weights import near_weights
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.weights import weights_of
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class CopyWeights(Command, frozen=True, tag="copy_weights"):
    """Paint a body like the nearest surface of another one.

    Attributes
    ----------
    body : str
        Is painted.
    source : str
        Is copied.
    reach : float
        Metres; beyond it nothing changes, and over its last quarter the copy fades out.
    """

    body: str
    source: str
    reach: float = 1.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, source = (project.body_named(name, "copy_weights") for name in (self.body, self.source))
        if body is source:
            raise InvalidInput("copy_weights: a body cannot be copied onto itself; name another one")
        if not 1e-4 <= self.reach <= 1e6:
            raise InvalidInput(f"copy_weights: reach is {self.reach:g} m; it must lie between 0.0001 and 1000000 m")
        palette = Palette.of(project.grounds, project.blend)
        weight, other = weights_of(body, palette.count), weights_of(source, palette.count)
        progress.step(0.1, "finding what is nearest")
        near = near_weights(body, source, other)
        amount = np.clip((self.reach - near.away) / (0.25 * self.reach), 0.0, 1.0).astype(np.float32)
        amount[body.corners.first_corner < 0] = 0.0
        rows = np.flatnonzero(amount > 0).astype(np.int32)
        if not rows.size:
            raise InvalidInput(
                f"copy_weights: {self.source!r} is nowhere nearer than {self.reach:g} m to {self.body!r}; "
                "choose a larger reach"
            )
        amount = amount[rows]
        free = body.free_share(rows)
        if free is not None:
            amount *= free
        new = weight[rows] + (near.weight[rows] - weight[rows]) * amount[:, None]
        progress.step(0.8, "laying it")
        return Edit(f"Copy weights of {self.source}", painted(body, rows, amount, new, palette))
