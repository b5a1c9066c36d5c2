"""What no operation may change: guarded vertices and locked borders. Noted before an edit is applied, asked for after it.

Operations keep them by themselves wherever they can. One that cannot is refused here, with the project as it was, so that
none has to be trusted.
"""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import BodyDelta, Edit, FieldDelta, StrewDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.seam import border_of
from hulmo.core.project import Project

WHOLE = 1.0 - 1e-6
"""Guard from which a vertex is kept from every change."""

SAME = 2e-3
"""How far a share of ground may move by rounding alone."""

ON_ITS_OWN = ("name", "shown", "locked", "border_lock", "coat_owner", "strew_rules")
"""Attributes of a body that neither move it nor paint it."""

Points = NDArray[np.float32]


class Kept:
    """What is guarded or locked in the bodies that an edit changes, as it is before.

    Parameters
    ----------
    project : Project
    edit : Edit
    whole : bool
        Whether the edit moves bodies as a whole: their guard goes along, locked borders still stay.
    """

    def __init__(self, project: Project, edit: Edit, whole: bool) -> None:
        self._project, self._label = project, edit.label
        self._names = project.ground_names
        changed = {
            getattr(delta, "body", -1)
            for delta in edit.deltas
            if not isinstance(delta, StrewDelta) and not (isinstance(delta, BodyDelta) and delta.name in ON_ITS_OWN)
        }
        palette = any(isinstance(delta, FieldDelta) and delta.name == "grounds" for delta in edit.deltas)
        self._guarded: list[tuple[Body, Points, Points | None]] = []
        self._borders: list[tuple[Body, Points]] = []
        for body in project.bodies:
            if body.ident not in changed:
                continue
            if body.locked and not palette:
                raise InvalidInput(f"{edit.label}: the body {body.name!r} is locked; unlock it first")
            vertices = body.vertices
            if GUARD in vertices and not whole:
                rows = np.flatnonzero((vertices[GUARD][:, 0] >= WHOLE) & (body.corners.first_corner >= 0))
                if rows.size:
                    weight = np.take(vertices[WEIGHT], rows, axis=0) if WEIGHT in vertices else None
                    self._guarded.append((body, placed(body, rows), weight))
            if body.border_lock:
                self._borders.append((body, placed(body, border_of(body))))

    def check(self) -> None:
        """Refuse what was done when it changed any of it.

        Raises
        ------
        InvalidInput
            Whoever applied the edit takes it back.
        """
        there = {id(body) for body in self._project.bodies}
        for body, places in self._borders:
            if id(body) in there and lost(places, placed(body, border_of(body))):
                raise InvalidInput(
                    f"{self._label}: this would change the border of {body.name!r}, which is locked; unlock it first"
                )
        for body, places, weight in self._guarded:
            if id(body) not in there:
                continue
            rows = np.flatnonzero(body.corners.first_corner >= 0)
            now = placed(body, rows)
            if lost(places, now) or (weight is not None and self._repainted(body, rows, now, places, weight)):
                raise InvalidInput(
                    f"{self._label}: this would change what is guarded on {body.name!r}; clear the guard there first"
                )

    def _repainted(self, body: Body, rows: NDArray[np.intp], now: Points, places: Points, weight: Points) -> bool:
        # what lies at guarded places, ground by ground; a ground may have another column or name by now
        names = self._project.ground_names
        if len(names) == len(self._names) and set(names) != set(self._names):
            columns: list[int | None] = list(range(len(names)))  # one got another name
        else:
            columns = [names.index(name) if name in names else None for name in self._names]
        if WEIGHT not in body.vertices:
            return False
        order = np.argsort(as_keys(now), kind="stable")
        at = rows[order[np.searchsorted(as_keys(now)[order], as_keys(places))]]
        later = np.take(body.vertices[WEIGHT], at, axis=0)
        for old, new in enumerate(columns):
            share = later[:, new] if new is not None else np.float32(0.0)
            if float(np.abs(weight[:, old] - share).max(initial=0.0)) > SAME:
                return True
        return False


def placed(body: Body, rows: NDArray[np.integer]) -> Points:
    """(K, 3) positions of some rows, metres from the body's origin, with one kind of zero."""
    return np.take(body.vertices["position"], rows, axis=0) + np.float32(0.0)


def as_keys(places: Points) -> NDArray[np.void]:
    """(K,) one value for each of (K, 3) places, the same for the same place alone."""
    return np.ascontiguousarray(places).view(np.dtype((np.void, 12))).reshape(-1)


def lost(places: Points, now: Points) -> bool:
    """Whether any of some places has no vertex any more."""
    return not bool(np.isin(as_keys(places), as_keys(now)).all())
