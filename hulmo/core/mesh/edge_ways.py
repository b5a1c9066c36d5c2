"""Ways along the edges of a mesh: straight rows, and shortest paths."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.geodesic import geodesic

Rows = NDArray[np.int32]

STRAIGHT = 0.5
"""Cosine of the turn (60 degrees) at which a row ends."""


def neighbours(body: Body, row: int) -> Rows:
    """(K,) rows that share an edge with a row, ascending."""
    slots = body.touched(np.array([row], np.int32)).triangles
    around = distinct(body.corners.triangles[slots])
    return np.asarray(around[around != row])


def edge_row(body: Body, start: int, toward: int) -> Rows:
    """A row of vertices: on from an edge, at each vertex along the edge that turns least, both ways.

    Parameters
    ----------
    body : Body
    start, toward : int
        Two vertices that share an edge.

    Returns
    -------
    (K,) int32
        In the order they are met. The row ends at a border, where it would turn by more than 60 degrees, and where it comes
        back to itself.
    """
    position = body.vertices["position"].astype(np.float64)
    seen = {start, toward}

    def onward(before: int, here: int) -> list[int]:
        way: list[int] = []
        while True:
            came = position[here] - position[before]
            around = [int(row) for row in neighbours(body, here) if int(row) != before]
            if not around:
                return way
            steps = position[around] - position[here]
            lengths = np.linalg.norm(steps, axis=1) * np.linalg.norm(came)
            turns = steps @ came / np.maximum(lengths, 1e-30)
            best = int(np.argmax(turns))
            if turns[best] < STRAIGHT or around[best] in seen:
                return way
            before, here = here, around[best]
            seen.add(here)
            way.append(here)

    ahead = onward(start, toward)
    behind = onward(toward, start)
    return np.array([*reversed(behind), start, toward, *ahead], np.int32)


def edge_path(body: Body, start: int, end: int) -> Rows:
    """(K,) rows of the way along edges that follows the shortest way over the surface; empty when there is none."""
    away = geodesic(body.vertices["position"], body.corners, np.array([start], np.int32))
    if not np.isfinite(away[end]):
        return np.empty(0, np.int32)
    position = body.vertices["position"].astype(np.float64)
    path = [end]
    while path[-1] != start:
        around = neighbours(body, path[-1])
        if start in around:
            path.append(start)
            break
        over = away[around] + np.linalg.norm(position[around] - position[path[-1]], axis=1)
        nearer = away[around] < away[path[-1]]
        if not nearer.any():
            return np.empty(0, np.int32)
        path.append(int(around[nearer][np.argmin(over[nearer])]))
    return np.array(path[::-1], np.int32)
