"""Slump everywhere: loose material slides to its angle of repose, all over the body."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.normals import update_normals
from hulmo.core.relief.relief import Relief, Task
from hulmo.core.sculpt.brushes.slump import ANGLE
from hulmo.core.sculpt.slide import lie_of, slide
from hulmo.core.setting import Number, number

ENOUGH = 0.5
"""Degrees above the angle at which material counts as settled."""

SWEEPS = 4
"""Passes between two reports of progress."""


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres, to where material came to rest; volume is kept."""
    values = task.values
    triangles = task.corners.live_triangles()
    position, normal = task.position.astype(np.float64), task.normal.copy()
    corners, rows = task.corners, np.arange(normal.shape[0], dtype=np.int32)
    lie = lie_of(normal, triangles, task.up)
    angle, passes = number(values, "angle"), int(number(values, "passes"))
    for done in range(0, passes, SWEEPS):
        task.progress.step(done / passes, "sliding")
        sweeps = min(SWEEPS, passes - done)
        position, steepest = slide(position, normal, triangles, task.free, angle, sweeps, lie, task.up)
        if steepest <= angle + ENOUGH:
            break
        now = position.astype(np.float32)  # what slides turns, and goes on along the normals it has by then
        update_normals(now, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
    return (position - task.position).astype(np.float32)


RELIEF = Relief(
    name="slump",
    label="Slump all",
    help="Lets all that is too steep slide until it settles.",
    settings=(
        ANGLE,
        Number(
            "passes", "Passes", "", 10, 5000, 400, "At the most; fewer when all has settled. Large heaps need more.",
            comfort=(10, 1000), curve=2.0, whole=True,
        ),
    ),
    lay=lay,
)  # fmt: skip
