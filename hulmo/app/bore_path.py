"""The path of a passage that is being drawn on the canvas."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.core.commands import Bore, Command
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Choice, Number, Setting, Values, complete, number

Vector = NDArray[np.float64]

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "how",
        "How",
        (
            ("through", "Straight through", "One press bores the way you look, through to the other side."),
            ("path", "Along a path", "Presses set points of the radius and depth chosen below; drag them, then press Bore."),
        ),
        "through",
        "How the passage is drawn.",
    ),
    Number("radius", "Radius", "m", 0.01, 1000.0, 2.0, "Of the passage.", comfort=(0.2, 20.0), curve=3.0),
    Number("irregularity", "Irregularity", "%", 0.0, 100.0, 25.0, "How much the radius varies."),
    Number("depth", "Depth of next point", "m", 0.0, 1000.0, 0.0, "How far behind the surface the next point lies, the way "
           "you look.", comfort=(0.0, 60.0), curve=2.0, only=(("how", "path"),)),
    Number("rough", "Roughness", "m", 0.0, 100.0, 0.0, "Height of bumps on the walls.", comfort=(0.0, 2.0), curve=2.0),
    Number("rough_size", "Bump size", "m", 0.01, 1000.0, 1.5, "From one bump of the walls to the next.",
           comfort=(0.1, 10.0), curve=2.0),
    Number("seed", "Seed", "", 0, 9999, 1, "Another number gives another passage.", whole=True),
)  # fmt: skip

MOST_WALLS = 64
"""Times that a straight passage goes in and out at the most."""


class BorePath(QObject):
    """Points of a passage, from presses on a body.

    Signals
    -------
    changed
        Another point, or none any more.
    completed
        A straight passage is drawn and can be cut.
    """

    changed = pyqtSignal()
    completed = pyqtSignal()
    word = "Point of the passage"
    """What undo calls one of them."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.points: list[Vector] = []
        self.radii: list[float] = []
        self._taken: list[tuple[Vector, float]] = []
        self.values: Values = complete(SETTINGS, {}, "bore")

    def press(self, body: Body, origin: Vector, direction: Vector, cut: Vector | None = None) -> None:
        """Take a press on the canvas up; beside the body it does nothing.

        Parameters
        ----------
        body : Body
        origin, direction : (3,) float64
        cut : (3,) float64, optional
            Where the press met the page of a section: a point of a path is set right there, inside the body.
        """
        way = direction / np.linalg.norm(direction)
        by_path = self.values["how"] == "path"
        if cut is not None and by_path:
            self._add(cut)
            return
        hit = body.ray(origin, direction)
        if hit is None:
            return
        if not by_path:
            margin = 2 * number(self.values, "radius")
            last = hit.position
            for _ in range(MOST_WALLS):
                further = body.ray(last + way * 1e-3, way)
                if further is None:
                    break
                last = further.position
            self.points = [hit.position - way * margin, last + way * margin]
            self.radii = [number(self.values, "radius")] * 2
            self.changed.emit()
            self.completed.emit()
            return
        self._add(hit.position + way * number(self.values, "depth"))

    def move(self, index: int, point: Vector) -> None:
        """Put a point elsewhere."""
        self.points[index] = point
        self.changed.emit()

    @property
    def taken(self) -> bool:
        """Whether a point was taken back that can be put again."""
        return bool(self._taken)

    def drop_last(self) -> bool:
        """Take the last point back; False when there is none."""
        if not self.points:
            return False
        self._taken.append((self.points.pop(), self.radii.pop()))
        self.changed.emit()
        return True

    def put_again(self) -> bool:
        """Put the point that was taken back last where it was; False when there is none."""
        if not self._taken:
            return False
        point, radius = self._taken.pop()
        self.points.append(point)
        self.radii.append(radius)
        self.changed.emit()
        return True

    def drawn_with(self, kind: str) -> bool:
        """Whether a path is being drawn while a tool of this kind is in hand."""
        return kind == "bore" and self.values["how"] == "path"

    def undone(self, command: Command) -> None:
        """A step was taken back: a path that it bored is there to be changed."""
        if isinstance(command, Bore):
            self.bring_back(command.path, command.radii or (command.radius,) * len(command.path))

    def redone(self, command: Command) -> None:
        """A step was done again."""
        if isinstance(command, Bore):
            self.clear()

    def bring_back(self, points: Iterable[tuple[float, float, float]], radii: Iterable[float]) -> None:
        """Take up a path that was bored before."""
        self.points, self.radii, self._taken = [np.array(point) for point in points], list(radii), []
        self.changed.emit()

    def clear(self) -> None:
        """Begin anew."""
        self.bring_back((), ())

    def _add(self, point: Vector) -> None:
        self._taken = []
        self.points.append(point)
        self.radii.append(number(self.values, "radius"))
        self.changed.emit()
