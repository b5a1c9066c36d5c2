"""Chosen vertices, and sets of vertices that are kept under a name: columns of width 1, 1 within and 0 outside."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body

Rows = NDArray[np.int32]

CHOSEN = "chosen"
"""Vertex column of what is chosen now."""

MARKED = "marked_"
"""How columns of named sets begin."""


def chosen_rows(body: Body) -> Rows:
    """(K,) rows that are chosen, ascending; a vertex that came between two counts when most of it is."""
    return _within(body, CHOSEN)


def marked_names(body: Body) -> list[str]:
    """Names of the marked sets of a body."""
    return [name[len(MARKED) :] for name in body.vertices.names if name.startswith(MARKED)]


def marked_rows(body: Body, name: str) -> Rows:
    """(K,) rows of a marked set, ascending.

    Raises
    ------
    InvalidInput
        The body has no such set.
    """
    if MARKED + name not in body.vertices:
        known = ", ".join(repr(entry) for entry in marked_names(body)) or "none"
        raise InvalidInput(f"{body.name!r} has no marked set {name!r}; it has {known}")
    return _within(body, MARKED + name)


def _within(body: Body, column: str) -> Rows:
    if column not in body.vertices:
        return np.empty(0, np.int32)
    rows = np.flatnonzero(body.vertices[column][:, 0] >= 0.5)
    return rows[body.corners.first_corner[rows] >= 0].astype(np.int32)
