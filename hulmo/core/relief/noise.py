"""Noise: relief over the whole surface from coherent noise."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import KINDS, coherent
from hulmo.core.relief.relief import ALONG, SEED, Relief, Task
from hulmo.core.setting import Choice, Number, number

PIECE = 100_000
"""Vertices between two reports of progress."""


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres: height times noise (about -1 to 1) at each vertex."""
    values = task.values
    count = task.position.shape[0]
    noise = np.empty(count, np.float32)
    for start in range(0, count, PIECE):
        task.progress.step(start / count, "laying noise")
        part = slice(start, start + PIECE)
        noise[part] = coherent(
            task.position[part],
            str(values["kind"]),
            number(values, "size"),
            int(number(values, "octaves")),
            int(number(values, "seed")),
            number(values, "warp") / 100.0,
        )
    return task.along(noise * np.float32(number(values, "height")))


RELIEF = Relief(
    name="noise",
    label="Noise",
    help="Lays noise over the whole body. Broad first, then fine.",
    settings=(
        Choice("kind", "Kind", KINDS, "fbm", "What the noise looks like."),
        Number(
            "size", "Bump size", "m", 0.001, 10_000.0, 8.0, "Distance from one bump to the next.",
            comfort=(0.05, 100.0), curve=3.0,
        ),
        Number(
            "height", "Height", "m", -10_000.0, 10_000.0, 1.0, "How far the highest points rise and the lowest sink.",
            comfort=(0.0, 20.0), curve=3.0,
        ),
        Number("octaves", "Octaves", "", 1, 8, 5, "Layers of ever finer noise, each half as strong.", whole=True),
        Number("warp", "Warp", "%", 0.0, 200.0, 0.0, "Pushes the pattern about, so that it looks less even."),
        ALONG,
        SEED,
    ),
    lay=lay,
)  # fmt: skip
