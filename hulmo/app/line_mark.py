"""How lines on the ground are drawn over the scene."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from hulmo.render.camera import Camera

Points = NDArray[np.float64]

DARK, PALE = QColor(22, 32, 33), QColor(250, 247, 238)
ACCENT, HELD = QColor(64, 178, 184), QColor(250, 222, 150)


@dataclass
class LineMark:
    """A line on the ground.

    Attributes
    ----------
    places : (K, 3) float64
        Along it, metres; of a closed one the first comes last again.
    seen : (K,) bool
        Whether nothing lies before them.
    points : (P, 3) float64
        Its points, where they are shown.
    corner : (P,) bool
        Which of them are corners: drawn square.
    held : int
        Which point is held; -1 for none.
    chosen : bool
    """

    places: Points
    seen: NDArray[np.bool_]
    points: Points
    corner: NDArray[np.bool_]
    held: int = -1
    chosen: bool = True


def draw_line(painter: QPainter, camera: Camera, line: LineMark, width: int, height: int) -> None:
    """Draw a line: what is hidden dotted, points round where they are smooth and square where they are corners."""
    if line.places.shape[0] > 1:
        spot = camera.to_screen(line.places, width, height)
        ahead = spot[:, 2] > camera.near
        for shown in (False, True):
            run: list[QPointF] = []
            for i in range(spot.shape[0] + 1):
                if i < spot.shape[0] and ahead[i] and bool(line.seen[i]) is shown:
                    run.append(QPointF(float(spot[i, 0]), float(spot[i, 1])))
                    continue
                if i < spot.shape[0] and ahead[i] and run:  # up to where the other kind begins
                    run.append(QPointF(float(spot[i, 0]), float(spot[i, 1])))
                if len(run) > 1:
                    _stroke(painter, run, shown, line.chosen)
                run = []
    spots = camera.to_screen(line.points, width, height) if line.points.size else np.zeros((0, 3))
    for i, (x, y, away) in enumerate(spots.tolist()):
        if away <= camera.near:
            continue
        painter.setPen(QPen(DARK, 1.3))
        painter.setBrush(HELD if i == line.held else PALE)
        if line.corner[i]:
            painter.drawRect(QRectF(x - 4.5, y - 4.5, 9, 9))
        else:
            painter.drawEllipse(QPointF(x, y), 5.0, 5.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _stroke(painter: QPainter, run: list[QPointF], shown: bool, chosen: bool) -> None:
    if not shown:
        painter.setPen(QPen(QColor(250, 247, 238, 110), 1.3, Qt.PenStyle.DotLine))
        painter.drawPolyline(QPolygonF(run))
        return
    for colour, wide in ((QColor(22, 32, 33, 150), 4.2), (ACCENT if chosen else PALE, 2.0)):
        painter.setPen(QPen(colour, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        painter.drawPolyline(QPolygonF(run))
