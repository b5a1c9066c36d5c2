"""By vertex: presses and drags choose vertices."""

from PyQt6.QtCore import QPointF, Qt

from hulmo.app.overlay import Marks
from hulmo.app.tools.controller import Controller, holds


class ByVertexTool(Controller):
    """Draws what vertices are chosen with; `Chooser` knows what that comes to."""

    shows_vertices = True

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self.session.chooser.held

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        body = self.session.body
        if body is None or self.session.busy:
            return False
        way = "set"
        if holds(Qt.KeyboardModifier.ControlModifier):
            way = "take"
        elif holds(Qt.KeyboardModifier.ShiftModifier):
            way = "add"
        self.session.chooser.press(body, at, self.hand.find(at), way)
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        if self.session.body is not None:
            self.session.chooser.move(self.session.body, at, self.hand.find(at))

    def release(self) -> None:
        """See `Controller.release`."""
        view = self.hand.view
        if self.session.body is not None and self.session.chooser.held:
            self.session.chooser.release(self.session.body, view.camera, view.width(), view.height())

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        marks.outline = self.session.chooser.outline
