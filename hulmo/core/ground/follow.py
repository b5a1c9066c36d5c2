"""Ground rules that follow the shape while a stroke changes it."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.evaluate import evaluate, reach_of
from hulmo.core.ground.hand import add_up, guarded
from hulmo.core.ground.weights import RULED, WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.distinct import distinct
from hulmo.core.mesh.geodesic import geodesic
from hulmo.core.mesh.sides import mean_edge
from hulmo.core.sculpt.recorder import Touched

Rows = NDArray[np.int32]


class RuleFollower:
    """Evaluates the rules of a body where a stroke has changed it: at once where it was touched, and when the pointer lifts
    wherever the change reaches, so that the outcome is that of evaluating all of it.

    Parameters
    ----------
    body : Body
        With rules.
    grounds : tuple of str
    note : callable(column, rows)
        Told before rows are written.
    """

    def __init__(self, body: Body, grounds: tuple[str, ...], note: Callable[[str, Rows], None]) -> None:
        self._body, self._grounds, self._note = body, grounds, note
        self._edge = mean_edge(body)
        self._moved: list[Rows] = []

    def after(self, touched: list[Touched]) -> list[Touched]:
        """Evaluate what a dab touched; returns what was written."""
        rows = [part.rows for part in touched if part.column == "normal"]
        if not rows:
            return []
        moved = self._live(distinct(np.concatenate(rows)))
        self._moved.append(moved)
        return self._write(moved, evaluate(self._body, self._grounds, moved, rough=self._edge))

    def settle(self) -> list[Touched]:
        """Evaluate all that the stroke has an influence on; call it once, at the end."""
        if not self._moved:
            return []
        body = self._body
        moved = self._live(distinct(np.concatenate(self._moved)))
        reach, beyond = reach_of(body, self._grounds, self._edge)
        if reach <= 0.0 or not moved.size:
            return []
        away = geodesic(body.vertices["position"], body.corners, moved, reach + beyond)
        around = np.flatnonzero(np.isfinite(away)).astype(np.int32)
        ruled = evaluate(body, self._grounds, around)
        reached = away[around] <= reach
        return self._write(around[reached], ruled[reached])

    def _live(self, rows: Rows) -> Rows:
        first = self._body.corners.first_corner
        return rows[(rows < first.size) & (first[np.minimum(rows, first.size - 1)] >= 0)]

    def _write(self, rows: Rows, ruled: NDArray[np.float32]) -> list[Touched]:
        for column in (RULED, WEIGHT):
            self._note(column, rows)
        self._body.vertices[RULED][rows] = guarded(self._body, rows, ruled)
        add_up(self._body, len(self._grounds), rows)
        return [Touched(RULED, rows), Touched(WEIGHT, rows)]
