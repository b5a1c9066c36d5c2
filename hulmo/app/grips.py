"""Grips: arms told apart by the shape at their end and a letter; what they do is told by their middle."""

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

INK = QColor(22, 32, 33)
PALE = QColor(250, 247, 238)
GRIP, GRIP_HELD = QColor(64, 178, 184), QColor(250, 222, 150)
"""Arms of the grips, and one that is being dragged."""


@dataclass
class Grip:
    """One arm.

    Attributes
    ----------
    start, end : QPointF
    shape : str
        "square", "triangle" or "round": what tells it from the others.
    letter : str
    held : bool
        Whether it is being dragged.
    """

    start: QPointF
    end: QPointF
    shape: str
    letter: str
    held: bool


def draw_grips(painter: QPainter, grips: list[Grip], kind: str, text: Callable[[QPainter, QPointF, str], None]) -> None:
    """Draw grips; kind is move, turn or scale, and `text` puts a letter beside a place."""
    middle = grips[0].start
    for grip in grips:
        for colour, width in ((QColor(22, 32, 33, 170), 4.4), (GRIP_HELD if grip.held else GRIP, 2.2)):
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(grip.start, grip.end)
        painter.setPen(QPen(INK, 1.3))
        painter.setBrush(GRIP_HELD if grip.held else PALE)
        x, y = grip.end.x(), grip.end.y()
        if grip.shape == "square":
            painter.drawRect(QRectF(x - 6, y - 6, 12, 12))
        elif grip.shape == "round":
            painter.drawEllipse(grip.end, 6.5, 6.5)
        else:
            painter.drawPolygon(QPolygonF([QPointF(x, y - 8), QPointF(x + 7, y + 5), QPointF(x - 7, y + 5)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        text(painter, grip.end + QPointF(10, 4), grip.letter)
    painter.setPen(QPen(INK, 1.3))
    painter.setBrush(PALE)
    if kind == "turn":
        painter.drawEllipse(middle, 8.0, 8.0)
        painter.drawArc(QRectF(middle.x() - 4, middle.y() - 4, 8, 8), 30 * 16, 280 * 16)
    elif kind == "scale":
        painter.drawRect(QRectF(middle.x() - 8, middle.y() - 8, 16, 16))
        painter.drawRect(QRectF(middle.x() - 3, middle.y() - 3, 6, 6))
    else:
        painter.drawEllipse(middle, 6.0, 6.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)
