"""Choosing vertices on the canvas: by click, box, lasso, row and path."""

import numpy as np
from PyQt6.QtCore import QObject, QPointF, pyqtSignal

from hulmo.core.commands import Choose
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.setting import Choice, Setting, Switch, Values, complete
from hulmo.render.camera import Camera
from hulmo.render.outlined import outlined

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "how",
        "Choose by",
        (
            ("click", "Click", "The vertex nearest to the pointer; drag to go over several."),
            ("box", "Box", "All that lies in a box you drag."),
            ("lasso", "Lasso", "All that lies within a line you draw."),
            ("row", "Row", "The row of vertices that an edge belongs to."),
            ("path", "Path", "The way along edges from press to press; Shift begins another one."),
        ),
        "box",
        "What a press on the canvas chooses. Shift adds, Ctrl takes away.",
    ),
    Switch("through", "Through the body", False, "Takes hidden vertices along as well."),
)

NEAR = 3.0
"""Pixels from one point of a lasso to the next."""


class Chooser(QObject):
    """What is being drawn to choose with.

    Signals
    -------
    changed
        The drawn outline is another one.
    chosen : Choose
        A command is ready.
    """

    changed = pyqtSignal()
    chosen = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.values: Values = complete(SETTINGS, {}, "choose")
        self.outline: list[QPointF] = []
        self._way = "set"
        self._last = -1
        self._held = False

    @property
    def held(self) -> bool:
        """Whether something is being drawn."""
        return self._held

    def set_value(self, name: str, value: object) -> None:
        """Another setting; a path begins anew."""
        self.values[name] = value  # type: ignore[assignment]
        self._last = -1
        self.outline = []
        self.changed.emit()

    def press(self, body: Body, at: QPointF, hit: SurfacePoint | None, way: str) -> None:
        """Begin at a point of the canvas; `way` is set, add or take."""
        how = self.values["how"]
        self._way = way
        if how in ("box", "lasso"):
            self._held = True
            self.outline = [at]
        elif hit is not None:
            corners = body.corners.triangles[hit.triangle]
            order = np.argsort(-hit.weights)
            near = int(corners[order[0]])
            if how == "click":
                self._held = True
                self.chosen.emit(Choose(body.name, "rows", way, (near,)))
                self._way = "take" if way == "take" else "add"
            elif how == "row":
                self.chosen.emit(Choose(body.name, "row", way, (near, int(corners[order[1]]))))
            else:
                before, self._last = self._last, near
                if before < 0 or before == near or way == "add":
                    self.chosen.emit(Choose(body.name, "rows", way, (near,)))
                else:
                    self.chosen.emit(Choose(body.name, "path", "take" if way == "take" else "add", (before, near)))
        elif way == "set":
            self._last = -1
            self.chosen.emit(Choose(body.name, "none"))

    def move(self, body: Body, at: QPointF, hit: SurfacePoint | None) -> None:
        """Go on to another point."""
        if self.values["how"] == "click":
            if hit is not None:
                near = int(body.corners.triangles[hit.triangle][np.argmax(hit.weights)])
                self.chosen.emit(Choose(body.name, "rows", self._way, (near,)))
            return
        if self.values["how"] == "box":
            self.outline = [self.outline[0], at]
        elif (at - self.outline[-1]).manhattanLength() >= NEAR:
            self.outline.append(at)
        self.changed.emit()

    def release(self, body: Body, camera: Camera, width: int, height: int) -> None:
        """End: what lies within the outline is chosen."""
        self._held = False
        outline, self.outline = self.outline, []
        self.changed.emit()
        if self.values["how"] not in ("box", "lasso"):
            return
        if len(outline) < 2:
            if self._way == "set":
                self.chosen.emit(Choose(body.name, "none"))
            return
        points = np.array([(point.x(), point.y()) for point in outline])
        rows = outlined(body, points, camera, width, height, bool(self.values["through"]))
        if rows.size or self._way == "set":
            self.chosen.emit(Choose(body.name, "rows" if rows.size else "none", self._way, tuple(rows.tolist())))
