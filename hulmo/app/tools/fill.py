"""Fill: a press says where."""

from PyQt6.QtCore import QPointF, pyqtSignal

from hulmo.app.tools.controller import Controller


class FillTool(Controller):
    """Hands the surface point that was pressed to whoever fills.

    Signals
    -------
    filled : SurfacePoint
    """

    filled = pyqtSignal(object)

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        if self.session.busy:
            return False
        hit = self.hand.find(at)
        if hit is not None:
            self.filled.emit(hit)
        return hit is not None
