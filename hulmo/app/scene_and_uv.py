"""The scene and the UV view side by side, with a divide that is dragged."""

import pathlib

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QSplitter, QWidget

from hulmo.app.canvas import Canvas
from hulmo.app.uv_view import UvView


class SceneAndUv(QSplitter):
    """Shows either alone, or both.

    Parameters
    ----------
    canvas : Canvas
    uv_view : UvView

    Signals
    -------
    image_asked
        The user wants to choose an image to lie under the charts.
    """

    image_asked = pyqtSignal()

    def __init__(self, canvas: Canvas, uv_view: UvView, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._canvas, self._uv_view = canvas, uv_view
        uv_view.hide()  # before it is put in: shown in here first, the canvas gets no OpenGL surface
        self.setChildrenCollapsible(False)
        self.addWidget(canvas)
        self.addWidget(uv_view)
        uv_view.closed.connect(lambda: self.show_uv(""))
        uv_view.alone.connect(lambda on: self.show_uv("alone" if on else "beside"))
        uv_view.image_asked.connect(self.image_asked)

    def show_uv(self, how: str) -> None:
        """Show the UV view beside the scene or alone, or hide it: "beside", "alone" or ""."""
        self._uv_view.setVisible(bool(how))
        self._canvas.setVisible(how != "alone")
        self._uv_view.wide.setChecked(how == "alone")
        self._canvas.over.beside_uv = bool(how)
        self._canvas.show_choice()
        if how == "beside":
            self.setSizes([self.width() // 2] * 2)

    def turn_uv(self) -> None:
        """Show the UV view beside the scene, or hide it."""
        self.show_uv("beside" if self._uv_view.isHidden() else "")

    def show_image(self, path: pathlib.Path) -> None:
        """Lay an image under the charts."""
        self._uv_view.show_image(path)
