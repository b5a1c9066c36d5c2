"""What somebody types into a number field, as a number in the field's own unit."""

import math
import re

from hulmo.core.errors import InvalidInput

LENGTHS = {"mm": 0.001, "cm": 0.01, "dm": 0.1, "m": 1.0, "km": 1000.0}
ANGLES = {"°": 1.0, "deg": 1.0, "rad": 180.0 / math.pi}
FAMILIES = (LENGTHS, ANGLES)

_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?", re.I)
_GAPS = "\u00a0\u2007\u2009\u202f '\u2019_"
"""Marks that people set between groups of three digits."""


def read_number(text: str, unit: str = "") -> float:
    """A number typed for a field.

    Parameters
    ----------
    text : str
        Such as "12", "3,5", "350cm", "1/3", "1 000 m", "2e3".
    unit : str
        Unit of the field; other units of the same kind are turned into it. A share given in percent is a hundredth where the
        field has no unit.

    Raises
    ------
    InvalidInput
        It is no finite number, or has a unit that does not fit.

    Examples
    --------
    >>> read_number("350 cm", "m")
    3.5
    >>> read_number("1/4")
    0.25
    """
    plain = text.strip().replace("\u2212", "-")
    for gap in _GAPS:
        plain = re.sub(rf"(?<=\d){re.escape(gap)}(?=\d{{3}}(?!\d))", "", plain)
    if plain.count(",") == 1 and "." not in plain:
        plain = plain.replace(",", ".")
    parts = plain.split("/")
    found = [_NUMBER.match(part.strip()) for part in parts]
    if len(parts) > 2 or any(entry is None for entry in found):
        raise InvalidInput(f"“{text.strip()}” is no number")
    numbers = [float(entry[0]) for entry in found if entry is not None]
    rests = [part.strip()[entry.end() :].strip() for part, entry in zip(parts, found, strict=True) if entry is not None]
    if len(parts) == 2 and (rests[0] or numbers[1] == 0.0):
        raise InvalidInput(f"“{text.strip()}” is no number")
    value = (numbers[0] / numbers[1] if len(parts) == 2 else numbers[0]) * _factor(rests[-1], unit, text)
    if not math.isfinite(value):
        raise InvalidInput(f"“{text.strip()}” is no number")
    return value


def _factor(given: str, unit: str, text: str) -> float:
    if given in ("", unit):
        return 1.0
    if given == "%" and not unit:
        return 0.01
    for family in FAMILIES:
        if given in family and unit in family:
            return family[given] / family[unit]
    raise InvalidInput(f"“{text.strip()}”: {given} does not fit" + (f"; it is in {unit}" if unit else ""))
