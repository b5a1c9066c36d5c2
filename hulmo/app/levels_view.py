"""Levels of a delivery as they will be seen: by the distance of the eye, in place of the bodies they are of."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.core.counted import counted
from hulmo.core.deliver.pieces import Piece
from hulmo.core.edit import Change
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project


@dataclass(frozen=True)
class _Chain:
    # one body or patch: its levels, from where on each does, and the box that distance is counted from
    bodies: tuple[Body, ...]
    away: tuple[float, ...]
    low: NDArray[np.float64]
    high: NDArray[np.float64]


class LevelsView(QObject):
    """Which level of each piece is shown, as the eye moves.

    Signals
    -------
    said : str
        What is shown now.
    """

    said = pyqtSignal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._chains: list[_Chain] = []
        self._picked: list[int] = []

    @property
    def on(self) -> bool:
        """Whether levels are shown."""
        return bool(self._chains)

    def begin(self, project: Project, pieces: list[Piece]) -> Project:
        """A project to draw in place of the one that the pieces are of, whose bodies it takes over; `pick` says what of it
        is shown."""
        self._chains, ident = [], 1 + max(body.ident for body in project.bodies)
        for piece in pieces:
            bodies = [level.body for level in piece.levels]
            for body in bodies:
                body.ident, body.shown = ident, False
                ident += 1
            rows = np.unique(bodies[0].corners.live_triangles())
            place = bodies[0].placed(bodies[0].vertices["position"][rows].astype(np.float64))
            away = tuple(told.away for told in piece.told)
            self._chains.append(_Chain(tuple(bodies), away, *low_high(place)))
        self._picked = [-1] * len(self._chains)
        shown = Project(project.name)
        shown.grounds, shown.blend, shown.light, shown.sky = project.grounds, project.blend, project.light, project.sky
        shown.textures, shown.objects = project.textures, project.objects
        shown.bodies = tuple(body for chain in self._chains for body in chain.bodies)
        return shown

    def end(self) -> None:
        """Nothing is shown in place of the project."""
        self._chains, self._picked = [], []

    def pick(self, eye: NDArray[np.float64]) -> Change | None:
        """Show what does from there; the change to draw, or None where it is what was shown."""
        picked, distances = [], []
        for chain in self._chains:
            distance = float(np.linalg.norm(np.maximum(np.maximum(chain.low - eye, eye - chain.high), 0.0)))
            picked.append(max(i for i, away in enumerate(chain.away) if away <= distance))
            distances.append(distance)
        if picked == self._picked or not picked:
            return None
        self._picked = picked
        triangles = 0
        for chain, level in zip(self._chains, picked, strict=True):
            for i, body in enumerate(chain.bodies):
                body.shown = i == level
            triangles += chain.bodies[level].corners.live_count
        low, high = min(picked), max(picked)
        which = f"level {low}" if low == high else f"levels {low} to {high}"
        self.said.emit(
            f"Shown: {which}, {counted(triangles, 'triangle')} in all, from {min(distances):,.0f} m off. Move to see others."
        )
        return Change([], [], set(), {"body shown"})
