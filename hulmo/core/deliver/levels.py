"""Levels of detail of a body."""

import math
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.apart import BrokenOff
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import FLAT, ONE_GROUND
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import UV, CornerTable
from hulmo.core.mesh.slot_table import SlotTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress, silent
from hulmo.core.topology.reduce import FEWEST, reduce_to
from hulmo.core.topology.two_sided import two_sided
from hulmo.core.workers import WORKERS

KEPT = ("position", "normal", WEIGHT, TINT)
"""Columns that are delivered."""

MORE = (1.0, 1.25, 1.6, 2.2)
"""Times the wanted triangles that are tried, one after the other, until the surface stays whole."""

AT_ONCE = 2
"""Levels that are made at once: much of it is done by one thread, and each takes memory."""

GUESS, TRIES, CLOSE, NEAR = 0.4, 8, 0.8, 1.1
"""Share of the triangles of the level before it that is tried first where an error is to be met; how often one is tried at
the most; share of the error from which on it counts as met; and how near to what is too few what is enough may come."""


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
        return self.error / allowed(1.0, height, field, pixels)


def allowed(distance: float, height: int, field: float, pixels: float) -> float:
    """Metres of error that are so many pixels of a picture so high at a distance, for a lens of so many degrees."""
    return distance * 2.0 * math.tan(math.radians(field) / 2.0) * pixels / height


def levels_of(
    body: Body, shares: tuple[float, ...], borders: bool, progress: Progress, errors: tuple[float, ...] = ()
) -> list[Level]:
    """The body itself and its coarser levels.

    Parameters
    ----------
    shares : tuple of float
        Of the body's triangles, each smaller than the one before it; what cannot be reduced so far ends the chain.
    borders : bool
        Whether every vertex of a border stays as it is, in place, normal, shares and tint.
    errors : tuple of float
        Instead of shares: metres, each larger than the one before it, that a level may lie off the full body; it gets as few
        triangles as keep within them.

    Notes
    -----
    Grounds, tint and texture coordinates are carried from the nearest places of the full surface (`reduce_to`).
    """
    full = plain(body)
    full.border_lock = borders
    _ = full.index  # made before two threads ask for it
    if errors:
        return _within_errors(full, errors, borders, progress)
    done = [0.0] * len(shares)

    def part(i: int) -> Progress:
        def told(share: float, what: str) -> None:
            done[i] = share
            progress.step(sum(done) / len(done), what)

        return Progress(told)

    made, measured = [full], list[Future[float]]()
    with ThreadPoolExecutor(min(AT_ONCE, WORKERS)) as makers, ThreadPoolExecutor(1) as aside:
        # levels are made side by side; how far one lies off is measured meanwhile
        coming = [makers.submit(_of_share, full, share, borders, part(i)) for i, share in enumerate(shares)]
        try:
            for one in coming:
                coarser, wanted = one.result()
                least = made[-1].corners.live_count
                if coarser is None or wanted >= least or coarser.corners.live_count >= least:
                    break  # no coarser one keeps its surface
                made.append(coarser)
                measured.append(aside.submit(two_sided, full, coarser))
        finally:
            for one in coming:
                one.cancel()
        return [Level(full, 0.0), *(Level(level, off.result()) for level, off in zip(made[1:], measured, strict=True))]


def _within_errors(full: Body, errors: tuple[float, ...], borders: bool, progress: Progress) -> list[Level]:
    out, known = [Level(full, 0.0)], list[tuple[int, Level | None]]()
    for done, error in enumerate(errors):
        part = progress.part(done / len(errors), (done + 1) / len(errors))
        within = _within(full, error, out[-1].body.corners.live_count, borders, known, part)
        if within is not None:
            out.append(within)
    return out


def _of_share(full: Body, share: float, borders: bool, progress: Progress) -> tuple[Body | None, int]:
    # a level of about so many of the triangles, and how many were asked for; None where none keeps its surface
    for more in MORE:
        wanted = max(round(full.corners.live_count * share * more), FEWEST)
        if wanted >= full.corners.live_count:
            break
        made = reduced(full, wanted, borders, progress)
        if made is not None:
            return made, wanted
    return None, 0


def _within(
    full: Body, error: float, least: int, borders: bool, known: list[tuple[int, Level | None]], progress: Progress
) -> Level | None:
    # about as few triangles as keep within the error; None where that is no fewer than `least`. `known` is what has been
    # tried before: counts that were wanted, and what came of them
    def enough(level: Level | None) -> bool:
        return level is not None and level.error <= error

    for tried in range(TRIES):
        progress.step(tried / TRIES, "looking for the coarsest level that keeps within the error")
        low = max((count for count, level in known if not enough(level)), default=FEWEST - 1)
        high = min((count for count, level in known if enough(level) and count > low), default=least)
        if high <= max(low * NEAR, low + 1):
            break
        best = next((level for count, level in known if count == high and enough(level)), None)
        if best is not None and best.error >= CLOSE * error:
            break
        # errors fall about as triangles come; beyond what is known, half the way
        there = [(count, level.error) for count, level in known if level is not None and count in (low, high)]
        guess = min((count * off / error for count, off in there), default=GUESS * least)
        middle = math.sqrt(max(low, FEWEST) * float(high))
        wanted = round(guess if max(low, FEWEST) * NEAR < guess < high / NEAR else middle)
        if not low < wanted < high:
            break
        made = reduced(full, wanted, borders, silent())
        known.append((wanted, None if made is None else Level(made, two_sided(full, made))))
    found = [
        level for _, level in known if level is not None and enough(level) and level.body.corners.live_count < least
    ]
    return min(found, key=lambda level: level.body.corners.live_count, default=None)


def reduced(full: Body, wanted: int, borders: bool, progress: Progress) -> Body | None:
    """A plain body with fewer triangles; None where its surface, or a border that is to stay, would not be whole."""
    try:
        tables = reduce_to(full, wanted, progress)
    except BrokenOff:
        raise
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
    own = CornerTable.from_opposites(corners.vertex.copy(), corners.opposite.copy(), vertices.count, slots, True)
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
