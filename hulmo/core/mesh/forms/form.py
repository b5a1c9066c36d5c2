"""What a base form is: settings, counts, and the mesh itself."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.setting import Number, Setting, Values

Points = NDArray[np.float32]
Triangles = NDArray[np.int32]


@dataclass(frozen=True)
class Shape:
    """A mesh that is not yet a body.

    Attributes
    ----------
    position : (N, 3) float32
        Metres.
    triangles : (M, 3) int32
        Counter-clockwise seen from outside.
    uv : (M, 3, 2) float32 or None
        Texture coordinate of every corner.
    """

    position: Points
    triangles: Triangles
    uv: NDArray[np.float32] | None = None


@dataclass(frozen=True)
class Counts:
    """How large a form gets: vertices, triangles, and how many quads its grid has (0 where there is no grid)."""

    vertices: int
    triangles: int
    quads: int = 0


@dataclass(frozen=True)
class BaseForm:
    """One entry of the registry.

    Attributes
    ----------
    name, label, help : str
    settings : tuple
        The wanted edge length, `edge`, is one of them.
    count : callable(Values) -> Counts
        Exact counts, found without building.
    build : callable(Values) -> Shape
    """

    name: str
    label: str
    help: str
    settings: tuple[Setting, ...]
    count: Callable[[Values], Counts]
    build: Callable[[Values], Shape]


def length(name: str, label: str, default: float, text: str) -> Number:
    """A dimension of a form, metres."""
    return Number(name, label, "m", 0.001, 100_000.0, default, text, comfort=(0.5, 200.0), curve=3.0)


def edge(default: float) -> Number:
    """The wanted edge length, metres."""
    text = "Wanted length of a mesh edge. Halving it makes four times the triangles."
    return Number("edge", "Edge length", "m", 0.0001, 10_000.0, default, text, comfort=(0.05, 5.0), curve=3.0)


def grid_triangles(rows: int, columns: int, offset: int = 0) -> Triangles:
    """Two triangles for each cell of a vertex grid that is stored row by row.

    Parameters
    ----------
    rows, columns : int
        Cells.
    offset : int
        Number of the first vertex.

    Returns
    -------
    (2 rows columns, 3) int32
        Counter-clockwise when rows run along -Z... +Z and columns along -X... +X, seen from +Y.
    """
    corner = (np.arange(rows, dtype=np.int32)[:, None] * (columns + 1) + np.arange(columns, dtype=np.int32)).reshape(-1)
    corner += offset
    down = np.int32(columns + 1)
    cells = np.empty((corner.size, 2, 3), np.int32)
    cells[:, 0, 0] = corner
    cells[:, 0, 1] = corner + down
    cells[:, 0, 2] = corner + 1
    cells[:, 1, 0] = corner + 1
    cells[:, 1, 1] = corner + down
    cells[:, 1, 2] = corner + down + 1
    return cells.reshape(-1, 3)


def steps(extent: float, wanted: float) -> int:
    """Into how many edges a length is cut: the nearest whole number, at least one."""
    return max(1, round(extent / wanted))
