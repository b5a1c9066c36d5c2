"""What is drawn over the scene: brush ring, scale bar, rose, hint."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetrics, QLinearGradient, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hulmo.app.grips import INK, PALE, Grip, draw_grips
from hulmo.app.line_mark import LineMark, draw_line
from hulmo.app.theme import HEAD_FONT, TEXT_FONT
from hulmo.render.camera import Camera
from hulmo.render.looks import Legend

Points = NDArray[np.float64]


@dataclass
class Ring:
    """A brush ring on the surface.

    Attributes
    ----------
    rim, core : (K, 3) float64
        Draped circles, metres; core is empty when there is none.
    stalk : (2, 3) float64
        From the middle toward where the brush pushes.
    label : str
        Radius in metres.
    works : bool
        False when the brush would do nothing here.
    """

    rim: Points
    core: Points
    stalk: Points
    label: str
    works: bool = True


@dataclass
class Marks:
    """All that the overlay shows."""

    camera: Camera | None = None
    ring: Ring | None = None
    twins: list[Points] = field(default_factory=list)
    path: Points = field(default_factory=lambda: np.empty((0, 3)))
    section: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None
    loose: QPointF | None = None
    cursor: QPointF | None = None
    outline: list[QPointF] = field(default_factory=list)
    grips: list[Grip] = field(default_factory=list)
    grip_kind: str = ""
    lines: list[LineMark] = field(default_factory=list)
    hint: str = ""
    depth: float = 1.0
    dark: bool = False
    legend: Legend | None = None


class Overlay(QWidget):
    """A transparent sheet over the canvas; the mouse goes through it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAccessibleName("Marks over the scene")
        self.marks = Marks()
        self._ink = INK
        self._still: object = None
        self._moving = QRectF()

    def refresh(self) -> None:
        """Paint anew what has changed: where ring and marks were and are; all of it where anything else has."""
        marks = self.marks
        still = (
            None if marks.camera is None else marks.camera.key(),
            self.size(), marks.hint, marks.depth, marks.dark, marks.legend, marks.path.tobytes(), str(marks.outline),
            str(marks.grips), tuple((line.places.tobytes(), line.points.tobytes(), line.seen.tobytes(), line.held,
                                     line.chosen, line.corner.tobytes()) for line in marks.lines),
            None if marks.section is None else (marks.section[0].tobytes(), marks.section[1].tobytes()),
        )  # fmt: skip
        before, self._moving = self._moving, self._reach()
        if still != self._still:
            self._still = still
            self.update()
        else:
            self.update(before.united(self._moving).toAlignedRect())

    def _reach(self) -> QRectF:
        # what ring and marks cover
        marks, camera = self.marks, self.marks.camera
        out = QRectF()
        for spot in (marks.loose, marks.cursor):
            if spot is not None:
                out = out.united(QRectF(spot.x() - 20, spot.y() - 20, 40, 40))
        if camera is None:
            return out
        shapes = [] if marks.ring is None else [marks.ring.rim, marks.ring.core, marks.ring.stalk]
        for points in (*shapes, *marks.twins):
            outline = self._polygon(camera, points)
            if outline is not None:
                out = out.united(outline.boundingRect())
        wide = 0 if marks.ring is None else 20 + 8 * len(marks.ring.label)  # beside the ring
        return out.adjusted(-6, -20, wide, 20) if not out.isEmpty() else out

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the marks."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        camera = self.marks.camera
        region = QRectF(self.rect()) if event is None else QRectF(event.rect())
        if camera is not None:
            if self.marks.ring is not None:
                self._ring(painter, camera, self.marks.ring)
                painter.setPen(QPen(QColor(250, 247, 238, 190), 1.2, Qt.PenStyle.DashLine))
                for rim in self.marks.twins:
                    outline = self._polygon(camera, rim)
                    if outline is not None:
                        painter.drawPolygon(outline)
            self._path(painter, camera, self.marks.path)
            for line in self.marks.lines:
                draw_line(painter, camera, line, self.width(), self.height())
            if self.marks.section is not None:
                self._section(painter, camera, *self.marks.section)
            self._ink = PALE if self.marks.dark else INK
            if region.intersects(QRectF(0, self.height() - 60, 260, 60)):
                self._scale(painter, camera)
            if region.intersects(QRectF(self.width() - 90, 0, 90, 100)):
                self._rose(painter, camera)
        if self.marks.legend is not None:
            self._legend(painter, self.marks.legend)
        if len(self.marks.outline) > 1:
            self._outline(painter, self.marks.outline)
        if self.marks.grips:
            draw_grips(painter, self.marks.grips, self.marks.grip_kind, self._text)
        if self.marks.loose is not None:
            painter.setPen(QPen(QColor(120, 120, 112, 150), 1.2, Qt.PenStyle.DotLine))
            painter.drawEllipse(self.marks.loose, 13.0, 13.0)
        if self.marks.cursor is not None:
            self._cursor(painter, self.marks.cursor)
        if self.marks.hint:
            self._hint(painter, self.marks.hint)
        painter.end()

    def _ring(self, painter: QPainter, camera: Camera, ring: Ring) -> None:
        strong = 235 if ring.works else 90
        rim = self._polygon(camera, ring.rim)
        if rim is None:
            return
        for colour, width in ((QColor(22, 32, 33, strong // 2), 3.6), (QColor(250, 247, 238, strong), 1.7)):
            painter.setPen(QPen(colour, width))
            painter.drawPolygon(rim)
        core = self._polygon(camera, ring.core)
        if core is not None:
            painter.setPen(QPen(QColor(22, 32, 33, strong // 3), 2.6))
            painter.drawPolygon(core)
            painter.setPen(QPen(QColor(250, 247, 238, strong * 3 // 4), 1.0, Qt.PenStyle.DashLine))
            painter.drawPolygon(core)
        stalk = self._polygon(camera, ring.stalk)
        if stalk is not None and ring.works:
            for colour, width in ((QColor(22, 32, 33, 130), 3.6), (QColor(250, 247, 238, 235), 1.8)):
                painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
                painter.drawLine(stalk.at(0), stalk.at(1))
            painter.setBrush(PALE)
            painter.drawEllipse(stalk.at(1), 2.2, 2.2)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        box = rim.boundingRect()
        self._text(painter, QPointF(box.right() + 8, box.center().y() + 4), ring.label)

    def _cursor(self, painter: QPainter, at: QPointF) -> None:
        # where keys point: four strokes toward the spot, with room between them to see it
        for colour, width in ((QColor(22, 32, 33, 200), 4.2), (PALE, 2.0)):
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            for x, y in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                painter.drawLine(at + QPointF(6.0 * x, 6.0 * y), at + QPointF(13.0 * x, 13.0 * y))

    def _polygon(self, camera: Camera, points: Points) -> QPolygonF | None:
        if points.shape[0] < 2:
            return None
        seen = camera.to_screen(points, self.width(), self.height())
        if (seen[:, 2] <= camera.near * 0.5).any():
            return None
        return QPolygonF([QPointF(float(x), float(y)) for x, y, _ in seen])

    def _path(self, painter: QPainter, camera: Camera, path: Points) -> None:
        if not path.size:
            return
        seen = camera.to_screen(path, self.width(), self.height())
        spots = [QPointF(float(x), float(y)) for x, y, z in seen if z > camera.near]
        for colour, width in ((QColor(22, 32, 33, 160), 4.0), (PALE, 1.8)):
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawPolyline(QPolygonF(spots))
            for spot in spots:
                painter.drawRect(QRectF(spot.x() - 3, spot.y() - 3, 6, 6))

    def _section(self, painter: QPainter, camera: Camera, normal: Points, middle: Points) -> None:
        # the handle of the section plane: a disc, and a bar across the plane
        away = float((camera.eye - middle) @ camera.back)
        size = camera.metres_per_pixel(max(away, 1e-3), self.height())
        ends = np.stack((middle, middle - normal * 26 * size, middle + normal * 26 * size))
        seen = camera.to_screen(ends, self.width(), self.height())
        if (seen[:, 2] <= camera.near).any():
            return
        spots = [QPointF(float(x), float(y)) for x, y, _ in seen]
        for colour, width in ((QColor(22, 32, 33, 170), 4.6), (PALE, 2.2)):
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(spots[1], spots[2])
        painter.setPen(QPen(QColor(22, 32, 33, 200), 1.4))
        painter.setBrush(PALE)
        painter.drawEllipse(spots[0], 6.5, 6.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _text(self, painter: QPainter, at: QPointF, text: str) -> None:
        painter.setFont(QFont(TEXT_FONT, 10, QFont.Weight.DemiBold))
        painter.setPen(QColor(22, 32, 33, 170))
        for dx, dy in ((-1, 0), (1, 0), (0, -1), (0, 1)):
            painter.drawText(at + QPointF(dx, dy), text)
        painter.setPen(PALE)
        painter.drawText(at, text)

    def _scale(self, painter: QPainter, camera: Camera) -> None:
        # the bar is true at the depth of what stands in the middle of the picture
        size = camera.metres_per_pixel(self.marks.depth, self.height())
        wanted = size * 130
        base = 10.0 ** math.floor(math.log10(wanted))
        length = next(base * step for step in (5, 2, 1) if base * step <= wanted)
        pixels = length / size
        left, low = 20.0, self.height() - 20.0
        painter.setPen(QPen(self._ink, 1.0))
        for i in range(4):
            painter.setBrush(INK if i % 2 == 0 else PALE)
            painter.drawRect(QRectF(left + pixels * i / 4, low - 5, pixels / 4, 5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._text(painter, QPointF(left, low - 11), f"{length:g} m")

    def _outline(self, painter: QPainter, points: list[QPointF]) -> None:
        for colour, width in ((QColor(22, 32, 33, 120), 3.0), (QColor(250, 247, 238, 230), 1.4)):
            painter.setPen(QPen(colour, width, Qt.PenStyle.DashLine))
            if len(points) == 2:
                painter.drawRect(QRectF(points[0], points[1]).normalized())
            else:
                painter.drawPolygon(QPolygonF(points))

    def _key(self, painter: QPainter, legend: Legend) -> None:
        rows, wide = -(-len(legend.key) // 2), 134.0
        left, top = self.width() - 2 * wide - 24.0, self.height() - 40.0 - 17.0 * rows
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(250, 247, 238, 215))
        painter.drawRoundedRect(QRectF(left, top, 2 * wide + 14, 30 + 17.0 * rows), 6, 6)
        painter.setFont(QFont(TEXT_FONT, 9, QFont.Weight.DemiBold))
        painter.setPen(INK)
        painter.drawText(QRectF(left + 10, top + 5, 250, 18), Qt.AlignmentFlag.AlignLeft, legend.title)
        font = QFont(TEXT_FONT, 9)
        painter.setFont(font)
        for i, (colour, text) in enumerate(legend.key):
            x, y = left + 10 + wide * (i // rows), top + 25 + 17.0 * (i % rows)
            painter.setPen(QPen(INK, 0.8))
            painter.setBrush(QColor.fromRgbF(*colour))
            painter.drawRect(QRectF(x, y, 11, 11))
            short = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(wide) - 22)
            painter.drawText(QRectF(x + 16, y - 3, wide - 18, 18), Qt.AlignmentFlag.AlignLeft, short)

    def _legend(self, painter: QPainter, legend: Legend) -> None:
        if legend.key and not legend.ramp:
            self._key(painter, legend)
            return
        more = 20.0 if legend.key else 0.0
        width, left, top = 240.0, self.width() - 264.0, self.height() - 46.0 - more
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(250, 247, 238, 205))
        painter.drawRoundedRect(QRectF(left - 12, top - 26, width + 24, 64 + more), 6, 6)
        painter.setPen(QPen(INK, 0.8))
        if legend.ramp:
            shades = QLinearGradient(left, 0, left + width, 0)
            for i, colour in enumerate(legend.ramp):
                shades.setColorAt(i / (len(legend.ramp) - 1), QColor.fromRgbF(*colour))
            painter.setBrush(shades)
            painter.drawRect(QRectF(left, top, width, 12))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(QFont(TEXT_FONT, 9, QFont.Weight.DemiBold))
        painter.setPen(INK)
        painter.drawText(QRectF(left, top - 22, width, 18), Qt.AlignmentFlag.AlignLeft, legend.title)
        painter.setFont(QFont(TEXT_FONT, 9))
        painter.drawText(QRectF(left, top - 22, width, 18), Qt.AlignmentFlag.AlignRight, legend.note)
        for place, text in legend.marks:
            x = left + width * place
            painter.drawLine(QPointF(x, top + 12), QPointF(x, top + 16))
            room = QRectF(x - 60, top + 17, 120, 16)
            side = Qt.AlignmentFlag.AlignHCenter
            if place < 0.1:
                room, side = QRectF(left, top + 17, 120, 16), Qt.AlignmentFlag.AlignLeft
            elif place > 0.9:
                room, side = QRectF(left + width - 120, top + 17, 120, 16), Qt.AlignmentFlag.AlignRight
            painter.drawText(room, side, text)
        for i, (colour, text) in enumerate(legend.key):  # single colours beside the ramp, in one line
            x, y = left + width / len(legend.key) * i, top + 39
            painter.setBrush(QColor.fromRgbF(*colour))
            painter.drawRect(QRectF(x, y, 11, 11))
            painter.drawText(QRectF(x + 16, y - 3, width, 18), Qt.AlignmentFlag.AlignLeft, text)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _rose(self, painter: QPainter, camera: Camera) -> None:
        centre = QPointF(self.width() - 48.0, 50.0)
        painter.setPen(QPen(QColor(22, 32, 33, 60), 1.0))
        painter.setBrush(QColor(250, 247, 238, 60))
        painter.drawEllipse(centre, 32.0, 32.0)
        for text, axis in (("N", (0.0, 0.0, -1.0)), ("E", (1.0, 0.0, 0.0)), ("up", (0.0, 1.0, 0.0))):
            across, upward = float(camera.right @ axis), float(camera.up @ axis)
            toward = float(camera.back @ axis)
            tip = centre + QPointF(across * 19.0, -upward * 19.0)
            shade = 235 if toward > -0.3 else 120
            ink = QColor(self._ink)
            ink.setAlpha(shade)
            painter.setPen(QPen(ink, 2.2 if text == "N" else 1.3))
            painter.drawLine(centre, tip)
            painter.setFont(QFont(HEAD_FONT, 9))
            # what points away stands a little higher, so that two letters never fall together
            spot = centre + QPointF(
                across * 27.0, -upward * 24.0 - (0 if text == "up" else 6.0 * (-1 if toward > 0 else 1))
            )
            painter.drawText(QRectF(spot.x() - 12, spot.y() - 9, 24, 18), Qt.AlignmentFlag.AlignCenter, text)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _hint(self, painter: QPainter, text: str) -> None:
        painter.setFont(QFont(HEAD_FONT, 15))
        painter.setPen(QColor(90, 92, 86))
        painter.drawText(QRectF(0, 0, self.width(), self.height()), Qt.AlignmentFlag.AlignCenter, text)
