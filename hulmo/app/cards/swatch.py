"""One ground of the palette: a patch of its texture and its name."""

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontMetrics, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hulmo.app.label import plain_tip
from hulmo.app.theme import TEXT_FONT, Theme
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.textures import StoredTextures, encoded_part

PATCH = 40


class Swatch(QWidget):
    """A patch that can be chosen by mouse, Space or Enter.

    Signals
    -------
    chosen
        The user wants this ground in hand.
    """

    chosen = pyqtSignal()

    def __init__(self, name: str, patch: QImage, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("swatch")
        self.name = name
        self._patch = patch
        self._theme = theme
        self._checked = False
        self._locked = False
        self.setFixedSize(62, PATCH + 18)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Ground {name}")
        self.setToolTip(plain_tip(f"{name}: press to take it in hand"))

    def set_checked(self, on: bool) -> None:
        """Frame it, or not."""
        self._checked = on
        self.update()

    def set_locked(self, on: bool) -> None:
        """Show a lock on it, or not."""
        if on != self._locked:
            self._locked = on
            self.update()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Patch, frame, name."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(2, 2, self.width() - 4, PATCH)
        painter.drawImage(
            box, self._patch, QRectF(0, 0, self._patch.width(), self._patch.width() * PATCH / box.width())
        )
        if self._checked:
            painter.setPen(QPen(QColor(self._theme.page), 1.5))
            painter.drawRect(box.adjusted(2, 2, -2, -2))
            painter.setPen(QPen(QColor(self._theme.accent), 3))
            painter.drawRect(box)
        elif self.hasFocus():
            painter.setPen(QPen(QColor(self._theme.accent), 1))
            painter.drawRect(box)
        if self._locked:
            spot = QRectF(box.right() - 15, box.top() + 3, 12, 13)
            painter.setPen(QPen(QColor(self._theme.ink), 1.4))
            painter.setBrush(QColor(self._theme.page))
            painter.drawArc(spot.adjusted(3, 0, -3, -3), 0, 180 * 16)
            painter.drawRect(spot.adjusted(1, 5, -1, 0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        font = QFont(TEXT_FONT)
        font.setPixelSize(11)
        font.setWeight(QFont.Weight.DemiBold if self._checked else QFont.Weight.Normal)
        painter.setFont(font)
        painter.setPen(QColor(self._theme.ink if self._checked else self._theme.quiet))
        text = QFontMetrics(font).elidedText(self.name, Qt.TextElideMode.ElideRight, self.width() - 2)
        painter.drawText(QRectF(0, PATCH + 4, self.width(), 14), Qt.AlignmentFlag.AlignHCenter, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose it."""
        self.setFocus()
        self.chosen.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Choose it by keyboard."""
        if event is not None and event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit()
        else:
            super().keyPressEvent(event)


def thumbnail(ground: Ground, stored: StoredTextures) -> QImage:
    """A small tinted patch of a ground's texture; plain grey where it cannot be read."""
    plain = not ground.texture or "albedo" in ground.plain
    try:
        data = None if plain else encoded_part(ground.texture, "albedo", stored)
    except FileProblem:
        data = None
    image = QImage.fromData(data or b"")
    if image.isNull():
        image = QImage(64, 64, QImage.Format.Format_RGB32)
        image.fill(QColor(ground.colour) if plain else QColor(128, 128, 128))
    image = image.scaled(
        128, 128, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
    ).convertToFormat(QImage.Format.Format_RGB32)
    painter = QPainter(image)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
    painter.fillRect(image.rect(), QColor(ground.tint))
    painter.end()
    return image
