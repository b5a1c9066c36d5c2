"""Single props in hand."""

from typing import Any

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.commands.strew import strew_edit
from hulmo.core.commands.tray import prop_named
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.origin import check_place
from hulmo.core.mesh.strewn import BY_RULE, FIXED, REMOVED, Strewn, anchors
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Triple = tuple[float, float, float]


class ChangeStrewn(Command, frozen=True, tag="change_strewn"):
    """Move, turn, scale, swap, fix or take away single props of a body.

    Attributes
    ----------
    body : str
    which : list of int
        Their places in the list of the body's props, from 0.
    at : [x, y, z] or None
        Metres; the first of them goes to the nearest place on the surface, the others along with it.
    turn : float or None
        Degrees that the first is turned to; the others turn by as much.
    size : float or None
        Size of the first; the others grow by the same factor.
    prop : str or None
        Another prop of the tray in their place.
    fixed : bool or None
        Whether brushes and rules leave them as they are.
    remove : bool
        Take them away.
    """

    body: str
    which: tuple[int, ...]
    at: Triple | None = None
    turn: float | None = None
    size: float | None = None
    prop: str | None = None
    fixed: bool | None = None
    remove: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "change_strewn"
        body = project.unlocked_body(self.body, where)
        strewn = body.strewn if body.strewn is not None else Strewn.none()
        rows = np.array(sorted(set(self.which)), np.int64)
        if rows.size and not (rows[0] >= 0 and rows[-1] < strewn.count):
            raise InvalidInput(f"{where}: {self.body!r} has {strewn.count:,} props; {int(rows[-1])} is none of them")
        if not rows.size:
            raise InvalidInput(f"{where}: name the props that are to change")
        if self.remove:
            ruled = strewn.mark[rows] == BY_RULE
            mark, keep = strewn.mark.copy(), np.ones(strewn.count, np.bool_)
            mark[rows[ruled]], keep[rows[~ruled]] = REMOVED, False
            return strew_edit(body, strewn.changed(mark=mark).taken(keep), "Take props away")
        columns = {
            name: getattr(strewn, name).copy() for name in ("prop", "turn", "size", "sink", "mark", "slot", "weight")
        }
        columns["mark"][rows] = FIXED  # what was in hand is nobody else's any more
        if self.turn is not None:
            by = _finite(self.turn, where) - columns["turn"][self.which[0]]
            columns["turn"][rows] = np.mod(columns["turn"][rows] + by, 360.0)
        if self.size is not None:
            if not 1e-3 <= self.size <= 1e3:
                raise InvalidInput(f"{where}: size is {self.size:g}; it must lie between 0.001 and 1,000")
            factor = self.size / max(float(columns["size"][self.which[0]]), 1e-6)
            columns["size"][rows] = np.clip(columns["size"][rows] * factor, 1e-3, 1e3)
            columns["sink"][rows] = np.clip(columns["sink"][rows] * factor, -1e4, 1e4)
        if self.prop is not None:
            columns["prop"][rows] = prop_named(project, self.prop, where).ident
        if self.fixed is False:
            columns["mark"][rows] = 0
        if self.at is not None:
            _move(body, strewn, columns, rows, self.at, where, self.which[0])
        label = next(
            word for word, value in (("Move props", self.at), ("Turn props", self.turn), ("Scale props", self.size),
                                     ("Swap props", self.prop), ("Fix props", True)) if value is not None
        )  # fmt: skip
        return strew_edit(body, strewn.changed(**columns), label)


def _finite(value: float, where: str) -> float:
    if not np.isfinite(value):
        raise InvalidInput(f"{where}: {value} is no finite number")
    return value


def _move(body: Body, strewn: Strewn, columns: dict[str, Any], rows: Any, at: Triple, where: str, lead: int) -> None:
    check_place(at, f"{where}: its place")
    place, _ = anchors(body, strewn.taken(rows))
    way = body.own(np.array(at)) - place[int(np.searchsorted(rows, lead))]
    slot, weight = body.index.nearest_many(
        body.corners.vertex, body.vertices["position"], (place + way).astype(np.float32)
    )
    columns["slot"][rows], columns["weight"][rows] = slot, weight[:, 1:]
