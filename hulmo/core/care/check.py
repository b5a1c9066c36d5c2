"""What a check of a mesh is, and what it finds."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number

Triangles = NDArray[np.int32]


@dataclass(frozen=True)
class Found:
    """What a check found.

    Attributes
    ----------
    count : int
        Faults.
    triangles : (K,) int32
        Slots of the triangles at fault, the worst first.
    worst : str
        The worst one in words; empty when there is none.
    """

    count: int
    triangles: Triangles
    worst: str = ""


NOTHING = Found(0, np.empty(0, np.int32))


@dataclass(frozen=True)
class Check:
    """One entry of the registry of checks.

    Attributes
    ----------
    name, label, help : str
    limit : Number
        From where on something counts as a fault.
    find : callable(Body, float, Progress) -> Found
    cure : str
        What helps: "remesh", "weld", "recast" or "stitch".
    cure_label, cure_help : str
    beside : callable(Body, tuple of Body, float, Progress) -> Found, optional
        Instead of `find`, of a check that compares a body with others.
    """

    name: str
    label: str
    help: str
    limit: Number
    find: Callable[[Body, float, Progress], Found]
    cure: str
    cure_label: str
    cure_help: str
    beside: Callable[[Body, tuple[Body, ...], float, Progress], Found] | None = None

    def look(self, body: Body, others: tuple[Body, ...], limit: float, progress: Progress) -> Found:
        """What is at fault with a body; `others` are those of the project besides it."""
        return self.find(body, limit, progress) if self.beside is None else self.beside(body, others, limit, progress)


def live_slots(body: Body) -> Triangles:
    """(M,) slots that hold a triangle."""
    return np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32)


def worst_first(slots: Triangles, badness: NDArray[np.floating]) -> Triangles:
    """Slots in the order of falling badness."""
    return slots[np.argsort(-badness, kind="stable")]
