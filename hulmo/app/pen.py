"""The pen: what a tablet event says, and the practice pen that plays recorded strokes."""

import json
import math
from dataclasses import dataclass

from PyQt6.QtCore import QCoreApplication, QEvent, QObject, QPointF, Qt, QTimer
from PyQt6.QtGui import QInputDevice, QPointingDevice, QPointingDeviceUniqueId, QTabletEvent
from PyQt6.QtWidgets import QWidget

from hulmo.app.theme import ASSETS
from hulmo.app.tools.controller import Touch

SPREAD = 0.45
"""Size of a played stroke, as a share of the smaller side of the canvas."""


def touch_of(event: QTabletEvent) -> Touch:
    """Pressure and lean of a tablet event."""
    x, y = math.tan(math.radians(event.xTilt())), math.tan(math.radians(event.yTilt()))
    return Touch(min(max(event.pressure(), 0.0), 1.0), min(90.0, math.degrees(math.atan(math.hypot(x, y)))))


@dataclass(frozen=True)
class PenStroke:
    """A recorded pen stroke.

    Attributes
    ----------
    name, label : str
    samples : tuple of (ms, x, y, pressure, x_tilt, y_tilt)
        Milliseconds from the first one; place in a square from -1 to 1, y downward; pressure 0 to 1; tilts in degrees.
    """

    name: str
    label: str
    samples: tuple[tuple[float, ...], ...]


def pen_strokes() -> list[PenStroke]:
    """The shipped strokes."""
    data = json.loads((ASSETS / "pen_strokes.json").read_text(encoding="utf-8"))
    return [PenStroke(e["name"], e["label"], tuple(tuple(sample) for sample in e["samples"])) for e in data]


def practice_device() -> QPointingDevice:
    """A pen that is not there, for events that look like those of a real one."""
    capabilities = QInputDevice.Capability
    return QPointingDevice(
        "Practice pen",
        1,
        QInputDevice.DeviceType.Stylus,
        QPointingDevice.PointerType.Pen,
        capabilities.Position | capabilities.Pressure | capabilities.XTilt | capabilities.YTilt,
        1,
        1,
        "",
        QPointingDeviceUniqueId(),
    )


class PracticePen(QObject):
    """Plays a stroke on a widget as tablet events, as fast as it was drawn."""

    def __init__(self, target: QWidget, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._target = target
        self._device = practice_device()
        self._samples: list[tuple[float, ...]] = []
        self._done = 0
        self._middle = QPointF()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._next)

    @property
    def playing(self) -> bool:
        """Whether a stroke is under way."""
        return self._done < len(self._samples)

    def play(self, stroke: PenStroke, middle: QPointF | None = None) -> None:
        """Play a stroke around a place on the widget, its middle when left out."""
        if self.playing:
            return
        self._samples = list(stroke.samples)
        self._done = 0
        self._middle = middle or QPointF(self._target.width() / 2, self._target.height() / 2)
        self._next()

    def _next(self) -> None:
        last = len(self._samples) - 1
        sample = self._samples[self._done]
        kind = QEvent.Type.TabletMove
        if self._done == 0:
            kind = QEvent.Type.TabletPress
        elif self._done == last:
            kind = QEvent.Type.TabletRelease
        self._send(kind, sample)
        self._done += 1
        if self._done <= last:
            self._timer.start(max(0, round(self._samples[self._done][0] - sample[0])))

    def _send(self, kind: QEvent.Type, sample: tuple[float, ...]) -> None:
        _, x, y, pressure, x_tilt, y_tilt = sample
        size = SPREAD * min(self._target.width(), self._target.height())
        at = self._middle + QPointF(x * size, y * size)
        held = Qt.MouseButton.NoButton if kind == QEvent.Type.TabletRelease else Qt.MouseButton.LeftButton
        event = QTabletEvent(
            kind, self._device, at, self._target.mapToGlobal(at), pressure, x_tilt, y_tilt, 0.0, 0.0, 0.0,
            Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton, held,
        )  # fmt: skip
        QCoreApplication.sendEvent(self._target, event)
