"""A short flight of the camera from where one looks to somewhere else."""

import math
import time
from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer

from hulmo.render.camera import Camera

LASTS = 0.6
"""Seconds."""

FRAME = 15
"""Milliseconds from one picture to the next at the least."""


class Glide(QObject):
    """Takes the camera along; whatever else moves it ends the flight there.

    Parameters
    ----------
    look : callable(Camera)
        Shows what a camera sees.
    """

    def __init__(self, look: Callable[[Camera], None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._look = look
        self._from: Camera | None = None
        self._to: Camera | None = None
        self._last: Camera | None = None
        self._begun = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME)
        self._timer.timeout.connect(self._step)

    @property
    def going(self) -> bool:
        """Whether a flight is under way."""
        return self._timer.isActive()

    def go(self, here: Camera, there: Camera) -> None:
        """Fly; the end is exactly `there`."""
        self._from, self._to, self._last, self._begun = here, there, here, time.monotonic()
        self._timer.start()

    def moved(self, camera: Camera) -> None:
        """Somebody looks from there now."""
        if camera is not self._last:
            self._timer.stop()

    def _step(self) -> None:
        assert self._from is not None and self._to is not None
        share = min((time.monotonic() - self._begun) / LASTS, 1.0)
        if share >= 1.0:
            self._timer.stop()
        self._last = self._to if share >= 1.0 else between(self._from, self._to, share * share * (3.0 - 2.0 * share))
        self._look(self._last)


def between(here: Camera, there: Camera, share: float) -> Camera:
    """A camera on the way from one to another: distances by their ratio, bearings by the shorter way round."""
    turn = math.remainder(there.bearing - here.bearing, 2.0 * math.pi)
    return replace(
        there,
        target=here.target + (there.target - here.target) * share,
        distance=here.distance * (there.distance / here.distance) ** share,
        bearing=here.bearing + turn * share,
        altitude=here.altitude + (there.altitude - here.altitude) * share,
        field=here.field + (there.field - here.field) * share,
        near=min(here.near, there.near),
        far=max(here.far, there.far),
    )
