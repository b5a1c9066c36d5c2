"""Outlines and tracks: what they hold, and what they may hold."""

import itertools
import math
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.attribute import Attribute
from hulmo.core.objects.kind import Mesh, ObjectKind
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import Choice, Curve, Number, Switch, Text, Values, complete, number

Triple = tuple[float, float, float]

CLOSEST = 1e-3
"""Metres that two points of a line must at least lie apart."""

MOST_POINTS = 2000

FEWEST = {"outline": 3, "track": 2}
"""Points from which on a line carries anything, by kind."""

LINE = "line "
"""How names of vertex columns begin that hold metres inward from the rim of a line."""

CUT = "cut line"
"""Edge column: number of the line whose cut an edge belongs to."""

SETTINGS = (
    Number("width", "Width", "m", 0.01, 1000.0, 1.5, "From rim to rim, where a point has none of its own.",
           comfort=(0.1, 10.0), curve=2.0),
    Text("ground", "Ground", "", "Lies inside, by a rule beneath hand paint; empty: none."),
    Number("rim", "Soft rim", "m", 0.0, 1000.0, 0.0, "Over how far the ground fades at the rim; 0: crisp.",
           comfort=(0.0, 5.0), curve=2.0),
    Switch("cut", "Cut edges", False, "The mesh gets edges along the rim, and holds them."),
    Number("tolerance", "Within", "m", 1e-4, 10.0, 0.02, "How far the edges may be off the curve.", comfort=(0.002, 0.5),
           curve=3.0, only=(("cut", True),)),
    Text("rows", "Support rows", "", "Metres from the rim at which more rows of edges run on both sides, as: 0.1, 0.4.",
         only=(("cut", True),)),
    Switch("relief", "Relief", False, "Shapes the ground in a layer of its own."),
    Choice("level", "Level", (
        ("off", "As it is", "Only the profile is added."),
        ("along", "Along the line", "Level across, at the height that the line has there."),
        ("flat", "One height", "All of it at the mean height of the line."),
    ), "off", "Whether the ground inside is levelled first.", only=(("relief", True),)),
    Number("steepest", "Steepest", "°", 0.0, 89.0, 0.0, "The bed is held to this slope along the line; 0: free.",
           only=(("level", "along"),)),
    Number("rise", "Rise", "m", -10_000.0, 10_000.0, 0.0, "The bed lies so much higher, or lower below 0.",
           comfort=(-5.0, 5.0), only=(("level", "along"), ("level", "flat"))),
    Curve("profile", "Profile", ((0.0, 0.5), (1.0, 0.5)), "From the middle, at the left, to where the shoulder ends.",
          only=(("relief", True),)),
    Number("low", "Foot of it", "m", -10_000.0, 10_000.0, -1.0, "Metres that the foot of the profile stands for.",
           comfort=(-5.0, 0.0), only=(("relief", True),)),
    Number("high", "Top of it", "m", -10_000.0, 10_000.0, 1.0, "Metres that the top of the profile stands for.",
           comfort=(0.0, 5.0), only=(("relief", True),)),
    Number("inward", "Inward", "m", 0.0, 1000.0, 1.0, "How far in from the rim of an outline the profile begins.",
           comfort=(0.0, 10.0), curve=2.0, only=(("relief", True),)),
    Number("shoulder", "Shoulder", "m", 0.0, 1000.0, 1.0, "How far beyond the rim the ground is drawn along.",
           comfort=(0.0, 10.0), curve=2.0, only=(("relief", True),)),
)  # fmt: skip
"""What a line carries."""

OF_OUTLINE = tuple(setting for setting in SETTINGS if setting.name not in ("width", "steepest"))
OF_TRACK = tuple(setting for setting in SETTINGS if setting.name != "inward")


class Place(msgspec.Struct, frozen=True):
    """One point of a line.

    Attributes
    ----------
    at : tuple of float
        Metres about the origin of the body that it lies on.
    corner : bool
        Whether the line turns sharply there.
    width : float
        Metres, of a track; 0: as the track says.
    """

    at: Triple
    corner: bool = False
    width: float = 0.0


class Line(msgspec.Struct, frozen=True):
    """What an outline or a track holds besides what every object does.

    Attributes
    ----------
    body : int
        Number of the body that it lies on.
    points : tuple of Place
        In their order.
    settings : dict
        What differs from the defaults of `SETTINGS`.
    layer : int
        Number of the relief layer it shapes; 0 for none.
    """

    body: int
    points: tuple[Place, ...] = ()
    settings: dict[str, Any] = {}
    layer: int = 0

    @property
    def array(self) -> NDArray[np.float64]:
        """(K, 3) points, metres about the origin of the body."""
        return np.array([place.at for place in self.points], np.float64).reshape(-1, 3)


def column_of(entry: SceneObject) -> str:
    """Vertex column of metres inward from the rim of a line."""
    return f"{LINE}{entry.ident}"


def is_line(entry: SceneObject) -> bool:
    """Whether an object is an outline or a track."""
    return entry.kind in ("outline", "track")


def line_of(entry: SceneObject) -> Line:
    """What a line holds.

    Raises
    ------
    InvalidInput
        Its values are none of a line.
    """
    try:
        return msgspec.convert(entry.values, Line)
    except (msgspec.ValidationError, OverflowError) as error:
        raise InvalidInput(f"{entry.kind} {entry.name!r}: it cannot be read ({error})") from error


def with_line(entry: SceneObject, line: Line) -> SceneObject:
    """The same object with other values."""
    return msgspec.structs.replace(entry, values=msgspec.to_builtins(line))


def settings_of(entry: SceneObject, line: Line) -> Values:
    """All settings of a line, checked.

    Raises
    ------
    InvalidInput
    """
    where = f"{entry.kind} {entry.name!r}"
    values = complete(SETTINGS, line.settings, where)
    rows_of(values, where)
    if number(values, "high") <= number(values, "low"):
        raise InvalidInput(f"{where}: the top of the profile must stand for more metres than its foot")
    return values


def rows_of(values: Values, where: str) -> tuple[float, ...]:
    """Metres from the rim of every support row, ascending.

    Raises
    ------
    InvalidInput
    """
    text = str(values["rows"]).replace(";", ",").replace(" m", "")
    try:
        rows = tuple(sorted(float(part) for part in text.split(",") if part.strip()))
    except ValueError:
        raise InvalidInput(f"{where}: support rows are numbers of metres such as 0.1, 0.4; not {text!r}") from None
    if len(rows) > 8 or not all(1e-4 <= row <= 1000.0 for row in rows):
        raise InvalidInput(f"{where}: there can be 8 support rows, 0.0001 to 1,000 m from the rim")
    return rows


def check_line(entry: SceneObject, where: str) -> None:
    """Refuse a line that no project may hold.

    Raises
    ------
    InvalidInput
    """
    line = line_of(entry)
    what = f"{where}: {entry.kind} {entry.name!r}"
    if len(line.points) > MOST_POINTS:
        raise InvalidInput(f"{what}: it has {len(line.points):,} points; {MOST_POINTS:,} are the most")
    for number_, place in enumerate(line.points, 1):
        if not all(math.isfinite(value) and abs(value) <= 1e8 for value in place.at):
            raise InvalidInput(f"{what}: point {number_} lies nowhere; give three finite numbers of metres")
        if not 0.0 <= place.width <= 1000.0:
            raise InvalidInput(f"{what}: point {number_} is {place.width:g} m wide; it must be 0 to 1,000 m")
    settings_of(entry, line)


def check_apart(entry: SceneObject, where: str) -> None:
    """Refuse points in a row at one place.

    Raises
    ------
    InvalidInput
    """
    line, what = line_of(entry), f"{where}: {entry.kind} {entry.name!r}"
    pairs = list(itertools.pairwise(enumerate(line.points, 1)))
    if entry.kind == "outline" and len(line.points) > 2:
        pairs.append(((len(line.points), line.points[-1]), (1, line.points[0])))
    for (i, first), (j, second) in pairs:
        if math.dist(first.at, second.at) < CLOSEST:
            raise InvalidInput(f"{what}: points {i} and {j} lie less than a millimetre apart; leave one out")


def _nothing() -> Mesh:
    return np.zeros((0, 3), np.float32), np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32)


def _stays(entry: SceneObject, way: NDArray[np.float64]) -> SceneObject:
    return entry  # it lies on its body, and goes where that goes


def line_kind(name: str, label: str, help_: str) -> ObjectKind:
    """A kind of line."""
    return ObjectKind(
        name, label, help_, (), _nothing, (0.10, 0.42, 0.45), True, check_line, _stays, turns=False, on_body=True
    )


LINES = (
    Attribute(LINE, 1, -1e9, 1e9, family=True),
    Attribute(CUT, 1, 0.0, 16_777_216.0, domain="edge"),
)
