"""What an operation that the window offers is."""

from collections.abc import Callable
from dataclasses import dataclass

from hulmo.core.commands import Command
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Number, Only, Setting, Values

Way = tuple[float, float, float]


@dataclass(frozen=True)
class Operation:
    """One operation on the active body.

    Attributes
    ----------
    name, label, help : str
    settings : tuple
    command : callable(Body, dict, str) -> Command
        From the body, the settings and the name of the other body.
    result : callable(Body, dict) -> str
        What will come of it, before anything is done; empty when that is not known.
    needs_other : bool
        Whether it works with a second body.
    stage : str
        Which stage of the route offers it: "block" or "dress".
    from_view : callable(way) -> dict, optional
        Settings by the (east, up, north) way from what is seen toward the eye.
    """

    name: str
    label: str
    help: str
    settings: tuple[Setting, ...]
    command: Callable[[Body, Values, str], Command]
    result: Callable[[Body, Values], str] = lambda body, values: ""
    needs_other: bool = False
    stage: str = "block"
    from_view: Callable[[Way], Values] | None = None


WAYS = ("east", "up", "north")
"""How places are given in the window: x is east, y is up, and north is -z."""


def ways(
    name: str, label: str, unit: str, low: float, high: float, default: float, text: str, span: float, only: Only = None
) -> tuple[Number, ...]:
    """A number for each way: east, up and north."""
    return tuple(
        Number(
            f"{name}_{way}",
            f"{label} {way}",
            unit,
            low,
            high,
            default,
            text,
            comfort=(default - span, default + span),
            only=only,
        )
        for way in WAYS
    )
