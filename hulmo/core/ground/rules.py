"""Ground rules: where a ground lies of itself."""

import math
from collections.abc import Iterable
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.measures import measure_named
from hulmo.core.setting import Values, complete

Figures = NDArray[np.float32]

KEPT = "kept_"
"""How names of vertex columns begin that hold a figure taken once for a condition."""

JOINS = ("and", "or", "and_group", "or_group")
"""How a condition goes with those before it; the latter two begin a group that goes with all before it as a whole."""

MOST_RULES = 64

MOST_CONDITIONS = 12


class Condition(msgspec.Struct, frozen=True):
    """Part of a rule: where a figure lies within limits.

    Attributes
    ----------
    measure : str
        A name of `hulmo.core.ground.measures.MEASURES`.
    settings : dict
    low, high : float or None
        The condition holds wholly between them; None leaves that side open. In the unit of the measure.
    low_soft, high_soft : float
        How far below `low`, or above `high`, it fades to nothing.
    join : str
        How it goes with the conditions before it: "and" takes the lesser of both, "or" the larger. "and_group" and
        "or_group" begin a group: it is joined in itself first, and then with the groups before it.
    inverted : bool
        Whether it holds where it otherwise would not.
    ident : int
        A number no other condition of the body has; given by the program.
    """

    measure: str
    settings: dict[str, Any] = {}
    low: float | None = None
    high: float | None = None
    low_soft: float = 0.0
    high_soft: float = 0.0
    join: str = "and"
    inverted: bool = False
    ident: int = 0

    @property
    def column(self) -> str:
        """Vertex column that keeps its figures, where they are taken once."""
        return f"{KEPT}{self.ident}"

    def values(self, where: str) -> Values:
        """All settings of its measure, checked."""
        return complete(measure_named(self.measure, where).settings, self.settings, where)

    def share(self, figures: Figures) -> Figures:
        """(K,) how far it holds, 0 to 1, for (K,) figures. Fades along an S-curve: 3 t^2 - 2 t^3."""
        held = np.ones(figures.shape, np.float32)
        for limit, soft, sign in ((self.low, self.low_soft, 1.0), (self.high, self.high_soft, -1.0)):
            if limit is None:
                continue
            within = (figures - np.float32(limit)) * np.float32(sign)
            if soft > 0:
                t = np.clip(within / np.float32(soft) + np.float32(1.0), 0.0, 1.0)
                held *= t * t * (np.float32(3.0) - np.float32(2.0) * t)
            else:
                held *= within >= 0
        return np.float32(1.0) - held if self.inverted else held


def groups_of(conditions: tuple[Condition, ...]) -> list[tuple[str, tuple[Condition, ...]]]:
    """Conditions in their groups, and how each group goes with those before it: "and" or "or"."""
    out: list[tuple[str, list[Condition]]] = []
    for condition in conditions:
        if not out or condition.join.endswith("_group"):
            out.append((condition.join.removesuffix("_group"), [condition]))
        else:
            out[-1][1].append(condition)
    return [(join, tuple(group)) for join, group in out]


class Rule(msgspec.Struct, frozen=True):
    """One ground rule; rules are laid in their order, each over those before it.

    Attributes
    ----------
    ground : str
        Name of the ground it lays.
    conditions : tuple of Condition
        Joined from the first to the last; none: everywhere.
    strength : float
        0 to 1.
    shown : bool
    """

    ground: str
    conditions: tuple[Condition, ...] = ()
    strength: float = 1.0
    shown: bool = True


def checked(rules: Iterable[Rule], where: str) -> tuple[Rule, ...]:
    """Rules whose values can be used, every condition with a number of its own.

    Raises
    ------
    InvalidInput
        What is wrong, in which rule and condition.
    """
    rules = tuple(rules)
    if len(rules) > MOST_RULES:
        raise InvalidInput(f"{where}: {len(rules)} rules; a body can have {MOST_RULES}")
    taken: set[int] = set()
    out = []
    for number, rule in enumerate(rules, 1):
        here = f"{where}, rule {number} ({rule.ground})"
        if not rule.ground.strip():
            raise InvalidInput(f"{here}: a rule needs the name of a ground")
        if not 0.0 <= rule.strength <= 1.0:
            raise InvalidInput(f"{here}: strength is {rule.strength:g}; it must lie between 0 and 1")
        if len(rule.conditions) > MOST_CONDITIONS:
            raise InvalidInput(f"{here}: {len(rule.conditions)} conditions; a rule can have {MOST_CONDITIONS}")
        conditions = []
        for place, condition in enumerate(rule.conditions, 1):
            _check(condition, f"{here}, condition {place}")
            ident = condition.ident
            while ident <= 0 or ident in taken:
                ident = max((0, *taken, *(c.ident for r in rules for c in r.conditions))) + 1
            taken.add(ident)
            conditions.append(msgspec.structs.replace(condition, ident=ident))
        out.append(msgspec.structs.replace(rule, conditions=tuple(conditions)))
    return tuple(out)


def problems(rules: Iterable[Rule], grounds: tuple[str, ...], marked: Iterable[str] = ()) -> list[str]:
    """What keeps rules from being laid: grounds and marked sets that are not there. Such rules are passed over."""
    known = (*grounds, *(f"#{name}" for name in marked))
    out = []
    for number, rule in enumerate(rules, 1):
        if rule.ground not in grounds:
            out.append(f"Rule {number} lays {rule.ground!r}, which is gone; choose another ground for it.")
        for condition in rule.conditions:
            to = str(condition.settings.get("to", "")) if condition.measure == "near" else known[0]
            if to not in known:
                out.append(
                    f"Rule {number} asks for the distance to {to or 'nothing'!r}, which is not there; choose another."
                )
    return out


def renamed(rules: Iterable[Rule], old: str, new: str) -> tuple[Rule, ...]:
    """The same rules after a ground got another name."""

    def condition_for(condition: Condition) -> Condition:
        if condition.measure == "near" and condition.settings.get("to") == old:
            return msgspec.structs.replace(condition, settings={**condition.settings, "to": new})
        return condition

    return tuple(
        msgspec.structs.replace(
            rule,
            ground=new if rule.ground == old else rule.ground,
            conditions=tuple(condition_for(condition) for condition in rule.conditions),
        )
        for rule in rules
    )


def _check(condition: Condition, where: str) -> None:
    condition.values(where)
    unit = measure_named(condition.measure, where).unit
    if condition.join not in JOINS:
        raise InvalidInput(f"{where}: join is {condition.join!r}; it must be one of {', '.join(JOINS)}")
    given = [value for value in (condition.low, condition.high) if value is not None]
    if not all(math.isfinite(value) for value in (*given, condition.low_soft, condition.high_soft)):
        raise InvalidInput(f"{where}: limits must be finite numbers")
    if condition.low_soft < 0 or condition.high_soft < 0:
        raise InvalidInput(f"{where}: soft limits must not be negative")
    if len(given) == 2 and given[0] > given[1]:
        raise InvalidInput(
            f"{where}: nothing lies above {given[0]:g} {unit} and below {given[1]:g} {unit}; let low be the smaller one"
        )
