"""A curve that is drawn by its points."""

import itertools

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from hulmo.app.label import Label, plain_tip
from hulmo.app.theme import Theme
from hulmo.core.curve import STEPS, curve_table
from hulmo.core.setting import MOST_POINTS, Curve, Points

EDGE = 7
NEAR = 9
STEP = 0.02
"""How far an arrow key moves a point."""


class CurveField(QWidget):
    """Label over a small sheet with the curve. Points are dragged, added by a press beside them, removed by Delete.

    Signals
    -------
    changed : tuple
        The user chose other points.
    """

    changed = pyqtSignal(object)

    def __init__(self, setting: Curve, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setting = setting
        self.sheet = _Sheet(setting, theme)
        self.sheet.changed.connect(self.changed)
        title = Label(setting.label)
        title.setToolTip(plain_tip(setting.help))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(title)
        column.addWidget(self.sheet)

    @property
    def value(self) -> Points:
        """The present points."""
        return self.sheet.points

    def set_value(self, value: Points) -> None:
        """Show points; no signal."""
        self.sheet.show_points(value)

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.sheet.set_theme(theme)


class _Sheet(QWidget):
    changed = pyqtSignal(object)

    def __init__(self, setting: Curve, theme: Theme) -> None:
        super().__init__()
        self.points: Points = setting.default
        self._first = setting.default
        self._theme = theme
        self._held = -1
        self._chosen = 0
        self.setFixedHeight(84)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(setting.label)
        self.setToolTip(
            f"{setting.help}\nDrag a point, press beside the line to add one, Delete removes the chosen one. "
            "Tab and arrow keys work too; double press brings the first curve back."
        )

    def show_points(self, points: Points) -> None:
        self.points = tuple((float(x), float(y)) for x, y in points)
        self._chosen = min(self._chosen, len(self.points) - 1)
        self.update()

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def place(self, point: tuple[float, float]) -> QPointF:
        """Where a point of the curve is on the sheet."""
        width, height = self.width() - 2 * EDGE, self.height() - 2 * EDGE
        return QPointF(EDGE + point[0] * width, EDGE + (1 - point[1]) * height)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(EDGE, EDGE, self.width() - 2 * EDGE, self.height() - 2 * EDGE)
        painter.setPen(QPen(QColor(self._theme.line), 1))
        for i in range(5):
            x = box.left() + box.width() * i / 4
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.drawLine(box.topLeft(), box.topRight())
        table = curve_table(self.points)
        line = QPolygonF([self.place((i / (STEPS - 1), float(y))) for i, y in enumerate(table)])
        painter.setPen(QPen(QColor(self._theme.accent), 1.8))
        painter.drawPolyline(line)
        for i, point in enumerate(self.points):
            chosen = i == self._chosen and self.hasFocus()
            painter.setPen(QPen(QColor(self._theme.accent), 1.6))
            painter.setBrush(QColor(self._theme.accent if chosen else self._theme.page))
            painter.drawRect(QRectF(self.place(point) - QPointF(3, 3), self.place(point) + QPointF(3, 3)))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        near = [(self.place(point) - at).manhattanLength() for point in self.points]
        best = near.index(min(near))
        if near[best] <= NEAR:
            self._held = self._chosen = best
        elif len(self.points) < MOST_POINTS:
            x, y = self._share(at)
            self._held = self._chosen = sum(1 for point in self.points if point[0] < x)
            self._tell((*self.points[: self._held], (x, y), *self.points[self._held :]))
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held >= 0:
            self._put(self._held, *self._share(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = -1

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._tell(self._first)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {
            Qt.Key.Key_Left: (-STEP, 0.0), Qt.Key.Key_Right: (STEP, 0.0), Qt.Key.Key_Up: (0.0, STEP),
            Qt.Key.Key_Down: (0.0, -STEP),
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key in steps:
            x, y = self.points[self._chosen]
            self._put(self._chosen, x + steps[key][0], y + steps[key][1])
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._chosen = (self._chosen + (1 if key == Qt.Key.Key_PageDown else -1)) % len(self.points)
            self.update()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and 0 < self._chosen < len(self.points) - 1:
            self._tell((*self.points[: self._chosen], *self.points[self._chosen + 1 :]))
        else:
            super().keyPressEvent(event)

    def _share(self, at: QPointF) -> tuple[float, float]:
        x = (at.x() - EDGE) / (self.width() - 2 * EDGE)
        y = 1 - (at.y() - EDGE) / (self.height() - 2 * EDGE)
        return min(max(x, STEP), 1 - STEP), min(max(y, 0.0), 1.0)

    def _put(self, i: int, x: float, y: float) -> None:
        last = len(self.points) - 1
        if i in (0, last):
            x = 0.0 if i == 0 else 1.0
        else:
            x = min(max(x, self.points[i - 1][0] + 0.01), self.points[i + 1][0] - 0.01)
        point = (round(x, 4), round(min(max(y, 0.0), 1.0), 4))
        self._tell((*self.points[:i], point, *self.points[i + 1 :]))

    def _tell(self, points: Points) -> None:
        ordered = all(b[0] - a[0] >= 1e-3 for a, b in itertools.pairwise(points))
        if ordered:
            self.show_points(points)
            self.changed.emit(self.points)
