"""Small pictures of what viewpoints see, drawn one after the other while nothing else is."""

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QPixmap

from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.objects.viewpoint import VIEWPOINT, viewpoint_of
from hulmo.render.camera import Camera
from hulmo.render.quick_picture import quick_picture

if TYPE_CHECKING:
    from hulmo.app.canvas import Canvas
    from hulmo.app.session import Session

SIDE = 58
"""Pixels of the longer side; drawn twice as large."""

USUAL = 1.6
"""Width over height where a viewpoint says nothing of it."""

PAUSE = 250
"""Milliseconds between two of them."""


class ViewPictures(QObject):
    """Draws them while objects are in hand and the canvas rests.

    Signals
    -------
    drawn : int
        Number of the viewpoint that there is a new picture of.
    """

    drawn = pyqtSignal(int)

    def __init__(self, session: "Session", canvas: "Canvas") -> None:
        super().__init__(canvas)
        self._session, self._canvas = session, canvas
        self._made: dict[int, tuple[Viewpoint, int, QPixmap]] = {}
        self._state = 0
        self._timer = QTimer(self)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self._draw)
        session.changed.connect(lambda change: self._stale() if change.rows or change.fields - {"objects"} else None)
        session.changed.connect(lambda _: self._wake())
        session.replaced.connect(self._forget)
        session.tool_changed.connect(self._wake)

    def of(self, ident: int) -> QPixmap | None:
        """The last one of a viewpoint, by its number."""
        made = self._made.get(ident)
        return None if made is None else made[2]

    def _stale(self) -> None:
        self._state += 1

    def _forget(self) -> None:
        self._made.clear()
        self._wake()

    def _wake(self) -> None:
        if self._session.tool.kind == "objects":
            self._timer.start()
        else:
            self._timer.stop()

    def _draw(self) -> None:
        canvas = self._canvas
        if canvas.picture is None or not canvas.resting or self._session.busy or self._session.history.stroking:
            return
        for entry in self._session.project.objects:
            if entry.kind != VIEWPOINT.name:
                continue
            view, made = viewpoint_of(entry), self._made.get(entry.ident)
            if made is not None and made[:2] == (view, self._state):
                continue
            self._made[entry.ident] = (view, self._state, self._picture(view))
            self.drawn.emit(entry.ident)
            return
        self._timer.stop()

    def _picture(self, view: Viewpoint) -> QPixmap:
        canvas, ratio = self._canvas, view.ratio or USUAL
        width = SIDE if ratio >= 1 else max(16, round(SIDE * ratio))
        size = (2 * width, max(16, round(2 * width / ratio)))
        assert canvas.picture is not None
        canvas.sheet.make_current()
        renderer = canvas.picture.renderer
        pixels = np.ascontiguousarray(
            quick_picture(renderer, Camera.from_viewpoint(view, renderer.bounds()), "lit", size)
        )
        image = QImage(pixels.data, *size, 3 * size[0], QImage.Format.Format_RGB888)  # type: ignore[call-overload]
        made = QPixmap.fromImage(image.copy())
        made.setDevicePixelRatio(2.0)
        return made
