"""The shipped icons, in the colours of a theme."""

import functools

from PyQt6.QtCore import QByteArray, QRectF, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer

from hulmo.app.theme import ASSETS, Theme


@functools.cache
def icon(name: str, theme: Theme) -> QIcon:
    """An icon by file name: ink, accent while checked, quiet while disabled."""
    result = QIcon()
    text = (ASSETS / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    for colour, mode, state in (
        (theme.ink, QIcon.Mode.Normal, QIcon.State.Off),
        (theme.accent, QIcon.Mode.Normal, QIcon.State.On),
        (theme.line, QIcon.Mode.Disabled, QIcon.State.Off),
    ):
        renderer = QSvgRenderer(QByteArray(text.replace("currentColor", colour).encode()))
        for side in (20, 40):
            pixmap = QPixmap(QSize(side, side))
            pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(pixmap)
            renderer.render(painter, QRectF(0, 0, side, side))
            painter.end()
            result.addPixmap(pixmap, mode, state)
    return result
