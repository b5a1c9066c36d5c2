"""What a check of readiness is, and what it finds."""

from collections.abc import Callable
from dataclasses import dataclass

from hulmo.core.commands import Command
from hulmo.core.deliver.profile import Profile
from hulmo.core.progress import Progress
from hulmo.core.project import Project


@dataclass(frozen=True)
class Finding:
    """One thing that will go wrong.

    Attributes
    ----------
    check : str
        Name of the check.
    body : str
        Empty: of the project.
    count : int
    words : str
        What, how many, how bad.
    advice : str
        What to do about it.
    fails : bool
        Whether it must not be delivered so; otherwise it is only worth knowing.
    cure : Command or None
        What mends it.
    """

    check: str
    body: str
    count: int
    words: str
    advice: str
    fails: bool = True
    cure: Command | None = None


@dataclass(frozen=True)
class Check:
    """One entry of the registry of checks.

    Attributes
    ----------
    name, label : str
    find : callable(Project, Profile, Progress) -> list of Finding
    """

    name: str
    label: str
    find: Callable[[Project, Profile, Progress], list[Finding]]
