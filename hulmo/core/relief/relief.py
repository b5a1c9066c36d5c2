"""What a whole-surface relief is, and the settings that all of them share."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.down import LEVEL, Down
from hulmo.core.progress import Progress
from hulmo.core.setting import Choice, Number, Setting, Values, number

Points = NDArray[np.float32]
Share = NDArray[np.float32]

LIMITS: tuple[Setting, ...] = (
    Number("slope_low", "Slope from", "°", 0.0, 180.0, 0.0, "Nothing is laid on what is flatter: 0 level, 90 a wall."),
    Number("slope_high", "Slope to", "°", 0.0, 180.0, 180.0, "Nothing is laid on what is steeper; 180 is a ceiling."),
    Number(
        "height_low", "Height from", "m", -100_000.0, 100_000.0, -100_000.0, "Nothing is laid below this height.",
        comfort=(-50.0, 100.0),
    ),
    Number(
        "height_high", "Height to", "m", -100_000.0, 100_000.0, 100_000.0, "Nothing is laid above this height.",
        comfort=(-50.0, 100.0),
    ),
    Number("soft", "Soft limits", "%", 0.0, 100.0, 20.0, "How gently relief fades out at the limits; 100 fades over "
           "30 degrees, or over 10 m."),
)  # fmt: skip

SOFT_SLOPE, SOFT_HEIGHT = 30.0, 10.0

ALONG = Choice(
    "along",
    "Along",
    (
        ("normal", "Normals", "Every point moves along its own normal."),
        ("up", "Straight up", "Every point moves straight up; on a moon, away from its centre."),
    ),
    "normal",
    "Which way the surface moves.",
)

SEED = Number("seed", "Seed", "", 0, 9999, 1, "Another number gives another pattern.", whole=True)


@dataclass(frozen=True)
class Task:
    """A surface that relief is laid on.

    Attributes
    ----------
    position, normal : (N, 3) float32
        Metres; unit normals.
    corners : CornerTable
    free : (N,) float32
        Share that guard, border lock, limits and mask leave to each vertex; 0 keeps it where it is.
    values : dict
        All settings, checked.
    tile : float or None
        Metres of the ground whose tiling is to be matched.
    progress : Progress
    down : Down
    origin : tuple of float
        Of the body: what positions are about, metres.
    share : callable(str) -> (N,) float32, optional
        Share of a ground by its name; raises InvalidInput where there is no such ground.
    covered : callable() -> (N,) bool, optional
        What rain from above does not come to.
    told : dict
        Filled by a relief that knows more than offsets: (N,) values by the name of the vertex column they go to.
    """

    position: Points
    normal: Points
    corners: CornerTable
    free: Share
    values: Values
    tile: float | None
    progress: Progress
    down: Down = LEVEL
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)
    share: Callable[[str], Share] | None = None
    covered: Callable[[], NDArray[np.bool_]] | None = None
    told: dict[str, Share] = field(default_factory=dict)

    @cached_property
    def up(self) -> NDArray[np.float64]:
        """(1, 3) or (N, 3) unit vectors straight up."""
        return self.down.up(self.position, self.origin)

    @cached_property
    def heights(self) -> NDArray[np.float64]:
        """(N,) metres above the sea."""
        return self.down.height(self.position, self.origin)

    @property
    def level_places(self) -> Points:
        """(N, 3) the places straight above or below on the sea."""
        return self.down.level_places(self.position, self.origin)

    def upward(self, height: NDArray[np.floating]) -> Points:
        """(N, 3) offsets straight up by (N,) metres."""
        return np.asarray(self.up * height[:, None], np.float32)

    def along(self, height: Share) -> Points:
        """(N, 3) offsets from (N,) heights in metres, the chosen way, with `free` taken into account."""
        height = height * self.free
        if self.values["along"] == "up":
            return self.upward(height)
        return self.normal * height[:, None]


@dataclass(frozen=True)
class Relief:
    """One entry of the registry of whole-surface reliefs.

    Attributes
    ----------
    name, label, help : str
    settings : tuple
        Its own settings, besides `LIMITS`.
    lay : callable(Task) -> (N, 3) float32
        Offsets, metres.
    check : callable(dict, str), optional
        Raises a clear error when settings name something that is not there.
    file : str
        Name of the setting that names an image; empty when there is none.
    """

    name: str
    label: str
    help: str
    settings: tuple[Setting, ...]
    lay: Callable[[Task], Points]
    check: Callable[[Values, str], None] | None = None
    file: str = ""

    @property
    def all_settings(self) -> tuple[Setting, ...]:
        """Its own settings, then the limits."""
        return self.settings + LIMITS


def within_limits(
    position: Points,
    normal: Points,
    values: Values,
    down: Down = LEVEL,
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> Share:
    """(N,) share, 0 to 1, that slope and height limits leave to each vertex."""
    slope = np.asarray(down.slope(normal, position, origin), np.float32)
    soft = number(values, "soft") / 100.0
    out = _between(slope, number(values, "slope_low"), number(values, "slope_high"), soft * SOFT_SLOPE)
    low, high = number(values, "height_low"), number(values, "height_high")
    heights = down.height(position, origin).astype(np.float32)
    return np.asarray(out * _between(heights, low, high, soft * SOFT_HEIGHT), np.float32)


def _between(value: Share, low: float, high: float, soft: float) -> Share:
    if soft == 0:
        return np.asarray((value >= low) & (value <= high), np.float32)
    # full at the limit on its inner side, nothing `soft` further out
    share = np.clip(1.0 - np.maximum(low - value, value - high) / soft, 0.0, 1.0)
    return np.asarray(share * share * (3.0 - 2.0 * share), np.float32)
