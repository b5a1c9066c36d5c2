"""What a brush is, and the settings that every brush shares."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.sculpt import falloff
from hulmo.core.setting import Choice, Number, Setting, Values

Rows = NDArray[np.int32]

BUILD_UP = Choice(
    "build_up",
    "Adds up",
    (
        ("one_coat", "One coat", "However often a stroke crosses itself, it gives one full coat at the most."),
        ("stacking", "Stacking", "Every pass adds to the last."),
        ("until_reset", "One coat until reset", "One coat over many strokes, until Reset coat is pressed."),
    ),
    "one_coat",
    "How a stroke adds up where it crosses itself.",
)

SHARED: tuple[Setting, ...] = (
    Number(
        "radius", "Radius", "m", 0.001, 10_000.0, 4.0, "From the middle of the brush to its rim, in metres.",
        comfort=(0.1, 50.0), curve=3.0,
    ),
    Number("strength", "Strength", "%", 0.0, 100.0, 50.0, "Share of the full effect that one coat gives."),
    falloff.SETTING,
    Number(
        "core", "Core", "%", 0.0, 95.0, 0.0, "Share of the radius that gets full strength before the falloff begins."
    ),
    Number(
        "spacing", "Spacing", "%", 2.0, 100.0, 15.0, "Distance between two dabs along the surface, as a share of the "
        "radius.",
    ),
    BUILD_UP,
)  # fmt: skip


DABBING = ("spacing", "build_up")
"""Shared settings that only make sense for brushes that lay dabs along the way."""


@dataclass(frozen=True)
class Dab:
    """One touch of a brush, as the brush sees it.

    Attributes
    ----------
    body : Body
    rows : (K,) int32
        Vertices to change, ascending.
    amount : (K,) float32
        Share of the full effect each gets.
    values : dict
        All settings of the stroke.
    invert : bool
        Whether the brush does the opposite.
    centre : (3,) float64
        Surface point in the middle of the dab, metres.
    start_point, start_normal : (3,) float64
        Surface point where the stroke began, metres, and the normal there.
    pull : (3,) float64
        For brushes that grab: how far the pointer has come since the grab, metres. `rows` and `amount` are then those
        of the grab, and positions are as they were at the grab.
    ground : int
        Column of the ground in hand; -1 for brushes that need none.
    """

    body: Body
    rows: Rows
    amount: NDArray[np.float32]
    values: Values
    invert: bool
    centre: NDArray[np.float64]
    start_point: NDArray[np.float64]
    start_normal: NDArray[np.float64]
    ground: int = -1
    pull: NDArray[np.float64] = field(default_factory=lambda: np.zeros(3))


@dataclass(frozen=True)
class Brush:
    """One entry of the brush registry.

    Attributes
    ----------
    name, label, help, key : str
        The name is used in recipes, the key is its shortcut.
    stage : str
        Route stage that offers it.
    column : str
        Vertex column it writes.
    settings : tuple
        Its own settings, besides `SHARED`.
    apply : callable(Dab) -> (K, width) float32
        New values of the column at `dab.rows`.
    inverse : str
        What it does while inverted; empty when it has no opposite.
    needs_ground : bool
        Whether it works with the ground in hand.
    defaults : dict
        Defaults of shared settings that differ for this brush.
    grabs : bool
        Whether it takes hold of the surface where the stroke begins and moves that piece only.
    """

    name: str
    label: str
    help: str
    key: str
    stage: str
    column: str
    settings: tuple[Setting, ...]
    apply: Callable[[Dab], NDArray[np.float32]]
    inverse: str = ""
    needs_ground: bool = False
    defaults: tuple[tuple[str, float | str], ...] = ()
    grabs: bool = False

    @property
    def all_settings(self) -> tuple[Setting, ...]:
        """Shared settings with this brush's defaults, then its own. A brush that grabs lays no dabs one by one."""
        shared = [setting for setting in SHARED if not self.grabs or setting.name not in DABBING]
        return tuple(_with_default(setting, dict(self.defaults)) for setting in shared) + self.settings


def _with_default(setting: Setting, defaults: dict[str, float | str]) -> Setting:
    if setting.name not in defaults:
        return setting
    return type(setting)(**{**setting.__dict__, "default": defaults[setting.name]})
