"""Bore: presses set points of a passage, drags move them."""

import numpy as np
from PyQt6.QtCore import QPointF, Qt

from hulmo.app.overlay import Marks
from hulmo.app.tools.controller import Controller, Vector, holds
from hulmo.app.tools.reach import near, shifted


class BoreTool(Controller):
    """Draws the path; `BorePath` holds it."""

    _point: int | None = None
    _last = QPointF()

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._point is not None

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        if self.session.busy:
            return False
        self._last = at
        for i, point in enumerate(self.session.bore.points):
            if near(self.hand.view, point, at):
                self._point = i
                return True
        if self.session.body is None:
            return False
        self.session.bore.press(self.session.body, *self.hand.ray(at), self._on_page(at))
        return True

    def move(self, at: QPointF) -> None:
        """Drag a point: across the view, or with Ctrl the way one looks."""
        step, self._last = at - self._last, at
        bore = self.session.bore
        if self._point is not None and self._point < len(bore.points):
            deep = holds(Qt.KeyboardModifier.ControlModifier)
            bore.move(self._point, shifted(self.hand.view, bore.points[self._point], step, deep))

    def release(self) -> None:
        """See `Controller.release`."""
        self._point = None

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        marks.path = np.array(self.session.bore.points).reshape(-1, 3)

    def _on_page(self, at: QPointF) -> Vector | None:
        # where a ray meets the page of the section: the inside of the solid, laid open
        body, section = self.session.body, self.hand.view.inside.section
        if body is None or section is None or self.hand.find(at) is not None:
            return None
        origin, direction = self.hand.ray(at)
        normal = np.array(section[:3])
        along = float(normal @ direction)
        if abs(along) < 1e-9:
            return None
        point = origin + direction * ((section[3] - float(normal @ origin)) / along)
        return point if body.ray(point, direction) is not None else None
