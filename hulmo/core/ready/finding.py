"""What a check of readiness is, and what it finds."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

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
    marks : (K, 3, 3) float64 or None
        Corners of triangles to mark where it is, metres; the worst first.
    """

    check: str
    body: str
    count: int
    words: str
    advice: str
    fails: bool = True
    cure: Command | None = None
    marks: NDArray[np.float64] | None = field(default=None, compare=False, repr=False)


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
