"""What a measure is: a figure of every vertex that ground rules, fills and selections ask for."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress, silent
from hulmo.core.setting import Setting, Values

Rows = NDArray[np.int32]
Figures = NDArray[np.float32]


@dataclass(frozen=True)
class Asked:
    """Where a measure is wanted.

    Attributes
    ----------
    body : Body
    rows : (K,) int32
        Ascending.
    values : dict
        Settings of the measure, checked.
    grounds : tuple of str
        Names of the palette, in the order of the columns.
    below : (N, G) float32 or None
        What the rules below say; for measures that ask where a ground lies.
    progress : Progress
    edge : float
        Mean edge of the body, metres, where a rough figure is enough because it will be taken again; otherwise 0.
    """

    body: Body
    rows: Rows
    values: Values
    grounds: tuple[str, ...] = ()
    below: NDArray[np.float32] | None = None
    progress: Progress = field(default_factory=silent)
    edge: float = 0.0


@dataclass(frozen=True)
class Measure:
    """One entry of the registry of measures.

    Attributes
    ----------
    name, label, help : str
    unit : str
        "m", "°", "%" or "1/m".
    low, high : float
        Ends of the scale on which limits are drawn; where they are equal, the body's own values say.
    first : tuple of (low or None, high or None, low_soft, high_soft)
        Limits that a new condition begins with.
    settings : tuple
    of : callable(Asked) -> (K,) float32
    kept : bool
        Whether it is taken once and kept, because it depends on far more than what lies around a vertex.
    pointwise : bool
        Whether it costs much at every vertex and hangs on nothing but its place.
    cost : int
        What is taken first where order does not matter: 0 cheap, 1 a noise, 2 a walk over the surface.
    reach : callable(dict, float) -> (float, float)
        For a mean edge: metres over the surface from which what has moved changes the figure of a vertex, and how much
        further one must look to take it.
    """

    name: str
    label: str
    help: str
    unit: str
    low: float
    high: float
    first: tuple[float | None, float | None, float, float]
    settings: tuple[Setting, ...]
    of: Callable[[Asked], Figures]
    kept: bool = False
    pointwise: bool = False
    cost: int = 0
    reach: Callable[[Values, float], tuple[float, float]] = lambda values, edge: (0.0, 0.0)
