"""Soft limits drawn as a curve over a histogram."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hulmo.app.theme import TEXT_FONT, Theme

EDGE = 9
FOOT = 16
NEAR = 11
BARS = 72


class Limits(NamedTuple):
    """Where something holds: wholly from `low` to `high` (None: open), fading over so much beyond."""

    low: float | None
    high: float | None
    low_soft: float
    high_soft: float


class LimitField(QWidget):
    """A sheet with the body's own values as bars and the limits as a curve. Handles are dragged: two for where the condition
    holds wholly, two for where it has faded. A handle dragged to the end of the scale leaves that side open.

    Signals
    -------
    changed : Limits
        The user moved a handle.
    """

    changed = pyqtSignal(object)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._bars: NDArray[np.float64] = np.zeros(BARS)
        self._scale = (0.0, 1.0)
        self._unit = ""
        self.limits = Limits(None, None, 0.0, 0.0)
        self._held = -1
        self._chosen = 0
        self._inverted = False
        self.setFixedHeight(92)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Limits")
        self.setToolTip(
            "Bars: how much of the body has which value. Drag the upper handles to where the rule holds wholly, the lower "
            "ones to where it has faded. At the end of the scale a side is open. Page keys and arrows work too."
        )

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.update()

    def show_figures(self, figures: NDArray[np.floating], low: float, high: float, unit: str) -> None:
        """Show how often which figure comes, over a scale."""
        self._scale, self._unit = (low, max(high, low + 1e-6)), unit
        if figures.size:
            bars, _ = np.histogram(figures, BARS, self._scale)
            self._bars = np.sqrt(bars / max(1, bars.max()))  # roots, so that what is rare is seen beside what is common
        else:
            self._bars = np.zeros(BARS)
        self.update()

    def set_limits(self, limits: Limits, inverted: bool = False) -> None:
        """Show limits; no signal."""
        self.limits, self._inverted = limits, inverted
        self.update()

    def handle(self, which: int) -> QPointF:
        """Where a handle is: 0 faded below, 1 whole from, 2 whole to, 3 faded above."""
        value = self._values()[which]
        box = self._box()
        return QPointF(self._x(value), box.bottom() if which in (0, 3) else box.top())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Bars, curve, handles, scale."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box()
        quiet = QColor(self._theme.quiet)
        quiet.setAlpha(70)
        painter.fillRect(box.adjusted(0, -2, 0, 0), QColor(self._theme.page))
        wide = box.width() / BARS
        for i, bar in enumerate(self._bars):
            high = float(bar) * (box.height() - 6)
            painter.fillRect(QRectF(box.left() + i * wide, box.bottom() - high, wide - 0.6, high), quiet)
        painter.setPen(QPen(QColor(self._theme.line), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        across = np.linspace(self._scale[0], self._scale[1], 121)
        held = self._held_at(across)
        line = QPolygonF(
            [QPointF(self._x(x), box.bottom() - y * box.height()) for x, y in zip(across, held, strict=True)]
        )
        shade = QColor(self._theme.accent)
        shade.setAlpha(45)
        area = QPolygonF(line)
        area.append(box.bottomRight())
        area.append(box.bottomLeft())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade)
        painter.drawPolygon(area)
        painter.setPen(QPen(QColor(self._theme.accent), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(line)
        for which in range(4):
            chosen = self.hasFocus() and which == self._chosen
            painter.setPen(QPen(QColor(self._theme.accent), 1.6))
            painter.setBrush(QColor(self._theme.accent if chosen else self._theme.page))
            spot = self.handle(which)
            if which in (0, 3):
                painter.drawRect(QRectF(spot - QPointF(3.5, 3.5), spot + QPointF(3.5, 3.5)))
            else:
                painter.drawEllipse(spot, 4.2, 4.2)
        font = QFont(TEXT_FONT)
        font.setPixelSize(11)
        painter.setFont(font)
        painter.setPen(QColor(self._theme.quiet))
        foot = QRectF(box.left(), box.bottom() + 5, box.width(), FOOT)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"{self._scale[0]:.4g}")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"{self._scale[1]:.4g} {self._unit}")
        painter.setPen(QColor(self._theme.ink))
        painter.drawText(foot, Qt.AlignmentFlag.AlignHCenter, self._words())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the nearest handle."""
        if event is None:
            return
        self.setFocus()
        apart = [(self.handle(which) - event.position()).manhattanLength() for which in range(4)]
        best = int(np.argmin(apart))
        if apart[best] <= NEAR:
            self._held = self._chosen = best
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag it."""
        if event is not None and self._held >= 0:
            box = self._box()
            share = (event.position().x() - box.left()) / box.width()
            self._put(self._held, self._scale[0] + share * (self._scale[1] - self._scale[0]))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let it go."""
        self._held = -1

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Page keys choose a handle, arrows move it."""
        if event is None:
            return
        step = (self._scale[1] - self._scale[0]) / 100
        key = event.key()
        if key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._chosen = (self._chosen + (1 if key == Qt.Key.Key_PageDown else -1)) % 4
            self.update()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._put(self._chosen, self._values()[self._chosen] + (step if key == Qt.Key.Key_Right else -step))
        else:
            super().keyPressEvent(event)

    def _box(self) -> QRectF:
        return QRectF(EDGE, 7, self.width() - 2 * EDGE, self.height() - 7 - FOOT - 7)

    def _x(self, value: float) -> float:
        box = self._box()
        share = (value - self._scale[0]) / (self._scale[1] - self._scale[0])
        return box.left() + min(max(share, 0.0), 1.0) * box.width()

    def _values(self) -> tuple[float, float, float, float]:
        low, high, low_soft, high_soft = self.limits
        first = self._scale[0] if low is None else low
        last = self._scale[1] if high is None else high
        return (
            first if low is None else first - low_soft, first, last, last if high is None else last + high_soft
        )  # fmt: skip

    def _held_at(self, across: NDArray[np.float64]) -> NDArray[np.float64]:
        low, high, low_soft, high_soft = self.limits
        held = np.ones(across.size)
        for limit, soft, sign in ((low, low_soft, 1.0), (high, high_soft, -1.0)):
            if limit is not None:
                t = np.clip((across - limit) * sign / max(soft, 1e-9) + 1.0, 0.0, 1.0)
                held *= t * t * (3 - 2 * t)
        return 1.0 - held if self._inverted else held

    def _words(self) -> str:
        low, high, _, _ = self.limits
        if low is None and high is None:
            return "everywhere"
        if low is None:
            return f"up to {high:.4g} {self._unit}"
        if high is None:
            return f"from {low:.4g} {self._unit}"
        return f"{low:.4g} to {high:.4g} {self._unit}"

    def _put(self, which: int, value: float) -> None:
        first, last = self._scale
        value = min(max(value, first), last)
        value = float(f"{value:.4g}")
        _, low, high, _ = self._values()
        low_soft, high_soft = self.limits.low_soft, self.limits.high_soft
        slack = (last - first) / 200
        open_low, open_high = self.limits.low is None, self.limits.high is None
        if which == 1:
            low, open_low = min(value, high), value <= first + slack
        elif which == 2:
            high, open_high = max(value, low), value >= last - slack
        elif which == 0:
            open_low = False
            low_soft = max(low - value, 0.0)
            low = min(max(low, value), high)
        else:
            open_high = False
            high_soft = max(value - high, 0.0)
            high = max(min(high, value), low)
        self.limits = Limits(
            None if open_low else low, None if open_high else high, round(low_soft, 6), round(high_soft, 6)
        )
        self.update()
        self.changed.emit(self.limits)
