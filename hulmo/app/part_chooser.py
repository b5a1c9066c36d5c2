"""Choosing vertices, edges and faces on the canvas: by click, box, lasso and row."""

import numpy as np
from PyQt6.QtCore import QObject, QPointF, pyqtSignal

from hulmo.core.commands import ChooseParts, Command
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.setting import Choice, Number, Setting, Switch, Values, complete, number
from hulmo.render.camera import Camera
from hulmo.render.outlined import outlined

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "domain",
        "Choose",
        (
            ("face", "Faces", "Triangles."),
            ("edge", "Edges", "What joins two vertices."),
            ("vertex", "Vertices", "Corners of triangles."),
        ),
        "face",
        "What presses on the canvas choose. What was chosen is kept as far as it can be.",
    ),
    Choice(
        "how",
        "By",
        (
            ("click", "Click", "What is under the pointer; drag to go over several."),
            ("box", "Box", "All that lies in a box you drag."),
            ("lasso", "Lasso", "All that lies within a line you draw."),
            ("row", "Row", "The edges that go on straight from the one under the pointer."),
            ("path", "Path", "The shortest way along edges from press to press."),
            ("brush", "Brush", "All that lies under a brush you drag."),
        ),
        "click",
        "How. Shift adds, Ctrl takes away; nothing is ever moved by choosing.",
    ),
    Number(
        "brush",
        "Brush radius",
        "m",
        0.001,
        1000.0,
        1.0,
        "How large the brush is.",
        comfort=(0.05, 10.0),
        curve=3.0,
        only=(("how", "brush"),),
    ),
    Switch(
        "through",
        "Through the body",
        False,
        "Takes what is hidden along as well.",
        only=(("how", "box"), ("how", "lasso")),
    ),
)

NEAR = 3.0
"""Pixels from one point of a lasso to the next."""


class PartChooser(QObject):
    """What is being drawn to choose with.

    Signals
    -------
    changed
        The drawn outline, or what is chosen with, is another one.
    chosen : Command
        A command is ready.
    """

    changed = pyqtSignal()
    chosen = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.values: Values = complete(SETTINGS, {}, "choose")
        self.outline: list[QPointF] = []
        self._way = "set"
        self._held = False
        self._last = -1

    @property
    def domain(self) -> str:
        """vertex, edge or face."""
        return str(self.values["domain"])

    @property
    def held(self) -> bool:
        """Whether something is being drawn."""
        return self._held

    def set_value(self, name: str, value: object) -> None:
        """Another setting."""
        self.values[name] = value  # type: ignore[assignment]
        self.outline, self._last = [], -1
        self.changed.emit()

    def press(self, body: Body, at: QPointF, hit: SurfacePoint | None, way: str) -> None:
        """Begin at a place of the canvas; `way` is set, add or take."""
        self._way, self._held = way, True
        if self.values["how"] in ("box", "lasso"):
            self.outline = [at]
        elif self.values["how"] == "path" and hit is not None:
            self._on_path(body, hit, way)
        elif hit is not None:
            self.chosen.emit(self._under(body, hit, way))
            self._way = "take" if way == "take" else "add"
        elif way == "set":
            self.chosen.emit(ChooseParts(body.name, self.domain, "none"))

    def move(self, body: Body, at: QPointF, hit: SurfacePoint | None) -> None:
        """Go on to another place."""
        if self.values["how"] == "path":
            return
        if self.values["how"] in ("click", "row", "brush"):
            if hit is not None and self.values["how"] != "row":
                self.chosen.emit(self._under(body, hit, self._way))
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
        points = np.array([(point.x(), point.y()) for point in outline]).reshape(-1, 2)
        rows = np.empty(0, np.int32)
        if len(points) > 1:
            rows = outlined(body, points, camera, width, height, bool(self.values["through"]))
        mask = np.zeros(body.vertices.count, np.bool_)
        mask[rows] = True
        these = self._named(body, mask)
        if these or self._way == "set":
            by = "these" if these else "none"
            self.chosen.emit(ChooseParts(body.name, self.domain, by, self._way, these))

    def _under(self, body: Body, hit: SurfacePoint, way: str) -> Command:
        return self._brushed(body, hit, way) if self.values["how"] == "brush" else self._one(body, hit, way)

    def _one(self, body: Body, hit: SurfacePoint, way: str) -> Command:
        rows = body.corners.triangles[hit.triangle]
        if self.values["how"] == "row" or self.domain == "edge":
            across = int(np.argmin(hit.weights))
            ends = (int(rows[(across + 1) % 3]), int(rows[(across + 2) % 3]))
            by = "loop" if self.values["how"] == "row" else "these"
            return ChooseParts(body.name, self.domain, by, way, ends)
        found = hit.triangle if self.domain == "face" else int(rows[np.argmax(hit.weights)])
        return ChooseParts(body.name, self.domain, "these", way, (int(found),))

    def _brushed(self, body: Body, hit: SurfacePoint, way: str) -> Command:
        region = body.grow_region(hit.triangle, body.own(hit.position), number(self.values, "brush"))
        mask = np.zeros(body.vertices.count, np.bool_)
        mask[region.inside] = True
        these = self._named(body, mask)
        return ChooseParts(body.name, self.domain, "these", way, these) if these else self._one(body, hit, way)

    def _on_path(self, body: Body, hit: SurfacePoint, way: str) -> None:
        # from the vertex of the press before to that of this one
        row = int(body.corners.triangles[hit.triangle][np.argmax(hit.weights)])
        before, self._last = self._last, row
        if way == "set" or not 0 <= before < body.vertices.count or before == row:
            if way != "take":
                self.chosen.emit(ChooseParts(body.name, "vertex", "these", "set", (row,)))
            return
        self.chosen.emit(ChooseParts(body.name, self.domain, "path", way, (before, row)))

    def _named(self, body: Body, mask: np.ndarray) -> tuple[int, ...]:
        # what has all its vertices within the outline, as commands name it
        if self.domain == "vertex":
            return tuple(np.flatnonzero(mask).tolist())
        triangles = body.corners.triangles
        there = mask[triangles] & (triangles[:, :1] >= 0)
        if self.domain == "face":
            return tuple(np.flatnonzero(there.all(axis=1)).tolist())
        ends = np.concatenate(
            [triangles[there[:, i] & there[:, j]][:, (i, j)] for i, j in ((0, 1), (1, 2), (2, 0))]
        ).astype(np.int64)
        ends = np.unique(np.sort(ends, axis=1), axis=0)
        return tuple(ends.reshape(-1).tolist())
