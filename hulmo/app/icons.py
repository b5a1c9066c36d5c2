"""The shipped icons, in the colours of a theme."""

import functools

from PyQt6.QtCore import QByteArray, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QIcon, QIconEngine, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer

from hulmo.app.theme import ASSETS, Theme


@functools.cache
def icon(name: str, theme: Theme) -> QIcon:
    """An icon by file name: ink, accent while checked, quiet while disabled. It is drawn when it is first seen."""
    return QIcon(_Shipped(name, theme))


class _Shipped(QIconEngine):
    """Draws an icon in the size that is asked for, once for every size and colour."""

    def __init__(self, name: str, theme: Theme) -> None:
        super().__init__()
        self._name, self._theme = name, theme
        self._drawn: dict[tuple[int, int, str], QPixmap] = {}

    def clone(self) -> QIconEngine:
        """Another one of the same."""
        return _Shipped(self._name, self._theme)

    def paint(self, painter: QPainter | None, rect: QRect, mode: QIcon.Mode, state: QIcon.State) -> None:
        """Draw it into a rectangle."""
        device = None if painter is None else painter.device()
        if painter is not None and device is not None:
            painter.drawPixmap(rect, self.pixmap(rect.size() * device.devicePixelRatioF(), mode, state))

    def pixmap(self, size: QSize, mode: QIcon.Mode, state: QIcon.State) -> QPixmap:
        """It as a picture of a size."""
        colour = self._theme.accent if state == QIcon.State.On else self._theme.ink
        if mode == QIcon.Mode.Disabled:
            colour = self._theme.line
        key = size.width(), size.height(), colour
        if key not in self._drawn:
            text = (ASSETS / "icons" / f"{self._name}.svg").read_text(encoding="utf-8")
            drawn = QPixmap(size)
            drawn.fill(Qt.GlobalColor.transparent)
            painter = QPainter(drawn)
            QSvgRenderer(QByteArray(text.replace("currentColor", colour).encode())).render(
                painter, QRectF(drawn.rect())
            )
            painter.end()
            self._drawn[key] = drawn
        return self._drawn[key]
