"""The plane of texture coordinates as a widget: looked at, chosen in, and dragged by grips."""

import math

import moderngl
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from hulmo.app.grips import INK, PALE, Grip, draw_grips
from hulmo.app.theme import TEXT_FONT
from hulmo.app.uv_plane import Place, UvPlane
from hulmo.core.errors import HulmoError
from hulmo.render.context import headless_context
from hulmo.render.uv_picture import UvPicture

ARM, REACH, CLICK = 64.0, 11.0, 3.0
"""Pixels: length of an arm, how near a grip is meant, how far a press may move and still be one."""

TURN = 0.5
"""Degrees that a pixel turns."""

NEAR = 9.0
"""Pixels within which a vertex or an edge is meant."""

CLOSEST, WIDEST = 2e6, 2.0
"""Pixels to a unit."""


class UvSheet(QWidget):
    """Draws a `UvPlane`.

    Signals
    -------
    pressed : object, str
        Numbers of what was pressed, empty for nothing, and the way: set, add or take.
    boxed : object, str
        Numbers of what lies within a box that was dragged, and the way.
    dragged : dict
        Values for `change_uv`: move, turn, scale, about.
    """

    pressed = pyqtSignal(object, str)
    boxed = pyqtSignal(object, str)
    dragged = pyqtSignal(dict)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMinimumSize(180, 180)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Plane of texture coordinates")
        self.setToolTip(
            "Press chooses, Shift adds, Ctrl takes away; drag for a box. Wheel: nearer. Right drag: moves the sheet."
        )
        self.plane: UvPlane | None = None
        self.tool = "choose"
        self.kind = 1
        self.squares = 8
        self.words = ""
        self._scale, self._corner = 300.0, (-0.1, -0.1)
        self._picture: UvPicture | None = None
        self._problem = ""
        self._image = QImage()
        self._stale = True
        self._grip: int | None = None
        self._begin, self._at = QPointF(), QPointF()
        self._panning = self._held = False
        self._way = "set"
        self._drag = np.eye(3)
        self._values: dict[str, object] = {}
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.update)

    # what is shown

    def show_plane(self, plane: UvPlane | None, words: str = "") -> None:
        """Draw another plane; without one, words that say why there is none."""
        self.plane, self.words = plane, words
        self._drag = np.eye(3)
        if self._ready():
            assert self._picture is not None
            self._picture.show(None if plane is None else plane.shown())
        self.refresh()

    def put_under(self, image: NDArray[np.uint8] | None, kind: int) -> None:
        """What lies under the charts: 0 nothing, 1 counted squares, 2 an image, (H, W, 3)."""
        self.kind = kind
        if self._ready():
            assert self._picture is not None
            self._picture.put_under(image)
        self.refresh()

    def refresh(self) -> None:
        """Draw anew, soon."""
        self._stale = True
        self._soon.start()

    def frame(self) -> None:
        """Show the unit square and everything that lies beyond it."""
        low, high = np.zeros(2), np.ones(2)
        if self.plane is not None and self.plane.uv.size:
            low = np.minimum(low, self.plane.uv.min(axis=(0, 1)))
            high = np.maximum(high, self.plane.uv.max(axis=(0, 1)))
        size = np.maximum(high - low, 1e-9)
        self._scale = float(np.clip(0.9 * min(self.width() / size[0], self.height() / size[1]), WIDEST, CLOSEST))
        left, top = (low + high) / 2 - np.array([self.width(), self.height()]) / (2 * self._scale)
        self._corner = float(left), float(top)
        self.refresh()

    def spot(self, at: QPointF) -> Place:
        """Coordinates of a place of the widget."""
        return self._corner[0] + at.x() / self._scale, self._corner[1] + at.y() / self._scale

    def place(self, spot: Place) -> QPointF:
        """Where coordinates lie on the widget."""
        return QPointF((spot[0] - self._corner[0]) * self._scale, (spot[1] - self._corner[1]) * self._scale)

    def grips(self) -> list[Grip]:
        """Arms of the tool in hand; none where nothing is chosen."""
        box = None if self.plane is None or self.tool == "choose" else self.plane.box()
        if box is None:
            return []
        middle = self.place(((box[0][0] + box[1][0]) / 2, (box[0][1] + box[1][1]) / 2))
        moved = self._drag @ np.array([*self._middle(), 1.0])
        if self._grip is not None and self.tool == "move":
            middle = self.place((float(moved[0]), float(moved[1])))
        return [
            Grip(middle, middle + QPointF(ARM, 0), "square", "across", self._grip == 1),
            Grip(middle, middle + QPointF(0, ARM), "triangle", "down", self._grip == 2),
        ]

    # the hand

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Choose, take a grip, or move the sheet."""
        if event is None:
            return
        at = event.position()
        self._begin = self._at = at
        if event.button() in (Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton):
            self._panning = True
            return
        grips = self.grips()
        spots = [grips[0].start, *(grip.end for grip in grips)] if grips else []
        for number, spot in enumerate(spots):
            if math.hypot(spot.x() - at.x(), spot.y() - at.y()) <= REACH:
                self._grip = number
                return
        keys = event.modifiers()
        self._way = "take" if keys & Qt.KeyboardModifier.ControlModifier else "set"
        if keys & Qt.KeyboardModifier.ShiftModifier:
            self._way = "add"
        self._held = True

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Go on."""
        if event is None:
            return
        at = event.position()
        if self._panning:
            step = at - self._at
            self._corner = self._corner[0] - step.x() / self._scale, self._corner[1] - step.y() / self._scale
            self.refresh()
        elif self._grip is not None:
            self._pull(at)
            self.refresh()
        elif self._held:
            self.update()
        self._at = at

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """End."""
        if event is None:
            return
        at, self._at = event.position(), event.position()
        if self._panning:
            self._panning = False
        elif self._grip is not None:
            self._grip = None
            if self._values:
                self.dragged.emit(self._values)
            self._values, self._drag = {}, np.eye(3)
            self.refresh()
        elif self._held and self.plane is not None:
            self._held = False
            if (at - self._begin).manhattanLength() <= CLICK:
                self.pressed.emit(self.plane.under(self.spot(at), NEAR / self._scale), self._way)
            else:
                self.boxed.emit(self.plane.inside(self.spot(self._begin), self.spot(at)), self._way)
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Nearer or further off, about the pointer."""
        if event is None:
            return
        before = self.spot(event.position())
        self._scale = float(np.clip(self._scale * math.exp(event.angleDelta().y() / 480), WIDEST, CLOSEST))
        after = self.spot(event.position())
        self._corner = self._corner[0] + before[0] - after[0], self._corner[1] + before[1] - after[1]
        self.refresh()
        event.accept()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the plane, the unit square, grips and the box."""
        painter = QPainter(self)
        if self._stale:
            self._draw()
        if self._image.isNull():
            painter.fillRect(self.rect(), QColor(214, 209, 196))
        else:
            painter.drawImage(self.rect(), self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(INK, 1.4))
        painter.drawRect(QRectF(self.place((0.0, 0.0)), self.place((1.0, 1.0))))
        grips = self.grips()
        if grips:
            draw_grips(painter, grips, self.tool, _letter)
        if self._held and (self._at - self._begin).manhattanLength() > CLICK:
            painter.setPen(QPen(INK, 1.2, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(self._begin, self._at).normalized())
        if self.words or self._problem:
            painter.setPen(QPen(INK))
            painter.drawText(
                QRectF(self.rect()).adjusted(16, 16, -16, -16), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self._problem or self.words,
            )  # fmt: skip
        painter.end()

    def _middle(self) -> Place:
        box = None if self.plane is None else self.plane.box()
        assert box is not None
        return (box[0][0] + box[1][0]) / 2, (box[0][1] + box[1][1]) / 2

    def _pull(self, at: QPointF) -> None:
        # what the drag amounts to, and the matrix that shows it
        step, arm, about = at - self._begin, self._grip, self._middle()
        turn, scale, move = 0.0, [1.0, 1.0], [0.0, 0.0]
        if self.tool == "move":
            if arm in (0, 1):
                move[0] = step.x() / self._scale
            if arm in (0, 2):
                move[1] = step.y() / self._scale
        elif self.tool == "turn":
            turn = (step.x() - step.y()) * TURN if arm == 0 else step.x() * TURN if arm == 2 else -step.y() * TURN
        else:
            if arm in (0, 1):
                scale[0] = math.exp((step.x() - step.y() * (arm == 0)) / 150)
            if arm in (0, 2):
                scale[1] = scale[0] if arm == 0 else math.exp(step.y() / 150)
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        linear = np.diag(scale) @ np.array([[c, s], [-s, c]])  # counter-clockwise in the image, as the command turns
        self._drag = np.eye(3)
        self._drag[:2, :2] = linear
        self._drag[:2, 2] = np.array(about) + np.array(move) - linear @ np.array(about)
        self._values = {"turn": turn, "scale": tuple(scale), "move": tuple(move), "about": about}

    def release(self) -> None:
        """Free what it draws with; it is made anew when something is shown."""
        if self._picture is not None:
            self._picture.release()
            self._picture, self.plane = None, None

    def _ready(self) -> bool:
        if self._picture is None and not self._problem:
            try:
                self._picture = UvPicture(headless_context())
            except (HulmoError, moderngl.Error) as error:
                self._problem = f"The plane of texture coordinates cannot be drawn here: {error}"
        return self._picture is not None

    def _draw(self) -> None:
        self._stale = False
        if not self._ready() or self.plane is None:
            self._image = QImage()
            return
        assert self._picture is not None
        ratio = self.devicePixelRatioF()
        size = max(16, int(self.width() * ratio)), max(16, int(self.height() * ratio))
        drag = self._drag if self._grip is not None else np.eye(3)
        found = self._picture.picture(size, self._scale * ratio, *self._corner, self.kind, self.squares, drag)
        pixels = np.ascontiguousarray(found)
        self._image = QImage(pixels.tobytes(), size[0], size[1], 3 * size[0], QImage.Format.Format_RGB888).copy()


def _letter(painter: QPainter, at: QPointF, text: str) -> None:
    painter.setFont(QFont(TEXT_FONT, 9))
    for colour, shift in ((PALE, 1.0), (INK, 0.0)):
        painter.setPen(QPen(colour))
        painter.drawText(at + QPointF(shift, shift), text)
