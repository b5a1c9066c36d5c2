"""Two pictures of one thing, the one over the other, with a divide that is dragged."""

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QDialog, QVBoxLayout, QWidget

from hulmo.app.label import Label

STEP = 0.02
"""Of the width, that an arrow key moves the divide."""

GRIP = 9
"""Pixels that the grip of the divide is wide to each side."""


class CompareView(QWidget):
    """The first picture left of the divide, the second right of it.

    Parameters
    ----------
    left, right : QImage
        Of one size.
    names : (str, str)
        What each shows.

    Attributes
    ----------
    share : float
        Where the divide stands, 0 to 1.
    """

    def __init__(self, left: QImage, right: QImage, names: tuple[str, str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._left, self._right, self._names = left, right, names
        self.share = 0.5
        self.setMinimumSize(320, 200)
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{names[0]} beside {names[1]}; arrow keys move the divide")

    @property
    def frame(self) -> QRect:
        """Where the pictures are drawn."""
        size = self._left.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRect(QPoint((self.width() - size.width()) // 2, (self.height() - size.height()) // 2), size)

    def move_to(self, share: float) -> None:
        """Put the divide somewhere."""
        self.share = min(max(share, 0.0), 1.0)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """The divide goes where it is pressed."""
        self._follow(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """And where it is dragged."""
        self._follow(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrow keys move it."""
        step = {Qt.Key.Key_Left: -STEP, Qt.Key.Key_Right: STEP}.get(event.key() if event else 0)  # type: ignore[call-overload]
        if step is None:
            super().keyPressEvent(event)
        else:
            self.move_to(self.share + step)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Both pictures, the divide, and what they show."""
        frame = self.frame
        at = frame.left() + round(self.share * frame.width())
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            for image, low, high in ((self._left, frame.left(), at), (self._right, at, frame.right() + 1)):
                painter.setClipRect(QRect(low, frame.top(), max(high - low, 0), frame.height()))
                painter.drawImage(frame, image)
            painter.setClipping(False)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor("#f3eee2"), 2))
            painter.drawLine(at, frame.top(), at, frame.bottom())
            middle = QPointF(at, frame.center().y())
            painter.setBrush(QColor("#3f4a52"))
            painter.drawRoundedRect(QRectF(middle.x() - GRIP, middle.y() - 2 * GRIP, 2 * GRIP, 4 * GRIP), 4, 4)
            for name, left in zip(self._names, (True, False), strict=True):
                room = painter.fontMetrics().boundingRect(name).adjusted(-6, -3, 6, 3)
                room.moveTop(frame.top() + 8)
                room.moveLeft(frame.left() + 8) if left else room.moveRight(frame.right() - 8)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(40, 46, 50, 200))
                painter.drawRoundedRect(room, 3, 3)
                painter.setPen(QColor("#f3eee2"))
                painter.drawText(room, Qt.AlignmentFlag.AlignCenter, name)

    def _follow(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            frame = self.frame
            self.move_to((event.position().x() - frame.left()) / max(frame.width(), 1))


class CompareDialog(QDialog):
    """The same in a window of its own, with what is said of both."""

    def __init__(self, view: CompareView, title: str, told: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.view = view
        self.told = Label(told)
        self.told.setWordWrap(True)
        self.told.setAccessibleName("How far apart they are")
        column = QVBoxLayout(self)
        column.addWidget(view, 1)
        column.addWidget(self.told)
        self.resize(860, 620)
