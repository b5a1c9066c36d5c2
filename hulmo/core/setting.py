"""A setting declared once: the card, the command, the recipe and the documentation all read the declaration."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hulmo.core.errors import InvalidInput

Value = float | str | bool
Values = dict[str, Value]


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

    def check(self, value: object, where: str) -> float:
        """The value as a float, or a clear error."""
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise InvalidInput(f"{where}: {self.name} must be a number, not {value!r}")
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

    def check(self, value: object, where: str) -> str:
        """The value, or a clear error that lists what is possible."""
        known = [choice[0] for choice in self.choices]
        if value not in known:
            raise InvalidInput(f"{where}: {self.name} is {value!r}; it must be one of {', '.join(known)}")
        return str(value)


@dataclass(frozen=True)
class Switch:
    """On or off."""

    name: str
    label: str
    default: bool
    help: str

    def check(self, value: object, where: str) -> bool:
        """The value, or a clear error."""
        if not isinstance(value, bool):
            raise InvalidInput(f"{where}: {self.name} must be true or false, not {value!r}")
        return value


Setting = Number | Choice | Switch


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


def number(values: Mapping[str, Value], name: str) -> float:
    """A checked number out of completed settings."""
    value = values[name]
    assert isinstance(value, float)
    return value
