"""Faults that are meant, each with the reason why."""

import msgspec

from hulmo.core.errors import InvalidInput

MOST, LETTERS = 1000, 500
"""Waivers of a project, and letters of a reason."""


class Waiver(msgspec.Struct, frozen=True):
    """One fault that is not asked about any more.

    Attributes
    ----------
    check : str
        As `hulmo.core.ready` names it.
    body : str
        Empty: of the project.
    reason : str
    """

    check: str
    body: str
    reason: str


def check_waivers(waivers: tuple[Waiver, ...], where: str) -> None:
    """Raises InvalidInput where there are too many, or one without a reason."""
    if len(waivers) > MOST:
        raise InvalidInput(f"{where}: {len(waivers):,} faults are waived; there can be {MOST}")
    for entry in waivers:
        if not entry.reason.strip() or len(entry.reason) > LETTERS or len(entry.check) > 60 or len(entry.body) > 200:
            raise InvalidInput(f"{where}: a waiver needs a reason of 1 to {LETTERS} letters")
