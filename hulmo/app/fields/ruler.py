"""A slider drawn as a ruler: ticks, and a mark that stands where the value is."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QSlider, QWidget

from hulmo.app.fields.wheel import takes_wheel
from hulmo.app.theme import Theme

STEPS = 1000
MARGIN = 6


class Ruler(QSlider):
    """A horizontal slider from 0 to 1000. Press or drag anywhere; arrow keys step."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self._theme = theme
        self.setRange(0, STEPS)
        self.setSingleStep(10)
        self.setPageStep(100)
        self.setFixedHeight(15)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Ticks along the top, the mark below them."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width() - 2 * MARGIN
        at = MARGIN + width * self.value() / STEPS
        line, ink = QColor(self._theme.line), QColor(self._theme.accent if self.isEnabled() else self._theme.quiet)
        for i in range(21):
            x = MARGIN + width * i / 20
            tall = 6.0 if i % 10 == 0 else (4.5 if i % 5 == 0 else 2.5)
            painter.setPen(ink if x <= at + 0.5 else line)
            painter.drawLine(QPointF(x, 1.0), QPointF(x, 1.0 + tall))
        painter.fillRect(QRectF(MARGIN, 0.0, width, 1.0), line)
        painter.fillRect(QRectF(MARGIN, 0.0, at - MARGIN, 1.6), ink)
        if self.hasFocus():
            painter.setPen(QColor(self._theme.accent))
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1.0, self.height() - 1.0), 3.0, 3.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        size = 5.5 if self.hasFocus() or self.underMouse() else 4.5
        painter.drawPolygon(QPolygonF([QPointF(at, 6.0), QPointF(at - size, 14.0), QPointF(at + size, 14.0)]))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Step only with the keyboard's focus: otherwise the wheel scrolls the card."""
        if takes_wheel(self, event):
            super().wheelEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Jump to where the pointer is."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.setSliderDown(True)
            self._to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Follow the pointer."""
        if event is not None and self.isSliderDown():
            self._to(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        self.setSliderDown(False)

    def _to(self, x: float) -> None:
        share = (x - MARGIN) / max(1, self.width() - 2 * MARGIN)
        self.setValue(round(STEPS * min(1.0, max(0.0, share))))
