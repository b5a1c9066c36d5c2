"""Sand: laid by the wind in the lee, with ripples across it."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import fbm
from hulmo.core.relief.relief import SEED, Relief, Task
from hulmo.core.setting import Number, number

SHARP = 0.7
"""Share of a ripple's length on its windward side: lee sides are steeper."""


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres, straight up: thickest in the lee and on level ground, none on what is steeper than sand lies.

    Ripples have crests square to the wind, as long windward and short lee sides; how thick sand lies says how high they are.
    """
    values = task.values
    bearing = np.radians(number(values, "bearing"))
    east, up, north = task.down.frame(task.position, task.origin)
    wind = east * np.sin(bearing) + north * np.cos(bearing)  # where it comes from
    seed = int(number(values, "seed"))
    rise = (task.normal * up).sum(axis=1)
    lean = -(task.normal * wind).sum(axis=1)  # above 0 in the lee
    steep = np.degrees(np.arccos(np.clip(rise, -1.0, 1.0)))
    lies = np.clip((number(values, "angle") - steep) / 10.0, 0.0, 1.0)
    lee = np.clip(0.35 + 2.2 * lean, 0.0, 1.0)
    size = number(values, "spacing")
    drift = np.clip(0.75 + 0.9 * fbm(task.position, 9.0 * size, 3, seed + 7), 0.0, 1.0)
    cover = lies * lies * (3.0 - 2.0 * lies) * lee * drift
    thick = number(values, "thickness") * cover
    along = -(task.position.astype(np.float64) * wind).sum(axis=1) / size
    along = along + 0.9 * fbm(task.position, 7.0 * size, 2, seed)
    t = along - np.floor(along)
    wave = np.where(t < SHARP, t / SHARP, (1.0 - t) / (1.0 - SHARP))
    ripple = number(values, "ripple") * (wave * wave * (3.0 - 2.0 * wave) - 0.5)
    return task.upward((thick + ripple * cover) * task.free)


RELIEF = Relief(
    name="sand",
    label="Sand",
    help="Lays sand in the lee, with ripples.",
    settings=(
        Number("bearing", "Wind from", "°", 0.0, 360.0, 270.0, "Where the wind comes from: 0 north, 90 east."),
        Number("thickness", "Thickness", "m", 0.0, 1000.0, 0.4, "Of the sand where it lies thickest.", comfort=(0.0, 5.0),
               curve=2.0),
        Number("ripple", "Ripple height", "m", 0.0, 100.0, 0.08, "From trough to crest.", comfort=(0.0, 1.0), curve=2.0),
        Number("spacing", "Ripple spacing", "m", 0.01, 10_000.0, 1.2, "From crest to crest.", comfort=(0.1, 20.0), curve=3.0),
        Number("angle", "Steepest", "°", 5.0, 60.0, 34.0, "No sand lies on what is steeper."),
        SEED,
    ),
    lay=lay,
)  # fmt: skip
