"""What a brush is, and the settings that every brush shares."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.sculpt import falloff, growth, symmetry
from hulmo.core.setting import Choice, Curve, Number, Setting, Switch, Value, Values

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

EVERYDAY: tuple[Setting, ...] = (
    Number(
        "radius",
        "Radius",
        "m",
        0.001,
        10_000.0,
        4.0,
        "From the middle of the brush to its rim, in metres.",
        comfort=(0.1, 50.0),
        curve=3.0,
    ),
    Number("strength", "Strength", "%", 0.0, 100.0, 50.0, "Share of the full effect that one coat gives."),
    falloff.SETTING,
    falloff.CURVE,
    BUILD_UP,
)
"""Shared settings that are changed all the time."""

FURTHER: tuple[Setting, ...] = (
    Number(
        "core", "Core", "%", 0.0, 95.0, 0.0, "Share of the radius that gets full strength before the falloff begins."
    ),
    Number(
        "spacing",
        "Spacing",
        "%",
        2.0,
        100.0,
        15.0,
        "Distance between two dabs along the surface, as a share of the radius.",
    ),
    Switch("flow", "Flows at rest", False, "Goes on laying dabs while the pointer rests; for Stacking."),
    Number(
        "steady", "Steadied", "%", 0.0, 95.0, 0.0, "How far the brush trails behind the hand, so that lines get calm."
    ),
    Choice(
        "reach",
        "Reaches",
        (
            ("connected", "Connected surface", "Only what hangs together with the point under the pointer."),
            ("all", "All within the radius", "The far side of a thin wall as well."),
        ),
        "connected",
        "Which surface within the radius the brush works on.",
    ),
    Switch("front", "Front faces only", False, "Leaves alone what is turned away from you."),
    Switch("pressure_strength", "Pressure sets strength", True, "A light touch of the pen is weaker."),
    Switch("pressure_radius", "Pressure sets radius", False, "A light touch of the pen is smaller."),
    Switch("tilt_radius", "Tilt sets radius", False, "A pen that leans is wider: twice the radius when it lies flat."),
    Curve(
        "pressure_curve",
        "Pressure curve",
        ((0.0, 0.0), (1.0, 1.0)),
        "From the pen's pressure (across) to its effect (up).",
    ),
    *symmetry.SETTINGS,
    Choice(
        "radius_by",
        "Radius is",
        (
            ("metres", "In metres", "The same size on the ground from near and far."),
            ("view", "A share of the view", "The same size on the screen from near and far."),
        ),
        "metres",
        "What keeps its size when you come nearer.",
    ),
    Number(
        "view_share",
        "Share of view",
        "%",
        0.1,
        50.0,
        8.0,
        "Radius as a share of the height of the view. The window turns it into metres where a stroke begins.",
        only=(("radius_by", "view"),),
    ),
)
"""Shared settings that are set now and then."""

SHARED = EVERYDAY + FURTHER + growth.SETTINGS

ALONG = ("spacing", "build_up", "flow", "steady")
"""Shared settings that only make sense for brushes that lay dabs along the way."""

BY_DEGREES = ("strength", "falloff", "falloff_curve", "build_up", "core", "pressure_strength", "front")
"""Shared settings that make no sense for brushes that only remesh."""


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
    surface : (N, 3) float32
        Positions that shaping brushes start from, metres: the surface up to and including the layer in work.
    view : (3,) float64
        Unit vector from the viewer toward the surface where the stroke began.
    turn : (3, 3) float64
        Brings the stroke to this copy of it; the identity without symmetry.
    radius : float
        Metres from the centre to the rim.
    triangles : (T,) int32
        Triangles with at least one of the rows.
    normals : callable(rows) -> (K, 3) float32
        Unit normals of some of `rows` from when the stroke began: what brushes push along, so that a stroke does not bend
        its own way.
    number : int
        Which dab of this copy it is, from 1.
    beside : (4,) float64
        Normals under the same dab on other bodies; see `direction.normal_total`.
    """

    body: Body
    rows: Rows
    amount: NDArray[np.float32]
    values: Values
    invert: bool
    centre: NDArray[np.float64]
    start_point: NDArray[np.float64]
    start_normal: NDArray[np.float64]
    ground: int
    pull: NDArray[np.float64]
    surface: NDArray[np.float32]
    view: NDArray[np.float64]
    turn: NDArray[np.float64]
    radius: float
    triangles: Rows
    normals: Callable[[Rows], NDArray[np.float32]]
    number: int = 1
    beside: NDArray[np.float64] = field(default_factory=lambda: np.zeros(4))

    @property
    def mirrored(self) -> bool:
        """Whether this copy is a mirror image of the stroke."""
        return bool(np.linalg.det(self.turn) < 0)

    def own(self, points: NDArray[np.float32]) -> NDArray[np.float32]:
        """(K, 3) places, metres, where the stroke itself has what this copy has at some places: patterns are looked up there,
        so that copies are exact images."""
        if np.array_equal(self.turn, np.eye(3)):
            return points
        origin = np.array(self.body.origin)
        return np.asarray((points.astype(np.float64) + origin) @ self.turn - origin, np.float32)


@dataclass(frozen=True)
class Brush:
    """One entry of the brush registry.

    Attributes
    ----------
    name, label, help, key : str
        The name is used in recipes, the key is its shortcut.
    stage : str
        Route stage that offers it.
    group : str
        What brushes of its kind do, in a word or two.
    column : str
        Vertex column it writes.
    width : int
        Width of that column, where it has to be made.
    settings : tuple
        Its own settings, besides `SHARED`.
    apply : callable(Dab) -> (K, width) float32, or None
        New values of the column at `dab.rows`; None for a brush that only remeshes.
    inverse : str
        What it does while inverted; empty when it has no opposite.
    needs_ground : bool
        Whether it works with the ground in hand.
    defaults : dict
        Defaults of shared settings that differ for this brush.
    grabs : bool
        Whether it takes hold of the surface where the stroke begins and moves that piece only.
    places : bool
        Whether it is set down once and dragged to size and turned.
    approaches : bool
        Whether it goes toward a value: an amount is then a share of what is left of the way.
    mask : callable(Dab) -> (K,) float32, optional
        Share of the amount that each row is to get.
    remeshes : str
        "finer" or "coarser" for a brush that only splits or only joins edges; empty for all others.
    check : callable(dict, str), optional
        Raises a clear error when settings name something that is not there.
    """

    name: str
    label: str
    help: str
    key: str
    stage: str
    group: str = field(default="Paint", kw_only=True)
    column: str
    settings: tuple[Setting, ...]
    apply: Callable[[Dab], NDArray[np.float32]] | None
    inverse: str = ""
    needs_ground: bool = False
    defaults: tuple[tuple[str, Value], ...] = ()
    grabs: bool = False
    places: bool = False
    remeshes: str = ""
    approaches: bool = False
    mask: Callable[[Dab], NDArray[np.float32]] | None = None
    check: Callable[[Values, str], None] | None = None
    width: int = 1

    @property
    def everyday(self) -> tuple[Setting, ...]:
        """Shared settings that are changed all the time, with this brush's defaults, its own, and whether the mesh grows."""
        own = tuple(_with_default(setting, dict(self.defaults)) for setting in self.settings)
        grows = growth.SETTINGS if self.shapes and not self.remeshes else ()
        return self._shared(EVERYDAY) + own + self._shared(grows)

    @property
    def further(self) -> tuple[Setting, ...]:
        """Shared settings that are set now and then."""
        return self._shared(FURTHER)

    @property
    def all_settings(self) -> tuple[Setting, ...]:
        """All of them. A brush that grabs or is set down lays no dabs along the way."""
        return self.everyday + self.further

    @property
    def shapes(self) -> bool:
        """Whether it moves the surface."""
        return self.column == "position"

    def grows(self, values: Values) -> str:
        """Whether a stroke remeshes: "finer", "coarser", "both" or "off"."""
        return self.remeshes or str(values.get("grow", "off"))

    def _shared(self, settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
        without: tuple[str, ...] = tuple(setting.name for setting in self.settings)
        if self.grabs or self.places:
            without += ALONG
        if self.remeshes:
            without += BY_DEGREES
        kept = [setting for setting in settings if setting.name not in without]
        return tuple(_with_default(setting, dict(self.defaults)) for setting in kept)


def _with_default(setting: Setting, defaults: dict[str, Value]) -> Setting:
    if setting.name not in defaults:
        return setting
    return type(setting)(**{**setting.__dict__, "default": defaults[setting.name]})
