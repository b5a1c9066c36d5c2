"""A setting declared once: the card, the command, the recipe and the documentation all read the declaration."""

import itertools
import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hulmo.core.errors import InvalidInput, shown

Points = tuple[tuple[float, float], ...]
Value = float | str | bool | Points
Values = dict[str, Value]
Only = tuple[tuple[str, str | bool], ...] | None


@dataclass(frozen=True)
class Number:
    """A number with a unit.

    Attributes
    ----------
    name, label, help : str
    unit : str
        "m", "%", "°" or "" for a plain count.
    low, high : float
        What is accepted, both ends included.
    default : float
    comfort : tuple of float, optional
        Range that a slider covers; the whole range when left out.
    curve : float
        1 for an even slider, 3 for one that gives small values most of its way.
    whole : bool
        Whether only whole numbers make sense.
    only : tuple of (setting, value), optional
        It matters only while another setting has one of these values, and is hidden otherwise.
    """

    name: str
    label: str
    unit: str
    low: float
    high: float
    default: float
    help: str
    comfort: tuple[float, float] | None = None
    curve: float = 1.0
    whole: bool = False
    only: Only = None

    def check(self, value: object, where: str) -> float:
        """The value as a float, or a clear error."""
        if isinstance(value, bool) or not isinstance(value, int | float) or not _finite(value):
            raise InvalidInput(f"{where}: {self.name} must be a number, not {shown(value)}")
        if not self.low <= value <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise InvalidInput(
                f"{where}: {self.name} is {value:g}{unit}; it must lie between {self.low:g} and {self.high:g}{unit}"
            )
        if self.whole and value != int(value):
            raise InvalidInput(f"{where}: {self.name} must be a whole number, not {value:g}")
        return float(value)


@dataclass(frozen=True)
class Choice:
    """One of a few named possibilities.

    Attributes
    ----------
    choices : tuple of (value, label, help)
    default : str
        One of the values.
    """

    name: str
    label: str
    choices: tuple[tuple[str, str, str], ...]
    default: str
    help: str
    only: Only = None

    def check(self, value: object, where: str) -> str:
        """The value, or a clear error that lists what is possible."""
        known = [choice[0] for choice in self.choices]
        if value not in known:
            raise InvalidInput(f"{where}: {self.name} is {shown(value)}; it must be one of {', '.join(known)}")
        return str(value)


@dataclass(frozen=True)
class Switch:
    """On or off."""

    name: str
    label: str
    default: bool
    help: str
    only: Only = None

    def check(self, value: object, where: str) -> bool:
        """The value, or a clear error."""
        if not isinstance(value, bool):
            raise InvalidInput(f"{where}: {self.name} must be true or false, not {shown(value)}")
        return value


@dataclass(frozen=True)
class Curve:
    """A curve from 0 to 1 in both directions, drawn through points.

    Attributes
    ----------
    default : tuple of (x, y)
        Ascending in x, from x = 0 to x = 1.
    """

    name: str
    label: str
    default: Points
    help: str
    only: Only = None

    def check(self, value: object, where: str) -> Points:
        """The points, or a clear error."""
        if not isinstance(value, list | tuple) or not 2 <= len(value) <= MOST_POINTS:
            raise InvalidInput(f"{where}: {self.name} must be a list of 2 to {MOST_POINTS} points [x, y]")
        points = []
        for point in value:
            if not isinstance(point, list | tuple) or len(point) != 2:
                raise InvalidInput(f"{where}: {self.name}: {shown(point)} is no point [x, y]")
            if any(isinstance(part, bool) or not isinstance(part, int | float) for part in point):
                raise InvalidInput(f"{where}: {self.name}: {shown(point)} is no point [x, y]")
            if not all(0.0 <= part <= 1.0 for part in point):
                raise InvalidInput(f"{where}: {self.name}: {shown(point)} must lie between 0 and 1 both ways")
            points.append((float(point[0]), float(point[1])))
        across = [x for x, _ in points]
        if across[0] != 0.0 or across[-1] != 1.0 or any(b - a < 1e-3 for a, b in itertools.pairwise(across)):
            raise InvalidInput(f"{where}: {self.name} must go from x = 0 to x = 1, each point right of the one before")
        return tuple(points)


@dataclass(frozen=True)
class Picture:
    """A grey image: the name of a shipped one, or a file."""

    name: str
    label: str
    default: str
    help: str
    only: Only = None

    def check(self, value: object, where: str) -> str:
        """The name; whether there is such an image is found out by whoever reads it."""
        if not isinstance(value, str) or not value.strip():
            raise InvalidInput(f"{where}: {self.name} must name a shipped image or a file, not {shown(value)}")
        return value


@dataclass(frozen=True)
class Colour:
    """A colour, #rrggbb in sRGB."""

    name: str
    label: str
    default: str
    help: str
    only: Only = None

    def check(self, value: object, where: str) -> str:
        """The colour, or a clear error."""
        if not isinstance(value, str) or not re.fullmatch(r"#[0-9a-fA-F]{6}", value):
            raise InvalidInput(f"{where}: {self.name} is {shown(value)}; it must be a colour such as '#8a9a5b'")
        return value


@dataclass(frozen=True)
class Text:
    """A few words, such as a name."""

    name: str
    label: str
    default: str
    help: str
    only: Only = None

    def check(self, value: object, where: str) -> str:
        """The words, or a clear error."""
        if not isinstance(value, str) or len(value) > MOST_LETTERS:
            raise InvalidInput(
                f"{where}: {self.name} must be a text of at most {MOST_LETTERS} letters, not {shown(value)}"
            )
        return value


Setting = Number | Choice | Switch | Curve | Picture | Colour | Text

MOST_POINTS = 16
"""Points of one curve."""

MOST_LETTERS = 200
"""Letters of one text."""


def complete(settings: Iterable[Setting], given: Mapping[str, object], where: str) -> Values:
    """All settings with checked values, defaults where nothing was given.

    Raises
    ------
    InvalidInput
        A value out of range, or a name that no setting has.
    """
    known = {setting.name: setting for setting in settings}
    for name in given:
        if name not in known:
            raise InvalidInput(f"{where}: there is no setting {name!r}; known are {', '.join(known)}")
    return {name: setting.check(given.get(name, setting.default), f"{where}") for name, setting in known.items()}


def _finite(value: float) -> bool:
    try:
        return math.isfinite(value)
    except OverflowError:  # a whole number beyond all floats
        return False


def number(values: Mapping[str, Value], name: str) -> float:
    """A checked number out of completed settings."""
    value = values[name]
    assert isinstance(value, float)
    return value


def matters(setting: Setting, values: Mapping[str, Value], settings: Iterable[Setting] = ()) -> bool:
    """Whether a setting has any effect next to the present values of the others.

    A condition on another one of `settings` holds only while that one matters itself; a condition on what is not among the
    values at all is passed over.
    """
    if setting.only is None:
        return True
    others = {other.name: other for other in settings}
    known = [(name, value) for name, value in setting.only if name in values]
    return not known or any(
        values[name] == value and (name not in others or matters(others[name], values, others.values()))
        for name, value in known
    )
