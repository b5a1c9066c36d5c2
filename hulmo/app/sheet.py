"""Where the canvas's picture appears: drawn by a graphics card straight onto the window, or by the processor beside it.

A window that holds an OpenGL widget is put together by OpenGL as a whole, whatever of it has changed. Where the processor
does OpenGL's work that takes long, so pictures are then drawn off screen, and only what has changed is copied.
"""

from collections.abc import Callable
from typing import Protocol

import moderngl
import numpy as np
from PyQt6.QtCore import QCoreApplication, QEvent, QPoint, QRect, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QWidget

from hulmo.core.errors import HulmoError
from hulmo.render.context import headless_context, is_software
from hulmo.render.part import Part


class Drawing(Protocol):
    """What a sheet shows: the canvas."""

    def begin(self, context: moderngl.Context) -> None:
        """The context is there."""

    def none(self, problem: str) -> None:
        """There will be no context."""

    def compose(self, size: tuple[int, int]) -> None:
        """Draw what is to be shown, in pixels of the screen; the context is current."""

    def copy(self, target: moderngl.Framebuffer, kept: bool) -> Part | None:
        """Put it into a framebuffer, which has kept the last one or not; what has changed, None for all of it."""

    def done(self) -> None:
        """It is on the screen."""


class CardSheet(QOpenGLWidget):
    """Drawn by a graphics card."""

    def __init__(self, drawing: Drawing, parent: QWidget) -> None:
        super().__init__(parent)
        self.setUpdateBehavior(QOpenGLWidget.UpdateBehavior.PartialUpdate)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._drawing = drawing
        self._context: moderngl.Context | None = None
        self._kept: tuple[int, int, int] | None = None

    def request(self) -> None:
        """Compose, and show, soon."""
        self.update()

    def make_current(self) -> None:
        """OpenGL commands go to the sheet's context."""
        self.makeCurrent()

    def grab_picture(self) -> QImage:
        """What it shows."""
        return self.grabFramebuffer()

    def release(self) -> None:
        """Nothing is drawn any more; Qt frees what its context holds."""
        self._context = None

    def initializeGL(self) -> None:
        """Called by Qt once the context is there."""
        try:
            self._context = moderngl.create_context(require=330)
        except Exception as error:  # moderngl raises bare Exceptions
            self._drawing.none(str(error))
            return
        self._drawing.begin(self._context)

    def paintGL(self) -> None:
        """Called by Qt."""
        if self._context is None:
            return
        ratio = self.devicePixelRatioF()
        self._drawing.compose((max(16, int(self.width() * ratio)), max(16, int(self.height() * ratio))))
        target = self._context.detect_framebuffer(self.defaultFramebufferObject())
        here = (self.defaultFramebufferObject(), *target.size)
        self._drawing.copy(target, here == self._kept)
        self._kept = here
        self._drawing.done()


class ProcessorSheet(QWidget):
    """Drawn by the processor, off screen; only what has changed is copied to the window."""

    _asked = pyqtSignal()

    def __init__(self, drawing: Drawing, context: moderngl.Context, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._drawing, self._context = drawing, context
        self._target: moderngl.Framebuffer | None = None
        self._pixels = np.empty((0, 0, 4), np.uint8)
        self._image = QImage()
        """Shows the pixels, which must live as long."""
        self._begun = self._released = False
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._compose)

    def request(self) -> None:
        """Compose, and show, soon."""
        if self.isVisible() and not self._soon.isActive():
            self._soon.start()

    def make_current(self) -> None:
        """OpenGL commands go to the sheet's context."""
        if not self._released:
            self._context.__enter__()

    def grab_picture(self) -> QImage:
        """What it shows."""
        if self._soon.isActive():
            self._soon.stop()
            self._compose()
        return self._image.copy()

    def release(self) -> None:
        """Free the context and all that it holds; nothing is drawn any more."""
        self._soon.stop()
        self._context.release()
        self._released = True

    def showEvent(self, event: QShowEvent | None) -> None:
        """Draw for the first time."""
        super().showEvent(event)
        self.request()

    def event(self, event: QEvent | None) -> bool:
        """A screen of another density wants another picture."""
        if event is not None and event.type() == QEvent.Type.DevicePixelRatioChange:
            self.request()
        return super().event(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Copy what is there of the picture."""
        painter = QPainter(self)
        if self._image.isNull():
            painter.fillRect(self.rect(), QColor(128, 128, 128))
        elif event is not None:
            ratio = self._image.devicePixelRatio()
            rect = event.rect()
            source = QRect(
                int(rect.x() * ratio), int(rect.y() * ratio), int(rect.width() * ratio), int(rect.height() * ratio)
            )
            painter.drawImage(rect, self._image, source)
        painter.end()

    def _compose(self) -> None:
        if not self.isVisible() or self._released:
            return
        self.make_current()
        if not self._begun:
            self._begun = True
            self._drawing.begin(self._context)
        ratio = self.devicePixelRatioF()
        size = (max(16, int(self.width() * ratio)), max(16, int(self.height() * ratio)))
        self._drawing.compose(size)
        kept = self._target is not None and self._target.size == size
        if not kept:
            if self._target is not None:
                for part_of_it in self._target.color_attachments:
                    part_of_it.release()
                self._target.release()
            self._target = self._context.framebuffer([self._context.renderbuffer(size, 4)])
            self._pixels = np.empty((size[1], size[0], 4), np.uint8)
            self._image = QImage(self._pixels.data, *size, 4 * size[0], QImage.Format.Format_RGBX8888)  # type: ignore[call-overload]
            self._image.setDevicePixelRatio(ratio)
        assert self._target is not None
        part = self._drawing.copy(self._target, kept) or Part.whole(size)
        if part.area:
            self._take(part, size[1])
            top = size[1] - part.y - part.height
            self.update(
                QRect(
                    QPoint(int(part.x / ratio), int(top / ratio)),
                    QPoint(int((part.x + part.width) / ratio) + 1, int((top + part.height) / ratio) + 1),
                )
            )
        window = self.window()
        if window is not None:  # all that is to be painted anew, at once: what is told next is on the screen
            QCoreApplication.sendPostedEvents(window, QEvent.Type.UpdateRequest.value)
        self._drawing.done()

    def _take(self, part: Part, height: int) -> None:
        assert self._target is not None
        data = self._target.read(viewport=part.box, components=4, alignment=4)
        rows = np.frombuffer(data, np.uint8).reshape(part.height, part.width, 4)[::-1]
        top = height - part.y - part.height
        self._pixels[top : top + part.height, part.x : part.x + part.width] = rows


Sheet = CardSheet | ProcessorSheet


def make_sheet(drawing: Drawing, parent: QWidget, probe: Callable[[], moderngl.Context] = headless_context) -> Sheet:
    """The sheet that suits this machine."""
    try:
        context = probe()
    except HulmoError:
        return CardSheet(drawing, parent)
    if is_software(context):
        return ProcessorSheet(drawing, context, parent)
    context.release()
    return CardSheet(drawing, parent)
