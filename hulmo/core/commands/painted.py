"""What commands that paint vertices share: the ground they lay, and the deltas of what they leave."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import Delta, RowsDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.hand import settle
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.weights import HAND, WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project

Rows = NDArray[np.int32]
Weights = NDArray[np.float32]


def ground_to_lay(project: Project, name: str, where: str) -> tuple[Palette, int]:
    """The palette, and the column of a ground that may be laid.

    Raises
    ------
    InvalidInput
        No such ground, or a locked one.
    """
    column = project.ground_named(name, where)
    palette = Palette.of(project.grounds, project.blend)
    if palette.locked[column]:
        raise InvalidInput(f"{where}: the ground {name!r} is locked; unlock it first")
    return palette, column


def painted(
    body: Body, rows: Rows, amount: NDArray[np.float32], new: Weights, palette: Palette, column: int = -1
) -> tuple[Delta, ...]:
    """Deltas of a body that is painted by hand; none without rows. For the values see `hulmo.core.ground.hand.settle`."""
    if not rows.size:
        return ()
    weight, hand = settle(body, rows, amount, new, palette.locked, palette.most, column)
    return tuple(
        RowsDelta(body.ident, name, rows, np.take(body.vertices[name], rows, axis=0), after)
        for name, after in ((WEIGHT, weight), (HAND, hand))
    )
