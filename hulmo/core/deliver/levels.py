"""Levels of detail of a body."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import FLAT, ONE_GROUND
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import UV, CornerTable
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.topology.reduce import FEWEST, reduce_to
from hulmo.core.topology.two_sided import two_sided

KEPT = ("position", "normal", WEIGHT, TINT)
"""Columns that are delivered."""

MORE = (1.0, 1.25, 1.6, 2.2)
"""Times the wanted triangles that are tried, one after the other, until the surface stays whole."""


@dataclass(frozen=True)
class Level:
    """One level of a body.

    Attributes
    ----------
    body : Body
        Without relief layers, in the form it is delivered in.
    error : float
        Metres that it lies off the full body at the most, seen from both sides.
    """

    body: Body
    error: float

    def switch(self, height: int, field: float, pixels: float) -> float:
        """Metres from which on the error is at most so many pixels of a picture so high, for a lens of so many degrees."""
        return self.error * height / (2.0 * math.tan(math.radians(field) / 2.0) * pixels)


def levels_of(body: Body, shares: tuple[float, ...], borders: bool, progress: Progress) -> list[Level]:
    """The body itself and its coarser levels.

    Parameters
    ----------
    shares : tuple of float
        Of the body's triangles, each smaller than the one before it; what cannot be reduced so far ends the chain.
    borders : bool
        Whether every vertex of a border stays as it is, in place, normal, shares and tint.

    Notes
    -----
    Grounds, tint and texture coordinates are carried from the nearest places of the full surface (`reduce_to`).
    """
    full = plain(body)
    full.border_lock = borders
    out = [Level(full, 0.0)]
    have = full.corners.live_count
    for done, share in enumerate(shares):
        part = progress.part(done / len(shares), (done + 1) / len(shares))
        made = None
        for more in MORE:
            wanted = max(round(have * share * more), FEWEST)
            if wanted >= out[-1].body.corners.live_count:
                break
            made = reduced(full, wanted, borders, part)
            if made is not None:
                break
        if made is None or made.corners.live_count >= out[-1].body.corners.live_count:
            break  # no coarser one keeps its surface
        out.append(Level(made, two_sided(full, made)))
    return out


def reduced(full: Body, wanted: int, borders: bool, progress: Progress) -> Body | None:
    """A plain body with fewer triangles; None where its surface, or a border that is to stay, would not be whole."""
    try:
        tables = reduce_to(full, wanted, progress)
    except InvalidInput:
        return None
    made = Body(full.name, *compact(*tables), full.ident)
    made.origin, made.down, made.base = full.origin, full.down, full.base
    made.replaced()
    if borders and not _border_kept(made, full):
        return None
    return made


def plain(body: Body) -> Body:
    """A copy that is its surface alone: no relief layers, guard, rules or props."""
    vertices, corners = compact(body.vertices, body.corners)
    table = VertexTable(vertices.count)
    for name in [name for name in vertices.names if name in KEPT]:
        table.set_column(name, vertices[name].copy())
    slots = SlotTable(corners.count)
    for domain, name in (("corner", UV), ("face", FLAT), ("face", ONE_GROUND)):
        values = corners.slots.get(name)
        if values is not None:
            slots.set(domain, name, values)
    own = CornerTable.from_triangles(corners.triangles.copy(), vertices.count, slots)
    out = Body(body.name, table, own, body.ident)
    out.origin, out.down, out.base = body.origin, body.down, body.base
    return out


def _border_kept(made: Body, full: Body) -> bool:
    # whether every place of the border is one still; then what is known there is made just what the full body knows
    mine, theirs = border_rows(made), border_rows(full)
    place = np.concatenate((made.vertices["position"][mine], full.vertices["position"][theirs]))
    _, spot = np.unique(np.ascontiguousarray(place).view(np.uint32), axis=0, return_inverse=True)
    spot = spot.reshape(-1)
    here, there = spot[: mine.size], spot[mine.size :]
    if not np.array_equal(np.unique(here), np.unique(there)):
        return False
    row = np.zeros(spot.max(initial=-1) + 1, np.int64)
    row[there] = theirs
    for name in full.vertices.names:
        if name in made.vertices:
            made.vertices[name][mine] = full.vertices[name][row[here]]
    return True


def border_rows(body: Body) -> NDArray[np.int64]:
    """Vertices on borders, ascending."""
    at = body.corners.border_corners()
    corner = at % 3
    first = at - corner
    triangles = body.corners.triangles.reshape(-1)
    return np.unique(np.concatenate((triangles[first + (corner + 1) % 3], triangles[first + (corner + 2) % 3]))).astype(
        np.int64
    )
